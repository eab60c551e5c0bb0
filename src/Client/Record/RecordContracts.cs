using System.Text.Json;

namespace ComeAboard.Client.Record;

/// <summary>One entry of the record.</summary>
/// <param name="Sequence">Its place, from 1.</param>
/// <param name="At">When, in UTC.</param>
/// <param name="Actor">Who: a member's id, or invitee, service or operator.</param>
/// <param name="ActorName">Who, by name.</param>
/// <param name="Via">Through what: console, client, http, page, mail, clock or operator.</param>
/// <param name="Action">What was done, such as invitation.sent.</param>
/// <param name="Subject">To what: the id of an invitation or member.</param>
/// <param name="Details">Names, before and after; null once erased.</param>
/// <param name="Hash">The entry's hash in the chain.</param>
public sealed record RecordEntryView(
    long Sequence,
    DateTimeOffset At,
    string Actor,
    string? ActorName,
    string Via,
    string Action,
    string Subject,
    JsonElement? Details,
    string Hash
);

/// <summary>Whether the record is whole.</summary>
/// <param name="Whole">Whether every entry is in its place and unchanged.</param>
/// <param name="Entries">How many entries were read.</param>
/// <param name="Head">The hash of the last good entry. Keep it: a later record must still contain it.</param>
/// <param name="FaultAt">The entry at which the first fault shows.</param>
/// <param name="FaultCode">record.missing, record.reordered, record.changed or record.cut.</param>
/// <param name="FaultSentence">What was found.</param>
public sealed record RecordVerification(
    bool Whole,
    long Entries,
    string Head,
    long? FaultAt,
    string? FaultCode,
    string? FaultSentence
);
