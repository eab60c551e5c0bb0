using ComeAboard.Client.Invitations;

namespace ComeAboard.Client.Connections;

/// <summary>An outside system that people are read from, to be added, or how it is to be from now on.</summary>
/// <param name="Name">What people know it by; 1 to 100 characters.</param>
/// <param name="Type">file, ldap, scim, postgres or webhook; one that is changed keeps what it is. To the last two access is carried out and nothing more.</param>
/// <param name="Url">Where it is: <c>ldaps://…</c>, <c>ldap://…</c> (which then has to offer StartTLS) <c>https://…</c> for SCIM and webhooks, <c>postgres://HOST/DATABASE</c>; null for a file.</param>
/// <param name="Base">Below which entry of the directory people are (LDAP).</param>
/// <param name="Filter">Which entries are people, as RFC 4515 or, for SCIM, RFC 7644 writes filters; null for the usual.</param>
/// <param name="SignInAs">The entry that is signed in with (LDAP), null to ask without signing in; or the login (PostgreSQL), null for come_aboard.</param>
/// <param name="Secret">Its password, the bearer token (SCIM), or what webhooks are signed with, 24 signs at least; null for none, or for the one there is.</param>
/// <param name="Certificate">The certificates (PEM) of the authority that vouches for it, where that is no public one; null for those there are, empty for none.</param>
/// <param name="Newcomers">What becomes of those who are new: invite, add (made outright, at a proved domain) or nothing; null for invite.</param>
/// <param name="Defaults">What they get.</param>
/// <param name="Wins">By field – name, organisation, title, department, manager, country – whose value wins: filled (ours, where there is one), theirs or ours; fields not named are filled.</param>
/// <param name="EveryHours">After how many hours it is read again, 1 to 720; null or 0 for by hand only.</param>
/// <param name="Floor">How many of a hundred may be gone at once, 0 to 100; null for 10.</param>
public sealed record ConnectionRequest(
    string Name,
    string? Type = null,
    string? Url = null,
    string? Base = null,
    string? Filter = null,
    string? SignInAs = null,
    string? Secret = null,
    string? Certificate = null,
    string? Newcomers = null,
    BatchDefaults? Defaults = null,
    IReadOnlyDictionary<string, string>? Wins = null,
    int? EveryHours = null,
    int? Floor = null
)
{
    /// <summary>Where a token is asked for with the secret (RFC 6749, 4.4), for SCIM; null for the one there is, empty where the secret is the token.</summary>
    public string? TokenUrl { get; init; }

    /// <summary>As which client it is asked for.</summary>
    public string? ClientId { get; init; }

    /// <summary>Whether an address of this network is meant; the operator has to allow it, too. Null for what stands, or no.</summary>
    public bool? AllowPrivate { get; init; }
}

/// <summary>An outside system that people are read from.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What people know it by.</param>
/// <param name="Type">file, ldap, scim, postgres or webhook.</param>
/// <param name="Place">Where it is: its address, or the name of the file; empty where no file was handed in as yet.</param>
/// <param name="Base">Below which entry people are; empty for other types.</param>
/// <param name="Filter">Which entries are people; empty for the usual.</param>
/// <param name="SignInAs">The entry that is signed in with; empty for none.</param>
/// <param name="HasSecret">Whether a secret is kept; it is never shown.</param>
/// <param name="Newcomers">invite, add or nothing.</param>
/// <param name="Defaults">What they get.</param>
/// <param name="Wins">Whose value of each field wins.</param>
/// <param name="EveryHours">After how many hours it is read again; 0 for by hand only.</param>
/// <param name="Floor">How many of a hundred may be gone at once.</param>
/// <param name="State">resting, reading or doing.</param>
/// <param name="Done">How many records of the present work are done.</param>
/// <param name="Total">How many there are, as far as is known.</param>
/// <param name="Counts">Records by verdict – same, likely, new, conflicting, leave-out –, and to-join, to-bring-in, to-decide, done, refused, gone.</param>
/// <param name="Problem">Why the last work came to nothing; null where it came to its end.</param>
/// <param name="LastReadAt">When it was last read whole; null for never.</param>
/// <param name="NextReadAt">When it is read next by itself; null for by hand only.</param>
/// <param name="AddedAt">When it was added.</param>
/// <param name="AddedBy">By whom.</param>
/// <param name="Version">The version.</param>
public sealed record ConnectionView(
    Guid Id,
    string Name,
    string Type,
    string Place,
    string Base,
    string Filter,
    string SignInAs,
    bool HasSecret,
    string Newcomers,
    BatchDefaults Defaults,
    IReadOnlyDictionary<string, string> Wins,
    int EveryHours,
    int Floor,
    string State,
    int Done,
    int Total,
    IReadOnlyDictionary<string, int> Counts,
    Problem? Problem,
    DateTimeOffset? LastReadAt,
    DateTimeOffset? NextReadAt,
    DateTimeOffset AddedAt,
    string AddedBy,
    int Version
)
{
    /// <summary>How many accounts there nobody ought to have, as the last sweep found, and nobody said may be left.</summary>
    public int LeftOver { get; init; }
}

