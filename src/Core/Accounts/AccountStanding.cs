namespace ComeAboard.Core.Accounts;

/// <summary>Whether an account can be signed in to, and what whoever holds it may do about that.</summary>
/// <param name="PausedAt">Since when it is paused; null for open.</param>
/// <param name="ClosedAt">When it was closed for good; null for open.</param>
public readonly record struct AccountStanding(DateTimeOffset? PausedAt, DateTimeOffset? ClosedAt)
{
    /// <summary>Whether it was closed because it was made one with another account.</summary>
    public bool IsMerged { get; init; }

    /// <summary>How it stands, in a word: <c>open</c>, <c>paused</c> or <c>closed</c>.</summary>
    public string Word =>
        ClosedAt is not null ? "closed"
        : PausedAt is not null ? "paused"
        : "open";

    /// <summary>Refuses to sign somebody in: <c>account.paused</c>, <c>account.closed</c> or <c>account.merged</c>.</summary>
    public Refusal? ForbidsSignIn() =>
        ClosedAt is not null && IsMerged
            ? new Refusal(
                "account.merged",
                "This account was made one with another of yours.",
                "Sign in as you do to that one, or by a code mailed to any of your addresses.",
                RefusalSort.NotAllowed
            )
        : ClosedAt is not null
            ? new Refusal(
                "account.closed",
                "This account was closed.",
                "Ask whoever closed it; it cannot be opened again.",
                RefusalSort.NotAllowed
            )
        : PausedAt is not null
            ? new Refusal(
                "account.paused",
                "This account is paused.",
                "Ask the workspace that holds it to let you in again.",
                RefusalSort.NotAllowed
            )
        : null;

    private static Refusal IsClosed { get; } =
        new(
            "account.closed",
            "The account is closed already.",
            "It cannot be opened again; its address is free for a new one.",
            RefusalSort.Conflict
        );

    /// <summary>Pauses it; refuses with <c>account.paused</c> or <c>account.closed</c> what is so already.</summary>
    /// <param name="now">The instant.</param>
    public Outcome<AccountStanding> Pause(DateTimeOffset now) =>
        Word switch
        {
            "open" => this with { PausedAt = now },
            "paused" => new Refusal(
                "account.paused",
                "The account is paused already.",
                "To let it be used again: aboard accounts resume ADDRESS",
                RefusalSort.Conflict
            ),
            _ => IsClosed,
        };

    /// <summary>Lets it be signed in to again; refuses with <c>account.not-paused</c>.</summary>
    public Outcome<AccountStanding> Resume() =>
        Word == "paused"
            ? this with
            {
                PausedAt = null,
            }
            : new Refusal(
                "account.not-paused",
                "The account is not paused.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );

    /// <summary>
    /// Closes it for good; refuses with <c>account.elsewhere</c> while its holder is in other workspaces, whose way in nobody
    /// else takes, and with <c>account.here</c> while their access here has not ended.
    /// </summary>
    /// <param name="now">The instant.</param>
    /// <param name="otherWorkspaces">In how many other workspaces its holder is.</param>
    /// <param name="isHere">Whether their access here has not ended.</param>
    public Outcome<AccountStanding> Close(DateTimeOffset now, int otherWorkspaces, bool isHere)
    {
        if (ClosedAt is not null)
            return IsClosed;
        if (otherWorkspaces > 0)
            return new Refusal(
                "account.elsewhere",
                "Its holder is in other workspaces with it, too.",
                "Pause it, or give custody up: aboard claims release ADDRESS",
                RefusalSort.Conflict
            );
        if (isHere)
            return new Refusal(
                "account.here",
                "The access of its holder here has not ended.",
                "End it first: aboard people end ADDRESS",
                RefusalSort.Conflict
            );
        return new AccountStanding(PausedAt, now);
    }
}
