using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>Everything that follows from one step of a join link. What is not said stays as it is.</summary>
/// <param name="Entry">What the record says is being done: <c>link.renewed</c>.</param>
public sealed record JoinLinkConsequences(string Entry)
{
    /// <summary>Whether it gets a new secret, shown once; the one before is dead.</summary>
    public bool Renews { get; init; }

    /// <summary>Whether it lets nobody in any more.</summary>
    public bool Closes { get; init; }

    /// <summary>Who is answerable for it from now on.</summary>
    public Guid? Answerable { get; init; }
}

/// <summary>The course of a join link; see <see cref="InvitationCourse"/>.</summary>
public static class JoinLinkCourse
{
    /// <summary>A new link.</summary>
    /// <param name="terms">What it is for.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="rules">The rules of the house.</param>
    /// <param name="actor">Who makes it.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<JoinLinkConsequences> Add(
        JoinLinkTerms terms,
        AccessWorld world,
        HouseRules rules,
        Guid actor,
        DateOnly today
    )
    {
        if (ForbidsGiver(terms.Kind, terms.Gives, world, rules, actor, today) is { } right)
            return right;
        if (terms.Gives.Pools.Count > 0)
            return new Refusal(
                "link.seats",
                "A join link cannot reserve seats, as nobody knows how many will come.",
                "Give the seats when people are here, or invite them singly.",
                RefusalSort.Conflict,
                "seats"
            );
        return new JoinLinkConsequences("link.added") { Renews = true, Answerable = actor };
    }

    /// <summary>
    /// Another address for an open link. Whoever renews it gets to see it, so they must be able to give what it gives, and
    /// are answerable for it from now on.
    /// </summary>
    /// <param name="state">Whether it still lets people in.</param>
    /// <param name="kind">As what people come in by it.</param>
    /// <param name="gives">What they are given.</param>
    /// <param name="world">Who may do what.</param>
    /// <param name="rules">The rules of the house.</param>
    /// <param name="actor">Who renews it.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<JoinLinkConsequences> Renew(
        JoinLinkState state,
        Kind kind,
        Bundle gives,
        AccessWorld world,
        HouseRules rules,
        Guid actor,
        DateOnly today
    )
    {
        if (JoinLinkRules.Forbids(state) is { } closed)
            return closed with { Remedy = "Make another link." };
        if (ForbidsGiver(kind, gives, world, rules, actor, today) is { } right)
            return right;
        return new JoinLinkConsequences("link.renewed") { Renews = true, Answerable = actor };
    }

    /// <summary>Lets nobody in any more; null when it is closed already.</summary>
    public static JoinLinkConsequences? Close(JoinLinkState state) =>
        state == JoinLinkState.Closed ? null : new JoinLinkConsequences("link.closed") { Closes = true };

    private static Refusal? ForbidsGiver(
        Kind kind,
        Bundle gives,
        AccessWorld world,
        HouseRules rules,
        Guid actor,
        DateOnly today
    ) =>
        !world.DutiesOf(actor, today).HasFlag(Duties.Invite)
            ? DutyWords.Missing(Duties.Invite)
            : rules.ForbidsInviter(world, actor, kind, today)
                ?? GivingRules.ForbidsAll(world, actor, gives, null, today);
}
