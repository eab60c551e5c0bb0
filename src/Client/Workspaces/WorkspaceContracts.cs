using ComeAboard.Client.Access;

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

    /// <summary>By kind, how many days a stay usually has, never more than it may; kinds left out usually have no end.</summary>
    public IReadOnlyDictionary<string, int> UsualStayDays { get; init; } = new Dictionary<string, int>();

    /// <summary>The version of how it shows itself, to give back in If-Match when that is changed.</summary>
    public int Appearance { get; init; }

    /// <summary>The duties of whoever asks.</summary>
    public IReadOnlyList<string> Duties { get; init; } = [];

    /// <summary>The first day, inclusive, from which whoever asks needs a passkey or a second step, where they signed in without; null for never.</summary>
    public DateOnly? StrongSignInFrom { get; init; }

    /// <summary>The pages of the console that open to whoever asks, in the order of the work.</summary>
    public IReadOnlyList<string> Pages { get; init; } = [];
}

/// <summary>A role that can be given.</summary>
/// <param name="Name">Its word.</param>
/// <param name="Sentence">What its holder can do.</param>
public sealed record RoleView(string Name, string Sentence);

/// <summary>What waits, who is here, and what ends soon.</summary>
/// <param name="Invitations">Invitations by state; every state is present.</param>
/// <param name="People">Active people by kind; every kind is present.</param>
/// <param name="Administrators">How many administrators without an end date there are.</param>
/// <param name="WaitingMail">How many mails the mail server has not taken yet.</param>
/// <param name="EndingSoon">People whose last day is within 30 days, soonest first, at most 20; none for who may not see people.</param>
/// <param name="ExpiringSoon">Pending invitations whose deadline is within 3 days, soonest first, at most 20; none for who may not see invitations.</param>
public sealed record OverviewView(
    IReadOnlyDictionary<string, long> Invitations,
    IReadOnlyDictionary<string, long> People,
    int Administrators,
    int WaitingMail,
    IReadOnlyList<Accounts.PersonView> EndingSoon,
    IReadOnlyList<Invitations.InvitationView> ExpiringSoon
)
{
    /// <summary>The first day, inclusive, from which holders of duties need a passkey or a second step; null for never.</summary>
    public DateOnly? StrongSignInFrom { get; init; }

    /// <summary>How many accounts at proved domains are held personally and were not asked for; 0 for whom it does not concern.</summary>
    public int HeldPersonally { get; init; }

    /// <summary>How many pairs of people here may be one human, and nobody has said anything of; 0 for whom it does not concern.</summary>
    public int TwiceHere { get; init; }

    /// <summary>How many people who are here are gone in a system they were joined with; 0 for visitors without the duty claims.</summary>
    public int GoneThere { get; init; }

    /// <summary>How many accounts in connected systems nobody ought to have, as the last sweeps found; 0 for visitors without the duty settings.</summary>
    public int LeftOver { get; init; }

    /// <summary>Departures of which a connected system has not confirmed for a while; 0 for whoever does not end people's access.</summary>
    public int StuckDepartures { get; init; }

    /// <summary>Holders of duties who have neither, where that day is set and whoever asks looks after people.</summary>
    public IReadOnlyList<Accounts.PersonView> WithoutStrongSignIn { get; init; } = [];
}

/// <summary>One page of a list.</summary>
/// <typeparam name="T">What is listed.</typeparam>
/// <param name="Items">The items of this page.</param>
/// <param name="Next">The cursor of the next page, or null when this is the last.</param>
public sealed record Page<T>(IReadOnlyList<T> Items, string? Next);

/// <summary>An invitation thought of but not yet written.</summary>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">A role for the whole workspace.</param>
/// <param name="Gives">What is given beside it.</param>
/// <param name="Preset">A preset that says what the rest does not.</param>
/// <param name="Organisation">The organisation of the invitee.</param>
/// <param name="Host">Whether a host will be named: their address or id.</param>
/// <param name="Until">The last day of the stay, inclusive.</param>
/// <param name="Address">The address, if it is known already.</param>
public sealed record ReadinessRequest(
    string? Kind = null,
    string? Role = null,
    BundleView? Gives = null,
    string? Preset = null,
    string? Organisation = null,
    string? Host = null,
    DateOnly? Until = null,
    string? Address = null
)
{
    /// <summary>The first day of the stay, inclusive.</summary>
    public DateOnly? From { get; init; }

    /// <summary>Whether the stay is to have no end.</summary>
    public bool NoEnd { get; init; }

    /// <summary>Whether an organisation that nobody here knows is meant as it is written.</summary>
    public bool OrganisationAsWritten { get; init; }
}

/// <summary>Something that stands in the way of an invitation, or will hold it up.</summary>
/// <param name="Code">Stable: role.missing, seat.none-free, organisation.over, right.beyond-own …</param>
/// <param name="Sentence">What is wrong.</param>
/// <param name="Remedy">What to do.</param>
/// <param name="Stops">Whether it stops the invitation; else it only holds it up.</param>
/// <param name="Path">The page of the console where it is mended; null where there is none.</param>
/// <param name="Command">The command that mends it; null where there is none.</param>
public sealed record BlockerView(
    string Code,
    string Sentence,
    string Remedy,
    bool Stops,
    string? Path,
    string? Command
);

/// <summary>Everything that stands in the way, at once.</summary>
/// <param name="Ready">Whether nothing stops the invitation.</param>
/// <param name="Blockers">What does, and what would hold it up.</param>
public sealed record ReadinessView(bool Ready, IReadOnlyList<BlockerView> Blockers);