/// <summary>Somebody of an outside system, as a test shows them.</summary>
/// <param name="Name">Their name there.</param>
/// <param name="Address">Their address there; empty for none.</param>
/// <param name="Title">Their job title there.</param>
public sealed record SampleView(string Name, string Address, string Title);

/// <summary>What a test of a connection came to: it answers, and these are the first it shows.</summary>
/// <param name="Seen">How many people the part that was read has.</param>
/// <param name="IsWhole">Whether that was all of them.</param>
/// <param name="Sample">The first of them.</param>
public sealed record ConnectionTest(int Seen, bool IsWhole, IReadOnlyList<SampleView> Sample);

/// <summary>How a connection is to be read.</summary>
/// <param name="Believe">Whether it is believed however many are gone; else a system that suddenly shows far fewer changes nothing.</param>
public sealed record ReadRequest(bool Believe = false);

/// <summary>Somebody who is here and is, or may be, meant by a record.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="Organisation">Their organisation.</param>
/// <param name="Title">Their job title.</param>
public sealed record MeantView(Guid Id, string Name, string Address, string Organisation, string Title);

/// <summary>A field that joining changes.</summary>
/// <param name="Field">Which.</param>
/// <param name="Before">What stands there.</param>
/// <param name="After">What will stand there.</param>
public sealed record FieldChangeView(string Field, string Before, string After);

/// <summary>A record of an outside system in the match table.</summary>
/// <param name="Number">Its number; stays the same from one reading to the next.</param>
/// <param name="Key">By what the system tells it apart.</param>
/// <param name="Name">The name there.</param>
/// <param name="Address">The address there.</param>
/// <param name="Organisation">The organisation there.</param>
/// <param name="Title">The job title there.</param>
/// <param name="Department">The department there.</param>
/// <param name="Verdict">same, likely, new, conflicting or leave-out.</param>
/// <param name="Score">The probability that it is the person named, 0 to below 1; 0 where nobody is.</param>
/// <param name="Reasons">Why, the strongest first.</param>
/// <param name="Person">Who they are or may be; null for nobody here, and for several.</param>
/// <param name="Decision">join, bring-in or leave-out; empty where somebody has to say.</param>
/// <param name="DecidedBy">Who said so; empty where it follows from the verdict.</param>
/// <param name="State">open, done or refused.</param>
/// <param name="Problem">Why it was refused.</param>
/// <param name="Changes">What joining changes.</param>
/// <param name="InvitationId">The invitation it led to.</param>
/// <param name="GoneSince">Since when it is not there any more; null while it is.</param>
/// <param name="StaysBy">Who said that the person stays although they are gone there; empty for nobody.</param>
public sealed record SourceRecordView(
    int Number,
    string Key,
    string Name,
    string Address,
    string Organisation,
    string Title,
    string Department,
    string Verdict,
    double Score,
    IReadOnlyList<string> Reasons,
    MeantView? Person,
    string Decision,
    string DecidedBy,
    string State,
    Problem? Problem,
    IReadOnlyList<FieldChangeView> Changes,
    Guid? InvitationId,
    DateTimeOffset? GoneSince,
    string StaysBy
);

/// <summary>What is decided of one record.</summary>
/// <param name="Key">By what the system tells it apart, or its number.</param>
/// <param name="Decision">join, bring-in, leave-out, stays (of one that is gone), or empty to take back what was said.</param>
/// <param name="Person">With whom it is joined, by address or id; null for whom the table names.</param>
public sealed record RecordDecision(string Key, string? Decision, string? Person = null);

/// <summary>What is decided: of records that are named, or of all that a filter finds.</summary>
/// <param name="Records">The records that are named, at most 2000; null for a filter.</param>
/// <param name="Decision">What is decided of all that the filter finds.</param>
/// <param name="Verdict">Of which verdict they are: one of them, to-decide, refused or gone; null for all.</param>
/// <param name="Search">A part of their name, address or organisation; null for all.</param>
public sealed record DecideRequest(
    IReadOnlyList<RecordDecision>? Records = null,
    string? Decision = null,
    string? Verdict = null,
    string? Search = null
);

/// <summary>A decision that was not taken.</summary>
/// <param name="Key">Of which record.</param>
/// <param name="Problem">Why.</param>
public sealed record DecisionRefusal(string Key, Problem Problem);

/// <summary>What deciding came to.</summary>
/// <param name="Decided">Of how many records it was decided.</param>
/// <param name="Refused">Decisions that were not taken.</param>
/// <param name="Connection">The connection afterwards.</param>
public sealed record DecideAnswer(
    int Decided,
    IReadOnlyList<DecisionRefusal> Refused,
    ConnectionView Connection
);
