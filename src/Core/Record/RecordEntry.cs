namespace ComeAboard.Core.Record;

/// <summary>
/// One thing that happened, as it is written down. The details are bound in by their digest, so that erasing them
/// later leaves the chain verifiable.
/// </summary>
/// <param name="Sequence">1 for the first entry of a workspace, then one more each, without gaps.</param>
/// <param name="At">When, in UTC, to the millisecond.</param>
/// <param name="Actor">Who did it: a member's id, or <c>service</c>, or <c>invitee</c>.</param>
/// <param name="Via">Through what: <c>console</c>, <c>client</c>, <c>http</c>, <c>page</c>, <c>mail</c>, <c>clock</c>, <c>batch</c>, <c>operator</c>.</param>
/// <param name="Action">What was done: <c>invitation.queued</c>.</param>
/// <param name="Subject">To what: the id of an invitation or a member.</param>
/// <param name="Details">Names, before and after, as JSON; null once erased.</param>
/// <param name="DetailsDigest">SHA-256 over salt and details, lower-case hexadecimal.</param>
/// <param name="DetailsSalt">Random salt of the digest, hexadecimal.</param>
/// <param name="PreviousHash">The hash of the entry before, 64 zeros for the first.</param>
/// <param name="Hash">The hash of this entry, lower-case hexadecimal.</param>
public sealed record RecordEntry(
    long Sequence,
    DateTimeOffset At,
    string Actor,
    string Via,
    string Action,
    string Subject,
    string? Details,
    string DetailsDigest,
    string DetailsSalt,
    string PreviousHash,
    string Hash
);

/// <summary>What happened, before it has its place in the chain.</summary>
/// <param name="At">When, in UTC; cut to the millisecond.</param>
/// <param name="Actor">Who did it.</param>
/// <param name="Via">Through what.</param>
/// <param name="Action">What was done.</param>
/// <param name="Subject">To what.</param>
/// <param name="Details">Names, before and after, as JSON.</param>
public sealed record Happening(
    DateTimeOffset At,
    string Actor,
    string Via,
    string Action,
    string Subject,
    string Details
);
