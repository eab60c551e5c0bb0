namespace ComeAboard.Core.Accounts;

/// <summary>
/// That the holder of a claimed account kept their other workspaces in an account of their own. For a while the two can be
/// brought together again, by that holder alone: the account of their own goes, and all it is goes back to the first.
/// </summary>
/// <param name="At">When it was split.</param>
/// <param name="UndoneAt">When it was undone; null while it stands.</param>
public sealed record AccountSplit(DateTimeOffset At, DateTimeOffset? UndoneAt)
{
    /// <summary>How long it can be undone.</summary>
    public static readonly TimeSpan Grace = TimeSpan.FromDays(30);

    /// <summary>The first instant at which it cannot be undone any more.</summary>
    public DateTimeOffset Until => At + Grace;

    /// <summary>
    /// Refuses, with <c>split.over</c>, what comes too late; with <c>split.gone</c> where the first account is closed; with
    /// <c>split.both-here</c> where a workspace knows both.
    /// </summary>
    /// <param name="now">The instant.</param>
    /// <param name="first">How the first account stands.</param>
    /// <param name="inBoth">In how many workspaces both accounts are, or were.</param>
    public Refusal? ForbidsUndoing(DateTimeOffset now, AccountStanding first, int inBoth)
    {
        if (UndoneAt is not null || now >= Until)
            return new Refusal(
                "split.over",
                "The two accounts cannot be brought together this way any more.",
                $"That is possible for {Grace.Days} days, once.",
                RefusalSort.Conflict
            );
        if (first.ClosedAt is not null)
            return new Refusal(
                "split.gone",
                "The account it was split off from was closed.",
                "Go on with this one.",
                RefusalSort.Conflict
            );
        return inBoth > 0
            ? new Refusal(
                "split.both-here",
                "A workspace knows both accounts by now.",
                "Leave one of the two there, or keep both accounts.",
                RefusalSort.Conflict
            )
            : null;
    }
}
