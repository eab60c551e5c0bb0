namespace ComeAboard.Core.Accounts;

/// <summary>What a look into DNS came to.</summary>
public enum DomainLook
{
    /// <summary>The record is there.</summary>
    Shown,

    /// <summary>DNS answered, and the record is not there.</summary>
    Missing,

    /// <summary>DNS did not answer, or answered that it cannot: nothing is known.</summary>
    Unanswered,
}

/// <summary>How it stands with a mail domain that a workspace says is its own.</summary>
public enum DomainState
{
    /// <summary>It was not shown yet.</summary>
    Waiting,

    /// <summary>It is proved.</summary>
    Proved,

    /// <summary>It was proved, and is not shown any more; it is lost if that lasts.</summary>
    Lapsing,

    /// <summary>It was not shown for too long: nothing may be done by it until it is shown again.</summary>
    Lost,
}

/// <summary>A step of a proof that people hear of.</summary>
public enum DomainTurn
{
    /// <summary>Nothing anybody has to hear of.</summary>
    None,

    /// <summary>It is proved, or proved again after it was lost.</summary>
    Proved,

    /// <summary>It is not shown any more.</summary>
    Lapsing,

    /// <summary>It is still not shown, and soon lost.</summary>
    NearlyLost,

    /// <summary>It is lost.</summary>
    Lost,

    /// <summary>It is shown again before it was lost.</summary>
    Back,
}

/// <summary>
/// The proof that a workspace decides over a mail domain: a TXT record (RFC 1035) under a name of our own (RFC 8552),
/// looked for again and again. A look that nobody answers tells nothing; only when that lasts does it tell against.
/// </summary>
/// <param name="ProvedAt">Since when it counts without a break; null for never, or not any more.</param>
/// <param name="ShownAt">When the record was last seen; null for never.</param>
/// <param name="MissingSince">When it was first not seen any more; null while it is.</param>
/// <param name="Warned">Whether it was said that it is soon lost.</param>
public sealed record DomainProof(
    DateTimeOffset? ProvedAt,
    DateTimeOffset? ShownAt,
    DateTimeOffset? MissingSince,
    bool Warned
)
{
    /// <summary>How long a proof that is not shown any more goes on counting.</summary>
    public static readonly TimeSpan Grace = TimeSpan.FromDays(14);

    /// <summary>How long before the end of that time it is said again.</summary>
    public static readonly TimeSpan LastWarning = TimeSpan.FromDays(3);

    /// <summary>After how long without any answer the record counts as not shown.</summary>
    public static readonly TimeSpan LongestSilence = TimeSpan.FromDays(3);

    /// <summary>How often a proof is looked at.</summary>
    public static readonly TimeSpan LookEvery = TimeSpan.FromHours(6);

    /// <summary>How often one that waits to be shown is looked at.</summary>
    public static readonly TimeSpan LookEveryWaiting = TimeSpan.FromMinutes(10);

    /// <summary>A domain of which nothing was seen yet.</summary>
    public static DomainProof New { get; } = new(null, null, null, false);

    /// <summary>The name of the record for a domain.</summary>
    /// <param name="domain">The mail domain, in lower case.</param>
    public static string RecordName(string domain) => "_come-aboard." + domain;

    /// <summary>What the record holds.</summary>
    /// <param name="token">What was drawn for this workspace and domain.</param>
    public static string RecordValue(string token) => "aboard=" + token;

    /// <summary>The first instant at which a proof that is not shown is lost (exclusive end of the grace); null while it is shown.</summary>
    public DateTimeOffset? LostAt => ProvedAt is not null && MissingSince is { } since ? since + Grace : null;

    /// <summary>How it stands at an instant.</summary>
    /// <param name="now">The instant.</param>
    public DomainState StateAt(DateTimeOffset now) =>
        ProvedAt is null ? (ShownAt is null ? DomainState.Waiting : DomainState.Lost)
        : LostAt is not { } end ? DomainState.Proved
        : now < end ? DomainState.Lapsing
        : DomainState.Lost;

    /// <summary>Whether accounts may be brought into custody by it: only while it is shown.</summary>
    /// <param name="now">The instant.</param>
    public bool Gains(DateTimeOffset now) => StateAt(now) == DomainState.Proved;

    /// <summary>Whether custody that was gained by it may be used: also while it lapses.</summary>
    /// <param name="now">The instant.</param>
    public bool Holds(DateTimeOffset now) => StateAt(now) is DomainState.Proved or DomainState.Lapsing;

    /// <summary>The proof after a look, and what people hear of it.</summary>
    /// <param name="look">What the look came to.</param>
    /// <param name="now">The instant of the look.</param>
    /// <param name="isHeldElsewhere">Whether another workspace's proof of the same domain counts.</param>
    public (DomainProof Next, DomainTurn Turn) After(
        DomainLook look,
        DateTimeOffset now,
        bool isHeldElsewhere
    )
    {
        var before = StateAt(now);
        if (look == DomainLook.Shown)
        {
            if (isHeldElsewhere)
                return (this with { ProvedAt = null }, DomainTurn.None);
            var isAnew = before is DomainState.Waiting or DomainState.Lost;
            return (
                new DomainProof(isAnew ? now : ProvedAt, now, null, false),
                isAnew ? DomainTurn.Proved
                : before == DomainState.Lapsing ? DomainTurn.Back
                : DomainTurn.None
            );
        }
        if (ProvedAt is null)
            return (this, DomainTurn.None);
        if (before == DomainState.Lost)
            return (this with { ProvedAt = null }, DomainTurn.Lost);
        if (before == DomainState.Lapsing)
            return !Warned && now >= LostAt - LastWarning
                ? (this with { Warned = true }, DomainTurn.NearlyLost)
                : (this, DomainTurn.None);
        return look == DomainLook.Missing || now >= ShownAt + LongestSilence
            ? (this with { MissingSince = now, Warned = false }, DomainTurn.Lapsing)
            : (this, DomainTurn.None);
    }
}
