using ComeAboard.Client.Access;

namespace ComeAboard.Client.Invitations;

/// <summary>What every entry of a list gets that does not say otherwise.</summary>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">The name of a role for the whole workspace.</param>
/// <param name="From">The first day of the stay, inclusive.</param>
/// <param name="Until">The last day of the stay, inclusive.</param>
/// <param name="Message">A message in plain words without links.</param>
/// <param name="Language">The language of the mail.</param>
/// <param name="AnswerDays">How many days it may be answered.</param>
/// <param name="Organisation">Their organisation.</param>
/// <param name="Host">The address of their host.</param>
/// <param name="Preset">The name of a preset that says what is not said here.</param>
public sealed record BatchDefaults(
    string? Kind = null,
    string? Role = null,
    DateOnly? From = null,
    DateOnly? Until = null,
    string? Message = null,
    string? Language = null,
    int? AnswerDays = null,
    string? Organisation = null,
    string? Host = null,
    string? Preset = null
)
{
    /// <summary>What they get beside the role.</summary>
    public BundleView? Gives { get; init; }

    /// <summary>Whether stays have no end; else a kind that usually has one gets it.</summary>
    public bool NoEnd { get; init; }

    /// <summary>Whether organisations that nobody here knows are meant as they are written; else they are asked about.</summary>
    public bool OrganisationAsWritten { get; init; }
}

/// <summary>A pasted list of people to invite.</summary>
/// <param name="Text">Addresses in any shape in which people paste them.</param>
/// <param name="Name">What to call the list; absent for "pasted list".</param>
/// <param name="Defaults">What every entry gets.</param>
public sealed record PastedRequest(string Text, string? Name = null, BatchDefaults? Defaults = null);

/// <summary>A run of many invitations.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">The name of the file or list.</param>
/// <param name="Format">csv, xlsx or list.</param>
/// <param name="State">reading, resting, sending or stopped.</param>
/// <param name="Entries">How many entries have been read.</param>
/// <param name="Counts">Entries by verdict – ready, personal, member, invited, repeated, wrong, blocked, stopped – and sent; they add up to the entries.</param>
/// <param name="Done">How many entries of the present work, reading or sending, are done.</param>
/// <param name="Total">How many there are, as far as known; null while that is not known.</param>
/// <param name="PerSecond">Entries per second of the present work; null before there is one.</param>
/// <param name="SecondsLeft">How long it will still take at that rate; null when not known.</param>
/// <param name="UnknownColumns">Headings that were not understood; what stands below them is not used.</param>
/// <param name="Fault">Why it stopped.</param>
/// <param name="CreatedBy">Who handed it in.</param>
/// <param name="CreatedAt">When.</param>
/// <param name="FinishedAt">When the last work on it ended; null while it goes on.</param>
public sealed record BatchView(
    Guid Id,
    string Name,
    string Format,
    string State,
    int Entries,
    IReadOnlyDictionary<string, int> Counts,
    int Done,
    int? Total,
    double? PerSecond,
    double? SecondsLeft,
    IReadOnlyList<string> UnknownColumns,
    string? Fault,
    string CreatedBy,
    DateTimeOffset CreatedAt,
    DateTimeOffset? FinishedAt
)
{
    /// <summary>How the letters of a CSV file were written: UTF-8, UTF-16 or Windows-1252; null for anything else.</summary>
    public string? Encoding { get; init; }

    /// <summary>Whether the same file was handed in before: this is that list, and no second one was made.</summary>
    public bool HandedInBefore { get; init; }
}

/// <summary>One entry of a batch.</summary>
/// <param name="Number">Its place, from 1; headings are not counted.</param>
/// <param name="Address">The address, or what was written in its place.</param>
/// <param name="Name">The name; empty for none.</param>
/// <param name="Kind">The kind it asks for; null when it says none.</param>
/// <param name="Verdict">ready, personal, member, invited, repeated, wrong, blocked or stopped.</param>
/// <param name="Problem">Why it cannot be sent; null when it can.</param>
/// <param name="Notes">What is odd without standing in the way.</param>
/// <param name="Suggestion">What a wrong address was probably meant to be.</param>
/// <param name="InvitationId">The invitation it led to; null while none.</param>
/// <param name="State">Where that invitation stands.</param>
public sealed record BatchEntryView(
    int Number,
    string Address,
    string Name,
    string? Kind,
    string Verdict,
    Problem? Problem,
    IReadOnlyList<NoteView> Notes,
    string? Suggestion,
    Guid? InvitationId,
    string? State
);

/// <summary>What would become of a list if it were sent now; nothing was kept or sent.</summary>
/// <param name="Entries">How many entries there are.</param>
/// <param name="Counts">Entries by verdict; they add up to the entries.</param>
/// <param name="UnknownColumns">Headings that were not understood.</param>
/// <param name="Items">The entries, those that cannot be sent first; at most 10,000.</param>
public sealed record BatchCheck(
    int Entries,
    IReadOnlyDictionary<string, int> Counts,
    IReadOnlyList<string> UnknownColumns,
    IReadOnlyList<BatchEntryView> Items
)
{
    /// <summary>How the letters of a CSV file were written: UTF-8, UTF-16 or Windows-1252; null for anything else.</summary>
    public string? Encoding { get; init; }
}

/// <summary>Mends one entry; what is absent stays.</summary>
/// <param name="Address">The right address.</param>
/// <param name="Name">The name.</param>
/// <param name="Kind">The kind.</param>
/// <param name="Role">The role.</param>
/// <param name="From">The first day.</param>
/// <param name="Until">The last day.</param>
/// <param name="Host">The host's address.</param>
public sealed record MendRequest(
    string? Address = null,
    string? Name = null,
    string? Kind = null,
    string? Role = null,
    DateOnly? From = null,
    DateOnly? Until = null,
    string? Host = null
)
{
    /// <summary>The organisation.</summary>
    public string? Organisation { get; init; }

    /// <summary>Whether an organisation that nobody here knows is meant as it is written.</summary>
    public bool OrganisationAsWritten { get; init; }
}

/// <summary>What invitations carry again and again, under a name.</summary>
/// <param name="Name">The name, unique in the workspace in any case.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">The name of a role for the whole workspace.</param>
/// <param name="StayDays">How many days people may stay, the first and the last included; absent for the usual stay of the kind.</param>
/// <param name="Organisation">Their organisation.</param>
/// <param name="Message">The message.</param>
/// <param name="Language">The language of the mail; null for the workspace's.</param>
public sealed record PresetRequest(
    string Name,
    string Kind,
    string? Role = null,
    int? StayDays = null,
    string? Organisation = null,
    string? Message = null,
    string? Language = null
)
{
    /// <summary>What is given beside the role.</summary>
    public BundleView? Gives { get; init; }

    /// <summary>Whether stays have no end; else a kind that usually has one gets it.</summary>
    public bool NoEnd { get; init; }
}

/// <summary>A preset.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">As what people are invited.</param>
/// <param name="Role">What it gives, in a few words.</param>
/// <param name="StayDays">How many days they may stay; null for no end.</param>
/// <param name="Organisation">Their organisation; empty for none.</param>
/// <param name="Message">The message; empty for none.</param>
/// <param name="Language">The language of the mail; null for the workspace's.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record PresetView(
    Guid Id,
    string Name,
    string Kind,
    string Role,
    int? StayDays,
    string Organisation,
    string Message,
    string? Language,
    int Version
) : INamedView
{
    /// <summary>What it gives.</summary>
    public BundleView Gives { get; init; } = new();
}
