namespace ComeAboard.Client.Accounts;

/// <summary>A personally held account at a proved domain, and how it stands with asking it into custody.</summary>
/// <param name="Address">Its address at the domain.</param>
/// <param name="Name">Its name.</param>
/// <param name="State">found, asked, agreed, declined, unanswered, taken, released or dropped.</param>
/// <param name="Deadline">Until when its holder answers; the instant itself is too late. Null where nobody is asked.</param>
/// <param name="Workspaces">In how many other workspaces the account is.</param>
/// <param name="Since">Since when the account is there.</param>
/// <param name="LastUsedAt">When it was last used anywhere.</param>
/// <param name="AskedAt">When its holder was last asked anew.</param>
/// <param name="AskedBy">The name of who asked; empty for nobody.</param>
/// <param name="Reason">What the holder was told why.</param>
/// <param name="Silence">What follows when they do not answer: let-be, take or release.</param>
/// <param name="Mails">How many mails of this question went to them.</param>
/// <param name="DecidedAt">When it came to where it stands.</param>
/// <param name="Can">What the workspace can do now: ask, ask-again, cancel, take, release.</param>
/// <param name="Version">The version; 0 where nobody has asked.</param>
public sealed record ClaimView(
    string Address,
    string Name,
    string State,
    DateTimeOffset? Deadline,
    int Workspaces,
    DateTimeOffset Since,
    DateTimeOffset LastUsedAt,
    DateTimeOffset? AskedAt,
    string AskedBy,
    string Reason,
    string Silence,
    int Mails,
    DateTimeOffset? DecidedAt,
    IReadOnlyList<string> Can,
    int Version
)
{
    /// <summary>Whether its holder is asked in the same sitting, and answers within a quarter of an hour.</summary>
    public bool AtOnce { get; init; }

    /// <summary>Whether the workspace holds the account and has paused it.</summary>
    public bool Paused { get; init; }
}

/// <summary>A step with claims.</summary>
/// <param name="Action">ask, ask-again, cancel, take or release.</param>
/// <param name="Addresses">Of which accounts: at most 500 addresses.</param>
/// <param name="NoticeDays">How many days there are to answer, 1 to 90; 14 when absent. For ask and ask-again.</param>
/// <param name="AtOnce">Whether to give no notice: what nobody would miss is taken (in no other workspace, unused for a year), everybody else answers within a quarter of an hour, beside whoever asks. For ask.</param>
/// <param name="Reason">What the holder is told why, at most 500 characters. For ask and ask-again.</param>
public sealed record ClaimStepRequest(
    string Action,
    IReadOnlyList<string> Addresses,
    int? NoticeDays = null,
    bool AtOnce = false,
    string? Reason = null
);

/// <summary>What a step with one claim came to.</summary>
/// <param name="Address">The address as it was given.</param>
/// <param name="Action">The step.</param>
/// <param name="Done">Whether it was done; with a dry run, whether it would be.</param>
/// <param name="Code">Why not, for programs; null where it was done.</param>
/// <param name="Sentence">What it comes to, or why it does not.</param>
/// <param name="Claim">The claim afterwards; null where it was not done.</param>
public sealed record ClaimResult(
    string Address,
    string Action,
    bool Done,
    string? Code,
    string Sentence,
    ClaimView? Claim
)
{
    /// <summary>What follows from it, one sentence each.</summary>
    public IReadOnlyList<string> Follows { get; init; } = [];
}

/// <summary>What a step with several claims came to, in the order in which they were given.</summary>
/// <param name="Results">One for each.</param>
public sealed record ClaimStepAnswer(IReadOnlyList<ClaimResult> Results);

/// <summary>A question to the holder of an account, as its link shows it.</summary>
/// <param name="Workspace">The short name of the workspace that asks.</param>
/// <param name="WorkspaceName">Its name.</param>
/// <param name="AskedBy">Who asks.</param>
/// <param name="Reason">Why; empty where nothing was said.</param>
/// <param name="Address">The address it is about.</param>
/// <param name="State">asked while it can be answered; else how it stands.</param>
/// <param name="Deadline">Until when; the instant itself is too late.</param>
/// <param name="Silence">What follows when nobody answers: let-be, take or release.</param>
/// <param name="Changes">What changes, in sentences.</param>
/// <param name="OtherWorkspaces">In how many other workspaces the account is.</param>
public sealed record ClaimOfferView(
    string Workspace,
    string WorkspaceName,
    string AskedBy,
    string Reason,
    string Address,
    string State,
    DateTimeOffset? Deadline,
    string Silence,
    IReadOnlyList<string> Changes,
    int OtherWorkspaces
);

/// <summary>The holder's answer to a claim. In a browser in which they are signed in, the password is left out.</summary>
/// <param name="Answer">come, come-and-keep or decline.</param>
/// <param name="Keep">For come-and-keep: the address of the account that keeps the other workspaces.</param>
/// <param name="Code">For come-and-keep: the code that was mailed to that address.</param>
/// <param name="Password">The account's password.</param>
/// <param name="SecondStep">A code of the account's second step, where it has one.</param>
public sealed record ClaimAnswerRequest(
    string Answer,
    string? Keep = null,
    string? Code = null,
    string? Password = null,
    string? SecondStep = null
);

/// <summary>Asks for a code that shows another address to be the holder's own.</summary>
/// <param name="Address">The other address.</param>
public sealed record ClaimCodeRequest(string Address);
