namespace ComeAboard.Core.Access;

/// <summary>
/// Measures what somebody may do, or either of two, against what one may do in another world: at every place, on every day
/// from today on. More than before is a gain, less is a loss.
/// </summary>
/// <remarks>
/// Access changes on few days only: with the first day of a stay, a grant or an agreement, and after its last. Those are
/// looked at, and what holds on one of them holds until the next.
/// </remarks>
public sealed class AccessGauge
{
    private readonly AccessWorld _before;
    private readonly (Guid One, Guid Other) _two;
    private readonly DateOnly[] _days;
    private readonly Place[] _places;
    private readonly Reach[] _either;

    /// <summary>Measures what either of two may do.</summary>
    /// <param name="before">The workspace with both.</param>
    /// <param name="one">The one.</param>
    /// <param name="other">The other; the same where it is about one alone.</param>
    /// <param name="today">Today, in the workspace's time zone.</param>
    /// <param name="after">Another world whose days count as well; null where it has no others.</param>
    public AccessGauge(AccessWorld before, Guid one, Guid other, DateOnly today, AccessWorld? after = null)
    {
        (_before, _two) = (before, (one, other));
        var days = DaysOf(before, [one, other], today);
        if (after is not null)
            days.UnionWith(DaysOf(after, [one, other], today));
        _days = [.. days];
        _places = [.. before.Places()];
        _either = [.. _days.Select(Either)];
    }

    /// <summary>What somebody could do in another world that neither of the two could before; nothing for no gain.</summary>
    /// <param name="after">The workspace with the merged member.</param>
    /// <param name="merged">The merged member.</param>
    /// <param name="already">A world whose gains are known: only what goes beyond them, too, is said; null for none.</param>
    public IReadOnlyList<string> Gains(AccessWorld after, Guid merged, AccessWorld? already = null) =>
        Sentences(after, merged, already, (was, now) => now > was, (was, now) => now & ~was, areGains: true);

    /// <summary>What one of the two could do that nobody could then; nothing for no loss.</summary>
    /// <param name="after">The workspace with the merged member.</param>
    /// <param name="merged">The merged member.</param>
    public IReadOnlyList<string> Losses(AccessWorld after, Guid merged) =>
        Sentences(after, merged, null, (was, now) => now < was, (was, now) => was & ~now, areGains: false);

    /// <summary>Whether somebody loses anything from one world to another.</summary>
    public bool Loses(AccessWorld before, AccessWorld after, Guid merged) =>
        _days.Any(day =>
        {
            var (was, now) = (ReachOf(before, merged, day), ReachOf(after, merged, day));
            return (was.Duties & ~now.Duties) != Duties.None
                || was.Levels.Zip(now.Levels, (left, right) => left > right).Any(less => less);
        });

    /// <summary>Whether somebody reaches exactly the same in two worlds, at every place and on every day that is looked at.</summary>
    public bool IsSame(AccessWorld one, AccessWorld other, Guid merged) =>
        _days.All(day => ReachOf(one, merged, day).IsSame(ReachOf(other, merged, day)));

    private string[] Sentences(
        AccessWorld after,
        Guid merged,
        AccessWorld? already,
        Func<Level, Level, bool> differs,
        Func<Duties, Duties, Duties> duties,
        bool areGains
    )
    {
        var levels = new Dictionary<int, Difference>();
        var arranging = new Dictionary<int, DateOnly>();
        var held = new Dictionary<Duties, DateOnly>();
        for (var d = 0; d < _days.Length; d++)
        {
            var now = ReachOf(after, merged, _days[d]);
            var was = already is null ? _either[d] : _either[d].Or(ReachOf(already, merged, _days[d]));
            for (var p = 0; p < _places.Length; p++)
            {
                if (differs(was.Levels[p], now.Levels[p]))
                {
                    var before = levels.GetValueOrDefault(p);
                    // The most that it differs, and since when it does.
                    if (
                        before is null
                        || Math.Abs(now.Levels[p] - was.Levels[p]) > Math.Abs(before.Now - before.Was)
                    )
                        levels[p] = new Difference(was.Levels[p], now.Levels[p], before?.From ?? _days[d]);
                }
                if (areGains && now.Arranges[p] && !was.Arranges[p])
                    arranging.TryAdd(p, _days[d]);
            }
            foreach (var duty in DutyWords.Each.Where(duty => duties(was.Duties, now.Duties).HasFlag(duty)))
                held.TryAdd(duty, _days[d]);
        }
        return
        [
            .. levels
                // What holds in a whole area need not be said of each resource in it.
                .Where(one => !IsSaidOfItsArea(one.Key, levels))
                .GroupBy(one => one.Value, one => _places[one.Key])
                .Select(alike =>
                    areGains
                        ? $"{alike.Key.Now.Word()} {At(alike)}{From(alike.Key.From)}, {Instead(alike.Key.Was)}"
                        : $"{alike.Key.Was.Word()} {At(alike)}{From(alike.Key.From)}: {(alike.Key.Now == Level.None ? "nothing is left" : $"{alike.Key.Now.Word()} is left")}"
                ),
            .. held.GroupBy(one => one.Value, one => one.Key.List()[0])
                .Select(alike =>
                    areGains
                        ? $"the {Counted(alike, "duty", "duties")}{From(alike.Key)}{(IsOne ? "" : ", which neither held")}"
                        : $"the {Counted(alike, "duty", "duties")}{From(alike.Key)}"
                ),
            .. arranging
                .Where(one => !levels.TryGetValue(one.Key, out var said) || said.From > one.Value)
                .GroupBy(one => one.Value, one => _places[one.Key])
                .Select(alike => $"arranging who may do what {At(alike)}{From(alike.Key)}, as staff"),
        ];
    }

