namespace ComeAboard.Client.Workspaces;

/// <summary>A workspace, as its members see it.</summary>
/// <param name="Name">The name people see.</param>
/// <param name="ShortName">The name in paths.</param>
/// <param name="TimeZone">The IANA zone in which its days begin and end.</param>
/// <param name="Language">The language of its mails, a BCP 47 tag.</param>
/// <param name="SenderName">The name its mails come from.</param>
/// <param name="ReplyTo">Where answers to its mails go.</param>
/// <param name="AnswerDays">How many days an invitation may be answered when nothing else is said.</param>
/// <param name="Today">The day it is there now.</param>
/// <param name="Roles">The roles that can be given, least first.</param>
public sealed record WorkspaceView(
    string Name,
    string ShortName,
    string TimeZone,
    string Language,
    string SenderName,
    string? ReplyTo,
    int AnswerDays,
    DateOnly Today,
    IReadOnlyList<RoleView> Roles
)
{
    /// <summary>The colour of invitee pages and mails as #rrggbb; null for the product's own.</summary>
    public string? Colour { get; init; }
}

/// <summary>A role that can be given.</summary>
/// <param name="Name">Its word.</param>
/// <param name="Sentence">What its holder can do.</param>
public sealed record RoleView(string Name, string Sentence);

/// <summary>What waits, who is here, and what ends soon.</summary>
/// <param name="Invitations">Invitations by state; every state is present.</param>
/// <param name="People">Active people by kind; every kind is present.</param>
/// <param name="Administrators">How many administrators without an end date there are.</param>
/// <param name="WaitingMail">How many mails the mail server has not taken yet after at least one try.</param>
/// <param name="EndingSoon">People whose last day is within 30 days, soonest first, at most 20.</param>
/// <param name="ExpiringSoon">Pending invitations whose deadline is within 3 days, soonest first, at most 20.</param>
public sealed record OverviewView(
    IReadOnlyDictionary<string, long> Invitations,
    IReadOnlyDictionary<string, long> People,
    int Administrators,
    int WaitingMail,
    IReadOnlyList<Accounts.PersonView> EndingSoon,
    IReadOnlyList<Invitations.InvitationView> ExpiringSoon
);

/// <summary>One page of a list.</summary>
/// <typeparam name="T">What is listed.</typeparam>
/// <param name="Items">The items of this page.</param>
/// <param name="Next">The cursor of the next page, or null when this is the last.</param>
public sealed record Page<T>(IReadOnlyList<T> Items, string? Next);
