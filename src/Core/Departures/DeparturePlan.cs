using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Departures;

/// <summary>Something with a name.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
public readonly record struct Named(Guid Id, string Name);

/// <summary>What is known of a member whose access is to end.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Who.</param>
/// <param name="Kind">As what they are here.</param>
/// <param name="Stay">Until when they would stay.</param>
/// <param name="IsEnded">Whether their access has ended already.</param>
/// <param name="World">Who may do what.</param>
public sealed record LeaverFacts(Guid Id, string Name, Kind Kind, Stay Stay, bool IsEnded, AccessWorld World)
{
    /// <summary>The sign-ins of their account that are open.</summary>
    public IReadOnlyList<Guid> Sessions { get; init; } = [];

    /// <summary>In how many other workspaces the same account is an active member.</summary>
    public int OtherWorkspaces { get; init; }

    /// <summary>The API tokens they hold here, by label.</summary>
    public IReadOnlyList<Named> Tokens { get; init; } = [];

    /// <summary>The join links they are answerable for that are not closed, by label.</summary>
    public IReadOnlyList<Named> Links { get; init; } = [];

    /// <summary>The drafts and pending invitations they are answerable for, by address.</summary>
    public IReadOnlyList<Named> Invitations { get; init; } = [];

    /// <summary>The drafts and pending invitations that name them as host, by address.</summary>
    public IReadOnlyList<Named> HostedInvitations { get; init; } = [];

    /// <summary>The members whose host they are, by name.</summary>
    public IReadOnlyList<Named> Guests { get; init; } = [];

    /// <summary>The lists that are being read or sent in their name.</summary>
    public IReadOnlyList<Named> Lists { get; init; } = [];

    /// <summary>The pools they hold a seat of.</summary>
    public IReadOnlyList<SeatHeld> Seats { get; init; } = [];

    /// <summary>The connected systems in which they have an account, or may have one.</summary>
    public IReadOnlyList<Named> Accounts { get; init; } = [];

    /// <summary>Who is to take over what they were answerable for, where somebody said so; null for the usual.</summary>
    public Guid? Heir { get; init; }

    /// <summary>The end that is planned and may be moved; null when none is.</summary>
    public PlannedEnd? Planned { get; init; }

    /// <summary>Who ends them, or planned it; null when nobody in particular did.</summary>
    public Guid? EndedBy { get; init; }
}

/// <summary>An end that was planned before its day.</summary>
/// <param name="AgreedDay">Until when they were to stay before anybody planned an earlier end, inclusive; null for no end.</param>
public sealed record PlannedEnd(DateOnly? AgreedDay);

