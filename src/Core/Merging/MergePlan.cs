using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Merging;

/// <summary>One of the two members a merge is about.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Fields">What is written down of them; a field that is missing is empty.</param>
public sealed record MergeSide(Guid Id, string Name, IReadOnlyDictionary<MergeField, FieldValue> Fields)
{
    /// <summary>The seats they hold.</summary>
    public IReadOnlyList<SeatHeld> Seats { get; init; } = [];

    /// <summary>What stands in a field.</summary>
    public FieldValue Of(MergeField field) => Fields.GetValueOrDefault(field, FieldValue.Empty);
}

/// <summary>Two members of a workspace that are to become one, and all that hangs on the one who goes.</summary>
/// <param name="World">Who may do what; both are in it.</param>
/// <param name="Day">Today in the workspace's time zone.</param>
/// <param name="Kept">The member who stays.</param>
/// <param name="Other">The member who goes.</param>
public sealed record MergeFacts(AccessWorld World, DateOnly Day, MergeSide Kept, MergeSide Other)
{
    /// <summary>What passes on, or stops, with the other: every step but those of fields, access and seats.</summary>
    public IReadOnlyList<MergeStep> Hanging { get; init; } = [];
}

/// <summary>What somebody wants of a merge beyond what is proposed.</summary>
/// <param name="Take">The fields of which the other's value is to be taken.</param>
/// <param name="WithGains">Whether everything is to be given that neither could do before.</param>
/// <param name="Gains">The steps that are to be done although they give what neither could do; see <see cref="MergeStep.Key"/>.</param>
public sealed record MergeWish(
    IReadOnlySet<MergeField> Take,
    bool WithGains = false,
    IReadOnlySet<string>? Gains = null
)
{
    /// <summary>What is proposed, and nothing that neither could do before.</summary>
    public static MergeWish Nothing { get; } = new(new HashSet<MergeField>());

    /// <summary>Whether a step is opted for, whatever it gives.</summary>
    public bool OptsFor(MergeStep step) => WithGains || Gains?.Contains(step.Key) == true;
}

