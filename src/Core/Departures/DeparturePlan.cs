using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Departures;

/// <summary>What is known of a member whose access is to end.</summary>
/// <param name="Name">Who.</param>
/// <param name="Address">At which address.</param>
/// <param name="Kind">As what they are here.</param>
/// <param name="Access">What they hold, a sentence each.</param>
/// <param name="Stay">Until when they would stay.</param>
/// <param name="IsEnded">Whether their access has ended already.</param>
/// <param name="OpenSessions">How many sign-ins of their account are open.</param>
/// <param name="Tokens">How many API tokens they hold here.</param>
/// <param name="PendingInvitations">How many invitations they made that nobody has answered yet.</param>
/// <param name="OtherWorkspaces">In how many other workspaces the same account is an active member.</param>
/// <param name="IsOnlyAdministrator">Whether they are the only administrator without an end date.</param>
/// <param name="Seats">The names of the pools they hold a seat of.</param>
/// <param name="Owned">The names of the resources they own.</param>
public sealed record LeaverFacts(
    string Name,
    string Address,
    Kind Kind,
    IReadOnlyList<string> Access,
    Stay Stay,
    bool IsEnded,
    int OpenSessions,
    int Tokens,
    int PendingInvitations,
    int OtherWorkspaces,
    bool IsOnlyAdministrator,
    IReadOnlyList<string> Seats,
    IReadOnlyList<string> Owned
);

/// <summary>The plan by which one member's access ends: what they lose, what becomes of what they made, what stays.</summary>
/// <param name="LastDay">The last day of access, inclusive, in the workspace's time zone; null for at once.</param>
/// <param name="Losses">What they lose, as sentences.</param>
/// <param name="Stays">What is left untouched, as sentences.</param>
/// <param name="ClosesSessions">Whether every session of the account is closed: only when no other workspace needs them.</param>
public sealed record DeparturePlan(
    DateOnly? LastDay,
    IReadOnlyList<string> Losses,
    IReadOnlyList<string> Stays,
    bool ClosesSessions
)
{
    /// <summary>Plans an end. Refuses with <c>departure.already</c>, <c>administrator.last</c> <c>departure.later</c> or <c>stay.past</c>.</summary>
    /// <param name="leaver">Who leaves.</param>
    /// <param name="lastDay">The last day of access, inclusive; null for at once.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<DeparturePlan> For(LeaverFacts leaver, DateOnly? lastDay, DateOnly today)
    {
        if (leaver.IsEnded)
            return new Refusal(
                "departure.already",
                $"The access of {leaver.Name} has ended already.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        if (leaver.IsOnlyAdministrator)
            return AdministratorRule.Last;
        if (!Stay.Until(lastDay, today).Try(out _, out var refusal))
            return refusal with { Field = "on" };
        if (lastDay > leaver.Stay.LastDay)
            return new Refusal(
                "departure.later",
                $"The access of {leaver.Name} ends on {leaver.Stay.LastDay:yyyy-MM-dd} already; ending it cannot make it longer.",
                "Give that day or an earlier one.",
                RefusalSort.Conflict,
                "on"
            );

        var losses = new List<string>(leaver.Access);
        losses.AddRange(leaver.Seats.Select(pool => $"A seat of {pool} is freed."));
        losses.AddRange(leaver.Owned.Select(name => $"They own {name}: it passes to whoever ends them."));
        AddCount(
            losses,
            leaver.Tokens,
            "API token of this workspace is revoked",
            "API tokens of this workspace are revoked"
        );
        if (leaver.OtherWorkspaces == 0)
            AddCount(losses, leaver.OpenSessions, "open sign-in is closed", "open sign-ins are closed");
        AddCount(
            losses,
            leaver.PendingInvitations,
            "unanswered invitation they made passes to whoever ends them",
            "unanswered invitations they made pass to whoever ends them"
        );

        var stays = new List<string> { "Their account itself: they can still sign in to it." };
        AddCount(
            stays,
            leaver.OtherWorkspaces,
            "other workspace they belong to",
            "other workspaces they belong to"
        );
        return new DeparturePlan(lastDay, losses, stays, leaver.OtherWorkspaces == 0);
    }

    private static void AddCount(List<string> lines, int count, string one, string many)
    {
        if (count > 0)
            lines.Add(count == 1 ? $"1 {one}." : $"{count} {many}.");
    }
}