    private bool IsOne => _two.One == _two.Other;

    private string Instead(Level was) =>
        IsOne ? $"instead of {was.Word()}" : $"where neither had more than {was.Word()}";

    private bool IsSaidOfItsArea(int place, Dictionary<int, Difference> levels) =>
        _places[place] is { Resource: not null } at
        && levels.TryGetValue(Array.IndexOf(_places, new Place(at.Area, null)), out var whole)
        && whole == levels[place];

    private string From(DateOnly day) => day == _days[0] ? "" : $" from {day:yyyy-MM-dd}";

    private string At(IEnumerable<Place> places)
    {
        const int Named = 3;
        var all = places.ToList();
        var names = all.Where(place => place != Place.Elsewhere).Select(NameOf).ToList();
        var text =
            names.Count == 0 ? "everywhere"
            : names.Count > Named + 1
                ? $"at {string.Join(", ", names.Take(Named))} and {names.Count - Named} more places"
            : "at " + Listed(names);
        return names.Count > 0 && all.Count > names.Count ? text + ", and everywhere else" : text;
    }

    private string NameOf(Place place) =>
        place.Resource is { } resource ? _before.Resources[resource].Name : _before.Areas[place.Area].Name;

    private static string Counted(IEnumerable<string> words, string one, string several)
    {
        var all = words.ToList();
        return $"{(all.Count == 1 ? one : several)} {Listed(all)}";
    }

    private static string Listed(IReadOnlyList<string> names) =>
        names.Count == 1 ? names[0] : string.Join(", ", names.SkipLast(1)) + " and " + names[^1];

    private Reach Either(DateOnly day) =>
        ReachOf(_before, _two.One, day).Or(ReachOf(_before, _two.Other, day));

    private Reach ReachOf(AccessWorld world, Guid id, DateOnly day)
    {
        var isStaff = world.People.TryGetValue(id, out var person) && person.Kind == Kind.Staff;
        var levels = Array.ConvertAll(_places, place => world.LevelOf(id, place, day));
        return new Reach(
            levels,
            world.DutiesHeldBy(id, day),
            [
                .. _places.Select(
                    (place, p) => isStaff && place.Resource is not null && levels[p] == Level.Manage
                ),
            ]
        );
    }

    private static SortedSet<DateOnly> DaysOf(AccessWorld world, IEnumerable<Guid> people, DateOnly today)
    {
        var days = new SortedSet<DateOnly> { today };
        foreach (var person in people.Select(id => world.People.GetValueOrDefault(id)).OfType<Person>())
        {
            Add(person.Stay.FirstDay, person.Stay.LastDay);
            foreach (var path in world.PathsOf(person))
                Add(path.Grant.Window.FirstDay, path.Grant.Window.LastDay);
            if (
                person.OrganisationId is { } own
                && world.Organisations.TryGetValue(own, out var organisation)
            )
                Add(null, organisation.AgreementEnds);
        }
        return days;

        void Add(DateOnly? first, DateOnly? last)
        {
            if (first > today)
                days.Add(first.Value);
            if (last >= today && last < DateOnly.MaxValue)
                days.Add(last.Value.AddDays(1));
        }
    }

    private sealed record Difference(Level Was, Level Now, DateOnly From);

    /// <summary>What somebody may do on a day.</summary>
    private sealed record Reach(Level[] Levels, Duties Duties, bool[] Arranges)
    {
        /// <summary>What the one or the other may do.</summary>
        public Reach Or(Reach other) =>
            new(
                [.. Levels.Zip(other.Levels, (left, right) => left > right ? left : right)],
                Duties | other.Duties,
                [.. Arranges.Zip(other.Arranges, (left, right) => left || right)]
            );

        public bool IsSame(Reach other) =>
            Duties == other.Duties
            && Levels.AsSpan().SequenceEqual(other.Levels)
            && Arranges.AsSpan().SequenceEqual(other.Arranges);
    }
}