/// <summary>The plan by which one member's access ends: a list of steps, and what stays.</summary>
/// <param name="LastDay">The last day of access, inclusive, in the workspace's time zone; null for at once.</param>
/// <param name="Steps">What is done, in this order.</param>
/// <param name="Stays">What is left untouched, as sentences.</param>
public sealed record DeparturePlan(
    DateOnly? LastDay,
    IReadOnlyList<DepartureStep> Steps,
    IReadOnlyList<string> Stays
)
{
    /// <summary>
    /// Plans an end. Refuses with <c>departure.already</c>, <c>administrator.last</c>, <c>departure.later</c>, <c>departure.heir</c>
    /// or <c>stay.past</c>.
    /// </summary>
    /// <param name="leaver">Who leaves.</param>
    /// <param name="lastDay">The last day of access, inclusive; null for at once.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<DeparturePlan> For(LeaverFacts leaver, DateOnly? lastDay, DateOnly today) =>
        Forbids(leaver, lastDay, today, [.. AdministratorRule.Lasting(leaver.World, today).Take(2)]) is { } no
            ? no
            : Carrying(leaver, lastDay, today);

    /// <summary>Why somebody's access cannot be ended so, as <see cref="For"/> refuses; null where it can.</summary>
    /// <param name="leaver">Who leaves.</param>
    /// <param name="lastDay">The last day of access, inclusive; null for at once.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    /// <param name="lasting">The lasting administrators there are, two of them at least where there are so many.</param>
    public static Refusal? Forbids(
        LeaverFacts leaver,
        DateOnly? lastDay,
        DateOnly today,
        IReadOnlyCollection<Guid> lasting
    )
    {
        if (leaver.IsEnded)
            return new Refusal(
                "departure.already",
                $"The access of {leaver.Name} has ended already.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        if (lasting.Count == 1 && lasting.Contains(leaver.Id))
            return AdministratorRule.Last;
        if (!Stay.Until(lastDay, today).Try(out _, out var refusal))
            return refusal with { Field = "on" };
        if (leaver.Heir is { } heir && !CanTakeOver(leaver, heir, today))
            return new Refusal(
                "departure.heir",
                "Only somebody of the staff who is here, and stays, can take over what others leave behind.",
                "Name somebody else, or nobody for whoever ends it.",
                RefusalSort.Conflict,
                "to"
            );
        // What was planned may be moved as far as was agreed before.
        var latest = leaver.Planned is { } planned ? planned.AgreedDay : leaver.Stay.LastDay;
        return lastDay > latest
            ? new Refusal(
                "departure.later",
                $"The access of {leaver.Name} ends on {latest:yyyy-MM-dd} already; ending it cannot make it longer.",
                "Give that day or an earlier one.",
                RefusalSort.Conflict,
                "on"
            )
            : null;
    }

    /// <summary>
    /// The stay somebody has again when a planned end is taken back. Refuses with <c>departure.not-planned</c>, or
    /// <c>departure.already</c> when it has come about.
    /// </summary>
    /// <param name="leaver">Who was to leave.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<Stay> Withdraw(LeaverFacts leaver, DateOnly today)
    {
        if (leaver.IsEnded)
            return new Refusal(
                "departure.already",
                $"The access of {leaver.Name} has ended already.",
                "Invite them again.",
                RefusalSort.Conflict
            );
        if (leaver.Planned is not { } planned)
            return new Refusal(
                "departure.not-planned",
                $"No end is planned for {leaver.Name} beside the one that was agreed.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        return planned.AgreedDay < today
            ? new Refusal(
                "departure.already",
                $"The stay of {leaver.Name} was agreed until {planned.AgreedDay:yyyy-MM-dd} only.",
                "Invite them again.",
                RefusalSort.Conflict
            )
            : leaver.Stay with
            {
                LastDay = planned.AgreedDay,
            };
    }

    /// <summary>The steps by which it is carried out, whoever allowed it: at once, or when the stay is over.</summary>
    /// <param name="leaver">Who leaves.</param>
    /// <param name="lastDay">The last day of access, inclusive; null for at once.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static DeparturePlan Carrying(LeaverFacts leaver, DateOnly? lastDay, DateOnly today)
    {
        var steps = new List<DepartureStep>(LossesOf(leaver));
        if (leaver.OtherWorkspaces == 0)
            steps.AddRange(
                leaver.Sessions.Select(id => new DepartureStep(DepartureDeed.CloseSession, id, ""))
            );
        steps.AddRange(Each(DepartureDeed.RevokeToken, leaver.Tokens));
        steps.AddRange(Each(DepartureDeed.CloseLink, leaver.Links));
        steps.AddRange(Each(DepartureDeed.StopList, leaver.Lists));
        if (HeirOf(leaver, today) is { } heir)
        {
            var owned = leaver
                .World.Resources.Values.Where(resource => resource.Owner == leaver.Id)
                .OrderBy(resource => resource.Name, StringComparer.Ordinal);
            steps.AddRange(Each(DepartureDeed.PassOnInvitation, leaver.Invitations, heir));
            steps.AddRange(Each(DepartureDeed.PassOnHosting, leaver.HostedInvitations, heir));
            steps.AddRange(Each(DepartureDeed.PassOnGuest, leaver.Guests, heir));
            steps.AddRange(
                Each(
                    DepartureDeed.HandOver,
                    owned.Select(resource => new Named(resource.Id, resource.Name)),
                    heir
                )
            );
        }
        steps.AddRange(
            leaver.Seats.Select(seat => new DepartureStep(DepartureDeed.FreeSeat, seat.Pool, seat.Name)
            {
                Since = seat.Since,
                ForCustody = seat.ForCustody,
            })
        );
        steps.AddRange(Each(DepartureDeed.CloseAccount, leaver.Accounts));
        var stays = new List<string> { "Their account itself: they can still sign in to it." };
        if (leaver.OtherWorkspaces > 0)
            stays.Add(
                leaver.OtherWorkspaces == 1
                    ? "1 other workspace they belong to."
                    : $"{leaver.OtherWorkspaces} other workspaces they belong to."
            );
        return new DeparturePlan(lastDay, steps, stays);
    }

    /// <summary>
    /// Who has from then on what the leaver was answerable for: whoever was named for it; else whoever ends them, as long as they
    /// are of the staff and here; else the first of the lasting administrators. Null when there is nobody left at all.
    /// </summary>
    private static Named? HeirOf(LeaverFacts leaver, DateOnly today)
    {
        var world = leaver.World;
        foreach (var one in (Guid?[])[leaver.Heir, leaver.EndedBy])
            if (one is { } id && CanTakeOver(leaver, id, today))
                return new Named(id, world.People[id].Name);
        var lasting = AdministratorRule.Lasting(world, today).Where(id => id != leaver.Id).Order().ToList();
        return lasting.Count > 0 ? new Named(lasting[0], world.People[lasting[0]].Name) : null;
    }

    private static bool CanTakeOver(LeaverFacts leaver, Guid id, DateOnly today) =>
        id != leaver.Id
        && leaver.World.People.TryGetValue(id, out var person)
        && person.Kind == Kind.Staff
        && leaver.World.CutOf(person, today) == Cut.None;

    private static IEnumerable<DepartureStep> Each(
        DepartureDeed deed,
        IEnumerable<Named> subjects,
        Named? heir = null
    ) =>
        subjects.Select(subject => new DepartureStep(
            deed,
            subject.Id,
            subject.Name,
            heir?.Id,
            heir?.Name ?? ""
        ));

    /// <summary>What is given to somebody, a step for each way.</summary>
    private static IReadOnlyList<DepartureStep> LossesOf(LeaverFacts leaver)
    {
        var world = leaver.World;
        var losses = new List<DepartureStep>();
        if (world.People.TryGetValue(leaver.Id, out var person))
        {
            foreach (var (grant, through, holder) in world.PathsOf(person))
            {
                if (!world.Roles.TryGetValue(grant.RoleId, out var role))
                    continue;
                var by = through switch
                {
                    HolderKind.Group => $", through the group {world.Groups[holder].Name}",
                    HolderKind.Organisation => $", through {world.Organisations[holder].Name}",
                    _ => "",
                };
                // The role's own sentence speaks of the whole workspace.
                losses.Add(
                    new DepartureStep(
                        DepartureDeed.StopAccess,
                        grant.Id,
                        grant.ResourceId is { } at && world.Resources.TryGetValue(at, out var resource)
                            ? $"The role {role.Name} at {resource.Name}{by}: {role.LevelIn(resource.AreaId).Word()}."
                            : $"The role {role.Name} in the whole workspace{by}: {Words.Continued(role.SentenceFor(leaver.Kind))}"
                    )
                );
            }
        }
        if (losses.Count == 0)
            losses.Add(
                new DepartureStep(
                    DepartureDeed.StopAccess,
                    leaver.Id,
                    "Nothing is given to them; they lose their place in the workspace."
                )
            );
        return losses;
    }
}