/// <summary>
/// How two members of a workspace become one. Every step that would let the merged member do what neither could before is
/// left undone, unless somebody opts for it. The list of steps is the plan, the deed, what is kept of it, and what is undone.
/// </summary>
/// <param name="Choices">Every field side by side.</param>
/// <param name="Steps">What is done, and what is left undone, in this order.</param>
/// <param name="Losses">What one of the two could do that the merged member cannot.</param>
/// <param name="After">Who may do what then: the other is not here any more.</param>
public sealed record MergePlan(
    IReadOnlyList<MergeChoice> Choices,
    IReadOnlyList<MergeStep> Steps,
    IReadOnlyList<string> Losses,
    AccessWorld After
)
{
    /// <summary>Plans it.</summary>
    /// <param name="facts">The two, and what hangs on the other.</param>
    /// <param name="wish">What is wanted beyond what is proposed.</param>
    /// <param name="newId">Makes ids for what is given anew.</param>
    public static MergePlan For(MergeFacts facts, MergeWish wish, Func<Guid> newId) =>
        new Planning(facts, wish, newId).Plan();

    /// <summary>Whether staff and outsider are one human here, which may well be meant: a sentence; null where it is not so.</summary>
    public static string? TwoCapacities(MergeSide one, MergeSide other)
    {
        var (left, right) = (one.Of(MergeField.Kind).Text, other.Of(MergeField.Kind).Text);
        return left == right
            ? null
            : $"{one.Name} is here as {left} and as {right}: one person may have two capacities on purpose. "
                + "Merged, one of them is left; kept apart, each ends by itself.";
    }

    /// <summary>Who stays where nobody says: staff, else who was here last, else who came first; with the reason.</summary>
    public static (bool KeepsFirst, string Why) WhoStays(
        (Kind Kind, DateTimeOffset? LastSeenAt, DateTimeOffset JoinedAt) first,
        (Kind Kind, DateTimeOffset? LastSeenAt, DateTimeOffset JoinedAt) second
    ) =>
        (first.Kind == Kind.Staff) != (second.Kind == Kind.Staff) ? (first.Kind == Kind.Staff, "staff here")
        : first.LastSeenAt != second.LastSeenAt
            ? (
                (first.LastSeenAt ?? DateTimeOffset.MinValue)
                    > (second.LastSeenAt ?? DateTimeOffset.MinValue),
                "used last"
            )
        : (first.JoinedAt <= second.JoinedAt, "here longest");

    private sealed class Planning
    {
        private readonly MergeFacts _facts;
        private readonly MergeWish _wish;
        private readonly Func<Guid> _newId;
        private readonly AccessGauge _gauge;
        private readonly Person _other;
        private readonly List<MergeStep> _steps = [];
        private AccessWorld _world;

        public Planning(MergeFacts facts, MergeWish wish, Func<Guid> newId)
        {
            (_facts, _wish, _newId) = (facts, wish, newId);
            _gauge = new AccessGauge(facts.World, facts.Kept.Id, facts.Other.Id, facts.Day);
            _other = facts.World.People[facts.Other.Id];
            _world = facts.World.Without(_other.Id);
        }

        private Person Kept => _world.People[_facts.Kept.Id];

        public MergePlan Plan()
        {
            var choices = MergeFields.Propose(_facts.Kept, _facts.Other, _wish.Take);
            choices = [.. choices.Select(choice => PutField(choice, choices))];
            SwitchOff();
            foreach (var grant in _other.Grants)
                Give(grant);
            foreach (var group in _other.Groups.Except(Kept.Groups))
                if (_world.Groups.TryGetValue(group, out var known))
                    Try(
                        new MergeStep(MergeDeed.Group, group, known.Name),
                        Kept with
                        {
                            Groups = Kept.Groups.Add(group),
                        }
                    );
            PutSeats();
            _steps.AddRange(_facts.Hanging);
            return new MergePlan(choices, _steps, _gauge.Losses(_world, _facts.Kept.Id), _world);
        }

        /// <summary>Does a step in the world, unless it gives what neither could do and is not opted for.</summary>
        private bool Try(MergeStep step, Person merged, AccessWorld? world = null)
        {
            var next = (world ?? _world).With(merged);
            // What an earlier step was opted for is not this one's doing.
            var gains = _gauge.Gains(next, merged.Id, already: _world);
            step = step with { Gains = gains, IsLeft = gains.Count > 0 && !_wish.OptsFor(step) };
            _steps.Add(step);
            if (!step.IsLeft)
                _world = next;
            return !step.IsLeft;
        }

        private MergeChoice PutField(MergeChoice choice, IReadOnlyList<MergeChoice> all)
        {
            if (choice.Field == MergeField.Lead)
                choice = WithLead(choice);
            // Staff belong to no organisation, and nobody to one of another kind.
            if (
                choice.Field == MergeField.Organisation
                && choice.Chosen.Id is { } id
                && _world.Organisations.TryGetValue(id, out var organisation)
                && organisation.Kind != Kept.Kind
            )
                choice = choice with
                {
                    Chosen = FieldValue.Empty,
                    Why = $"it is for {organisation.Kind.Word()}s",
                };
            if (choice.Chosen == choice.Kept)
                return choice;
            var step = new MergeStep(MergeDeed.Field, _facts.Kept.Id, choice.Field.Word())
            {
                Before = choice.Kept,
                After = choice.Chosen,
            };
            var merged = Put(Kept, choice);
            // What nobody chose must not take anything from the one who stays: an agreement may be over, or access switched off.
            if (!_wish.Take.Contains(choice.Field) && _gauge.Loses(_world, _world.With(merged), merged.Id))
                return choice with { Chosen = choice.Kept, Why = "the other's would take access away" };
            return Try(step, merged)
                ? choice
                : choice with
                {
                    Chosen = choice.Kept,
                    Why = "the other's would give what neither could do",
                };
        }

        /// <summary>Who leads an organisation still does, where that is the one that is kept.</summary>
        private MergeChoice WithLead(MergeChoice choice)
        {
            var own = Kept.OrganisationId;
            var leads =
                own is not null
                && (
                    own == _facts.Kept.Of(MergeField.Organisation).Id && choice.Kept.Text.Length > 0
                    || own == _facts.Other.Of(MergeField.Organisation).Id && choice.Other.Text.Length > 0
                );
            return choice with
            {
                Chosen =
                    leads == (choice.Kept.Text.Length > 0) ? choice.Kept
                    : leads ? choice.Other
                    : FieldValue.Empty,
            };
        }

        private static Person Put(Person person, MergeChoice choice) =>
            choice.Field switch
            {
                MergeField.Kind => person with
                {
                    Kind = Enum.Parse<Kind>(choice.Chosen.Text, ignoreCase: true),
                },
                MergeField.Organisation => person with { OrganisationId = choice.Chosen.Id },
                MergeField.Lead => person with { Leads = choice.Chosen.Text.Length > 0 },
                MergeField.Stay => person with { Stay = choice.Chosen.Stay ?? person.Stay },
                _ => person,
            };

        /// <summary>Where only the other reached something but was switched off, they stay so: what else was given to them can be kept then.</summary>
        private void SwitchOff()
        {
            foreach (var resource in _world.Resources.Values.OrderBy(one => one.Id))
            {
                if (
                    _world.SwitchedOff.Contains((Kept.Id, resource.Id))
                    || !_world.SwitchedOff.Contains((_other.Id, resource.Id))
                        && !(
                            _other.OrganisationId is { } own
                            && _world.SwitchedOff.Contains((own, resource.Id))
                        )
                )
                    continue;
                var off = _world with { SwitchedOff = _world.SwitchedOff.Add((Kept.Id, resource.Id)) };
                if (_gauge.IsSame(_world, off, Kept.Id))
                    Try(new MergeStep(MergeDeed.SwitchOff, resource.Id, resource.Name), Kept, off);
            }
        }

        /// <summary>Gives what was given to the other, no longer than it counted for them.</summary>
        private void Give(Grant grant)
        {
            if (!_world.Roles.TryGetValue(grant.RoleId, out var role))
                return;
            var window = Clip(grant.Window);
            if (window.FirstDay > window.LastDay || window.LastDay < _facts.Day || Has(grant, window))
                return;
            var at =
                grant.ResourceId is { } resource && _world.Resources.TryGetValue(resource, out var known)
                    ? known.Name
                    : "the whole workspace";
            var made = grant with { Id = _newId(), Window = window, Version = 1 };
            Try(
                new MergeStep(
                    MergeDeed.Grant,
                    grant.Id,
                    $"The role {role.Name} {(grant.ResourceId is null ? "in" : "at")} {at}"
                )
                {
                    Made = made.Id,
                    Window = window,
                },
                Kept with
                {
                    Grants = Kept.Grants.Add(made),
                }
            );
        }

        private bool Has(Grant grant, Stay window) =>
            Kept.Grants.Any(own =>
                own.RoleId == grant.RoleId
                && own.ResourceId == grant.ResourceId
                && !(own.Window.FirstDay > (window.FirstDay ?? DateOnly.MinValue))
                && !(own.Window.LastDay < (window.LastDay ?? DateOnly.MaxValue))
            );

        private Stay Clip(Stay window)
        {
            var stay = _other.Stay;
            var first = Latest(window.FirstDay, stay.FirstDay);
            var last = Earliest(window.LastDay, stay.LastDay);
            if (
                _other.OrganisationId is { } own
                && _world.Organisations.TryGetValue(own, out var organisation)
            )
                last = Earliest(last, organisation.AgreementEnds);
            return new Stay(last, first);
        }

        private static DateOnly? Latest(DateOnly? one, DateOnly? other) =>
            one is null ? other
            : other is null || one > other ? one
            : other;

        private static DateOnly? Earliest(DateOnly? one, DateOnly? other) =>
            one is null ? other
            : other is null || one < other ? one
            : other;

        private void PutSeats()
        {
            foreach (var seat in _facts.Other.Seats)
            {
                var hasBoth = _facts.Kept.Seats.Any(own => own.Pool == seat.Pool);
                _steps.Add(
                    new MergeStep(hasBoth ? MergeDeed.FreeSeat : MergeDeed.Seat, seat.Pool, seat.Name)
                    {
                        Since = seat.Since,
                        ForCustody = seat.ForCustody,
                    }
                );
            }
        }
    }
}
