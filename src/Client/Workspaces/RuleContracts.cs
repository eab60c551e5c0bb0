namespace ComeAboard.Client.Workspaces;

/// <summary>The rules of the house for inviting.</summary>
/// <param name="AnswerDays">How many days an invitation may be answered when nothing else is said, 1 to 365.</param>
/// <param name="LongestAnswerDays">The most that may be asked for.</param>
/// <param name="LongestStayDays">The longest stay by kind in days; kinds left out may stay without end.</param>
/// <param name="HostForOutsiders">Whether outsiders need a host.</param>
/// <param name="Approval">Kinds whose acceptance waits for approval.</param>
/// <param name="AllowedDomains">Mail domains that may be invited; empty for any.</param>
/// <param name="BlockedDomains">Mail domains that may not.</param>
/// <param name="ReminderDays">Days after the mail at which an unanswered invitation is reminded of; empty for never.</param>
public sealed record RulesView(
    int AnswerDays,
    int LongestAnswerDays,
    IReadOnlyDictionary<string, int> LongestStayDays,
    bool HostForOutsiders,
    IReadOnlyList<string> Approval,
    IReadOnlyList<string> AllowedDomains,
    IReadOnlyList<string> BlockedDomains,
    IReadOnlyList<int> ReminderDays
)
{
    /// <summary>By kind, how many days a stay usually has, the first and the last included; kinds left out usually have no end. Absent in a request: 90 days for outsiders.</summary>
    public IReadOnlyDictionary<string, int>? UsualStayDays { get; init; }

    /// <summary>Roles, by name, whose giving by invitation waits for approval.</summary>
    public IReadOnlyList<string> ApprovalRoles { get; init; } = [];

    /// <summary>Whether somebody waits for approval who comes with another address than the invited one.</summary>
    public bool ApproveOtherAddress { get; init; }

    /// <summary>The first day, inclusive, from which holders of duties get in only with a passkey or a second step; null for never.</summary>
    public DateOnly? StrongSignInFrom { get; init; }

    /// <summary>What follows when the holder of a claimed account does not answer: let-be, take or release. Absent in a request: let-be.</summary>
    public string? ClaimSilence { get; init; }

    /// <summary>The name of the seat pool of which each member takes a seat whose account the workspace holds; null or absent where none is counted for that.</summary>
    public string? HeldSeats { get; init; }

    /// <summary>
    /// How names of outsiders are written: a text with {name} once, and {organisation} or {kind} where they are wanted. It is
    /// offered, and never forced. Empty for no standard.
    /// </summary>
    public string? OutsiderNames { get; init; }

    /// <summary>By kind, the names of the roles one of which somebody must hold to invite it; kinds left out may be invited by anybody with the duty.</summary>
    public IReadOnlyDictionary<string, IReadOnlyList<string>> Inviters { get; init; } =
        new Dictionary<string, IReadOnlyList<string>>();

    /// <summary>The version to give back in If-Match; 0 in a request stands for whatever it is.</summary>
    public int Version { get; init; }
}

/// <summary>How the workspace shows itself to invitees.</summary>
/// <param name="SenderName">The name its mails come from.</param>
/// <param name="ReplyTo">Where answers to its mails go; null for nowhere else.</param>
/// <param name="Language">The language used when nothing else is said.</param>
/// <param name="Colour">The colour of invitee pages and mails as #rrggbb, dark enough for white letters; null for the product's own.</param>
public sealed record AppearanceView(string SenderName, string? ReplyTo, string Language, string? Colour)
{
    /// <summary>The name of the workspace; absent stays as it is.</summary>
    public string? Name { get; init; }

    /// <summary>The IANA zone in which its days begin and end; absent stays as it is.</summary>
    public string? TimeZone { get; init; }

    /// <summary>The version to give back in If-Match; 0 in a request stands for whatever it is.</summary>
    public int Version { get; init; }
}

/// <summary>The wording of a mail in a language.</summary>
/// <param name="Letter">invitation or reminder.</param>
/// <param name="Language">The language, a BCP 47 tag.</param>
/// <param name="Subject">The subject, a Liquid template.</param>
/// <param name="Body">The body, a Liquid template in plain text; blank lines part paragraphs.</param>
/// <param name="IsOwn">Whether the workspace wrote it; else it is what ships.</param>
/// <param name="Words">What may be put in: the names the templates know.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record WordingView(
    string Letter,
    string Language,
    string Subject,
    string Body,
    bool IsOwn,
    IReadOnlyList<string> Words,
    int Version
);

/// <summary>A wording of the workspace's own.</summary>
/// <param name="Subject">The subject, a Liquid template.</param>
/// <param name="Body">The body, a Liquid template in plain text without links.</param>
public sealed record WordingRequest(string Subject, string Body);
