using ComeAboard.Core.Accounts;

namespace ComeAboard.Core.Merging;

/// <summary>That two accounts were made one. For a while they can be parted again.</summary>
/// <param name="At">When.</param>
/// <param name="UndoneAt">When they were parted again; null while they are one.</param>
public sealed record AccountMerge(DateTimeOffset At, DateTimeOffset? UndoneAt = null)
{
    /// <summary>How long they can be parted.</summary>
    public static readonly TimeSpan Grace = TimeSpan.FromDays(30);

    /// <summary>The first instant at which they cannot be parted any more.</summary>
    public DateTimeOffset Until => At + Grace;

    /// <summary>Refuses, with <c>merge.over</c>, what comes too late, and with <c>merge.gone</c> where the account that stayed is closed.</summary>
    /// <param name="now">The instant.</param>
    /// <param name="kept">How the account that stayed stands.</param>
    public Refusal? ForbidsUndoing(DateTimeOffset now, AccountStanding kept)
    {
        if (UndoneAt is not null || now >= Until)
            return new Refusal(
                "merge.over",
                "The two accounts cannot be parted any more.",
                $"That is possible for {Grace.Days} days, once. Invite the other person anew.",
                RefusalSort.Conflict
            );
        return kept.ClosedAt is not null
            ? new Refusal(
                "merge.gone",
                "The account that stayed was closed, and what belonged to both with it.",
                "Invite the other person anew.",
                RefusalSort.Conflict
            )
            : null;
    }
}

/// <summary>An account as far as it matters for making it one with another.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Address">Its main address.</param>
/// <param name="Standing">Whether it can be signed in to.</param>
/// <param name="Custody">The workspace that holds it; null for its holder's own.</param>
public sealed record MergedAccount(Guid Id, string Address, AccountStanding Standing, Guid? Custody);

/// <summary>Which accounts may be made one, and by whom.</summary>
public static class MergeRules
{
    /// <summary>
    /// Refuses what nobody may merge: <c>merge.one</c>, <c>merge.closed</c>, <c>merge.paused</c>, and <c>merge.held</c> where an
    /// account would leave the custody it is in.
    /// </summary>
    /// <param name="kept">The account that stays.</param>
    /// <param name="goes">The account that goes.</param>
    public static Refusal? Forbids(MergedAccount kept, MergedAccount goes)
    {
        if (kept.Id == goes.Id)
            return new Refusal(
                "merge.one",
                $"{kept.Address} and {goes.Address} are one account already.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        if (kept.Standing.ClosedAt is not null || goes.Standing.ClosedAt is not null)
            return Standing(
                "merge.closed",
                $"The account {(kept.Standing.ClosedAt is null ? goes : kept).Address} is closed.",
                "There is nothing left of it to merge."
            );
        if (kept.Standing.PausedAt is not null || goes.Standing.PausedAt is not null)
            return Standing(
                "merge.paused",
                $"The account {(kept.Standing.PausedAt is null ? goes : kept).Address} is paused: merged, it could be used again.",
                "Resume it first."
            );
        return goes.Custody is { } custody && custody != kept.Custody
            ? new Refusal(
                "merge.held",
                $"The account {goes.Address} is in the custody of a workspace, and cannot leave it this way.",
                kept.Custody is null
                    ? "Keep that account, and let the other go."
                    : "Ask one of the workspaces that hold them to release its account.",
                RefusalSort.Conflict
            )
            : null;
    }

    private static Refusal Standing(string code, string sentence, string remedy) =>
        new(code, sentence, remedy, RefusalSort.Conflict);
}
