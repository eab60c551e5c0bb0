namespace ComeAboard.Client.Accounts;

/// <summary>A mail domain that the workspace says is its own.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Domain">The domain in lower case; its subdomains are not meant.</param>
/// <param name="State">waiting, proved, lapsing or lost.</param>
/// <param name="RecordName">The name of the TXT record that shows it.</param>
/// <param name="RecordValue">What that record holds.</param>
/// <param name="AddedAt">When it was added.</param>
/// <param name="ProvedAt">Since when the proof counts without a break; null when it does not.</param>
/// <param name="MissingSince">Since when the record is not seen any more; null while it is.</param>
/// <param name="LostAt">The first instant at which nothing may be done by the proof any more, if the record stays away; null while it is seen.</param>
/// <param name="LookedAt">When DNS was last asked; null for not yet.</param>
/// <param name="LastLook">What it said: shown, missing or unanswered; null for not yet.</param>
/// <param name="HeldElsewhere">Whether the record is seen, but another workspace has proved the domain earlier.</param>
/// <param name="Version">The version.</param>
public sealed record DomainView(
    Guid Id,
    string Domain,
    string State,
    string RecordName,
    string RecordValue,
    DateTimeOffset AddedAt,
    DateTimeOffset? ProvedAt,
    DateTimeOffset? MissingSince,
    DateTimeOffset? LostAt,
    DateTimeOffset? LookedAt,
    string? LastLook,
    bool HeldElsewhere,
    int Version
);

/// <summary>A mail domain to be proved.</summary>
/// <param name="Domain">The domain, such as harbour.example.</param>
public sealed record DomainRequest(string Domain);
