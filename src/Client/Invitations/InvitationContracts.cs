using ComeAboard.Client.Access;

namespace ComeAboard.Client.Invitations;

/// <summary>An invitation to be sent, or kept as a draft.</summary>
/// <param name="Address">One mail address.</param>
/// <param name="Kind">staff, guest, partner or client; may be absent where a preset says it.</param>
/// <param name="Role">The name of a role, for the whole workspace or at <see cref="Resource"/>.</param>
/// <param name="Name">The invitee's name, at most 100 characters.</param>
/// <param name="Message">A message in plain words without links, at most 2,000 characters.</param>
/// <param name="Until">The last day of the stay, inclusive, in the workspace's time zone; absent for no end.</param>
/// <param name="Language">The language of the mail, a BCP 47 tag; the workspace's when absent.</param>
/// <param name="AnswerDays">How many days it may be answered, 1 to 365; the workspace's when absent.</param>
public sealed record InvitationRequest(
    string Address,
    string? Kind = null,
    string? Role = null,
    string? Name = null,
    string? Message = null,
    DateOnly? Until = null,
    string? Language = null,
    int? AnswerDays = null
)
{
    /// <summary>The name of the resource that the role is given at; absent for the whole workspace.</summary>
    public string? Resource { get; init; }

    /// <summary>What is given beside the role: more roles, groups, seats.</summary>
    public BundleView? Gives { get; init; }

    /// <summary>The name of a preset that says what this request does not.</summary>
    public string? Preset { get; init; }

    /// <summary>Whether it is kept as a draft: listed, and sent to nobody.</summary>
    public bool Draft { get; init; }

    /// <summary>The first day of the stay, inclusive; absent for at once. Before it the person has no access.</summary>
    public DateOnly? From { get; init; }

    /// <summary>The address or id of the member of the staff who answers for them.</summary>
    public string? Host { get; init; }

    /// <summary>Their given name.</summary>
    public string? GivenName { get; init; }

    /// <summary>Their family name.</summary>
    public string? FamilyName { get; init; }

    /// <summary>The firm or body they belong to, by name or code.</summary>
    public string? Organisation { get; init; }

    /// <summary>Whether an organisation that nobody here knows is meant as it is written; else it is asked about.</summary>
    public bool OrganisationAsWritten { get; init; }

    /// <summary>Whether the stay has no end; else a kind that usually has one gets it where no last day is said.</summary>
    public bool NoEnd { get; init; }

    /// <summary>Their job title.</summary>
    public string? Title { get; init; }

    /// <summary>Their department.</summary>
    public string? Department { get; init; }

    /// <summary>Whom they report to.</summary>
    public string? Manager { get; init; }

    /// <summary>Their country.</summary>
    public string? Country { get; init; }

    /// <summary>A line to tell people apart, seen only by those who look after the workspace.</summary>
    public string? Note { get; init; }
}

/// <summary>Where an invitation's mail stands.</summary>
/// <param name="State">due, deferred, accepted (by the mail server), delivered, bounced or failed.</param>
/// <param name="Sentence">The same in plain words.</param>
/// <param name="Tries">How often sending was tried.</param>
/// <param name="NextTryAt">When it is tried next, while it waits.</param>
/// <param name="Answer">The mail server's last words, if any.</param>
public sealed record DeliveryView(
    string State,
    string Sentence,
    int Tries,
    DateTimeOffset? NextTryAt,
    string? Answer
);

/// <summary>One address, asked in.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Address">Who is asked.</param>
/// <param name="Name">Their name as the inviter knows it; empty for none.</param>
/// <param name="Kind">As what.</param>
/// <param name="Role">What it gives, in a few words.</param>
/// <param name="Until">The last day of the stay, inclusive; null for no end.</param>
/// <param name="Message">The inviter's message; empty for none.</param>
/// <param name="Language">The language of the mail.</param>
/// <param name="State">draft, queued, sent, waiting, accepted, refused, declined, expired, revoked or bounced.</param>
/// <param name="Deadline">The first instant at which an answer is too late.</param>
/// <param name="InvitedBy">The inviter's name.</param>
/// <param name="CreatedAt">When it was first decided.</param>
/// <param name="LastStepAt">When its state last changed.</param>
/// <param name="SentAt">When the mail server took the last mail.</param>
/// <param name="SeenAt">When its page was first opened.</param>
/// <param name="AnsweredAt">When it was answered.</param>
/// <param name="Resends">How often it was sent again.</param>
/// <param name="MemberId">The member it made.</param>
/// <param name="Delivery">Where its last mail stands.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record InvitationView(
    Guid Id,
    string Address,
    string Name,
    string Kind,
    string Role,
    DateOnly? Until,
    string Message,
    string Language,
    string State,
    DateTimeOffset Deadline,
    string InvitedBy,
    DateTimeOffset CreatedAt,
    DateTimeOffset LastStepAt,
    DateTimeOffset? SentAt,
    DateTimeOffset? SeenAt,
    DateTimeOffset? AnsweredAt,
    int Resends,
    Guid? MemberId,
    DeliveryView? Delivery,
    int Version
)
{
    /// <summary>The organisation the workspace knows; null when there is only its name.</summary>
    public Guid? OrganisationId { get; init; }

    /// <summary>What it gives.</summary>
    public BundleView Gives { get; init; } = new();

    /// <summary>The first day of the stay, inclusive; null for at once.</summary>
    public DateOnly? From { get; init; }

    /// <summary>Their given name; empty for none.</summary>
    public string GivenName { get; init; } = "";

    /// <summary>Their family name; empty for none.</summary>
    public string FamilyName { get; init; } = "";

    /// <summary>The firm or body they belong to; empty for none.</summary>
    public string Organisation { get; init; } = "";

    /// <summary>Their job title; empty for none.</summary>
    public string Title { get; init; } = "";

    /// <summary>Their department; empty for none.</summary>
    public string Department { get; init; } = "";

    /// <summary>Whom they report to; empty for none.</summary>
    public string Manager { get; init; } = "";

    /// <summary>Their country; empty for none.</summary>
    public string Country { get; init; } = "";

    /// <summary>A line to tell people apart; empty for none.</summary>
    public string Note { get; init; } = "";

    /// <summary>The host's name; empty for none.</summary>
    public string Host { get; init; } = "";

    /// <summary>How many days it may be answered, counted anew when it is sent again.</summary>
    public int AnswerDays { get; init; }

    /// <summary>Whether accepting waits for approval.</summary>
    public bool NeedsApproval { get; init; }

    /// <summary>The proved address somebody accepted with who did not prove the invited one; empty otherwise.</summary>
    public string CameAs { get; init; } = "";

    /// <summary>Who handed a link to it over by another way than mail; empty for nobody.</summary>
    public string HandedBy { get; init; } = "";

    /// <summary>When it is reminded of next, if at all.</summary>
    public DateTimeOffset? NextReminderAt { get; init; }

    /// <summary>How often it was reminded of.</summary>
    public int Reminders { get; init; }

    /// <summary>The batch it came from.</summary>
    public Guid? BatchId { get; init; }

    /// <summary>The join link it came by.</summary>
    public Guid? LinkId { get; init; }
}

/// <summary>A page of invitations with the counts of all states.</summary>
/// <param name="Items">The invitations, newest first.</param>
/// <param name="Counts">Invitations by state over the whole workspace; every state is present.</param>
/// <param name="Next">The cursor of the next page, or null.</param>
public sealed record InvitationPage(
    IReadOnlyList<InvitationView> Items,
    IReadOnlyDictionary<string, long> Counts,
    string? Next
);

/// <summary>A mail exactly as it would be sent, but for the secret in its link.</summary>
/// <param name="From">The sender.</param>
/// <param name="ReplyTo">Where answers go, if elsewhere.</param>
/// <param name="To">The address it goes to.</param>
/// <param name="Subject">The subject.</param>
/// <param name="Text">The text part.</param>
/// <param name="Html">The HTML part, equal in content.</param>
public sealed record LetterView(
    string From,
    string? ReplyTo,
    string To,
    string Subject,
    string Text,
    string Html
);

/// <summary>What sending would do: the verdict, and the mail.</summary>
/// <param name="Ready">Whether it could be sent now.</param>
/// <param name="Problem">Why not, when not.</param>
/// <param name="Letter">The mail; null when the request is too wrong to write one.</param>
/// <param name="Deadline">Until when it could be answered (exclusive).</param>
public sealed record InvitationPreview(
    bool Ready,
    Problem? Problem,
    LetterView? Letter,
    DateTimeOffset? Deadline
)
{
    /// <summary>ready, personal, member, invited, wrong, blocked or stopped.</summary>
    public string Verdict { get; init; } = "";

    /// <summary>What is odd about the address without standing in its way.</summary>
    public IReadOnlyList<NoteView> Notes { get; init; } = [];

    /// <summary>Everything that stands in the way, at once, with the way to mend each.</summary>
    public IReadOnlyList<Workspaces.BlockerView> Blockers { get; init; } = [];

    /// <summary>What a wrong address was probably meant to be; null when nothing is likely.</summary>
    public string? Suggestion { get; init; }
}

/// <summary>Something worth knowing that does not stand in the way.</summary>
/// <param name="Code">Stable.</param>
/// <param name="Sentence">In plain words.</param>
/// <param name="Suggestion">What was probably meant; null for nothing.</param>
public sealed record NoteView(string Code, string Sentence, string? Suggestion);

/// <summary>The secret of an invitation's link, sent in a body so that no log sees it.</summary>
/// <param name="Secret">The last part of the link.</param>
public sealed record LinkRequest(string Secret);

/// <summary>What an invitee is told before answering.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="InvitedBy">Who invites.</param>
/// <param name="Address">Which address was invited.</param>
/// <param name="Name">The invitee's name as the inviter knows it.</param>
/// <param name="Kind">As what.</param>
/// <param name="Role">With which role.</param>
/// <param name="Allows">What they will be able to do, as a sentence.</param>
/// <param name="Until">The last day, inclusive; null for no end.</param>
/// <param name="Message">The inviter's message.</param>
/// <param name="Deadline">Until when it can be answered (exclusive).</param>
/// <param name="HasAccount">Whether the invited address already has an account to sign in with.</param>
public sealed record LandingView(
    string Workspace,
    string InvitedBy,
    string Address,
    string Name,
    string Kind,
    string Role,
    string Allows,
    DateOnly? Until,
    string Message,
    DateTimeOffset Deadline,
    bool HasAccount
)
{
    /// <summary>The first day, inclusive; null for at once.</summary>
    public DateOnly? From { get; init; }

    /// <summary>The host's name; empty for none.</summary>
    public string Host { get; init; } = "";

    /// <summary>The language the invitation speaks, a BCP 47 tag.</summary>
    public string Language { get; init; } = "en";

    /// <summary>Whether accepting takes effect only when somebody has approved it.</summary>
    public bool NeedsApproval { get; init; }

    /// <summary>
    /// Who handed this link over by another way than mail; empty for a mailed one. A link that was handed over proves no
    /// mailbox: accepting asks for a code mailed to the invited address, or to another one to come with.
    /// </summary>
    public string HandedBy { get; init; } = "";

    /// <summary>Whether an account names the invited address without having proved it: if it is the invitee's own, they sign in to it first.</summary>
    public bool IsBorneUnproved { get; init; }
}

/// <summary>A yes. With <paramref name="Address"/> it is given with an account already held, else with a new one.</summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="Password">The password of the account, held or new (10 to 128 characters).</param>
/// <param name="Name">The name of a new account.</param>
/// <param name="Address">An address of the account already held.</param>
/// <param name="Code">The code mailed to the invited address, when the account has another; or to the address of a new account, when the link was handed over.</param>
/// <param name="ComeAs">For a new account by a link that was handed over: its address, when it is not the invited one.</param>
public sealed record AcceptRequest(
    string Secret,
    string Password,
    string? Name = null,
    string? Address = null,
    string? Code = null,
    string? ComeAs = null
);

/// <summary>What somebody has after saying yes.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="ShortName">Its short name.</param>
/// <param name="MemberId">The member that was made; null while it waits for approval.</param>
/// <param name="Name">Under which name.</param>
/// <param name="Address">At which address.</param>
/// <param name="Kind">As what.</param>
/// <param name="Allows">What they can do, as a sentence.</param>
/// <param name="Until">The last day, inclusive; null for no end.</param>
public sealed record AcceptAnswer(
    string Workspace,
    string ShortName,
    Guid? MemberId,
    string Name,
    string Address,
    string Kind,
    string Allows,
    DateOnly? Until
);

/// <summary>
/// A request for a code to be mailed. With an account it goes to the invited address; without one, for a link that was
/// handed over, to the address the new account is to have.
/// </summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="Address">An address of the account held; absent for a new one.</param>
/// <param name="Password">Its password; absent for a new one.</param>
/// <param name="ComeAs">The address of the new account; the invited one when absent.</param>
public sealed record CodeRequest(
    string Secret,
    string? Address = null,
    string? Password = null,
    string? ComeAs = null
);

/// <summary>A no.</summary>
/// <param name="Secret">The last part of the link.</param>
/// <param name="DoNotInviteAgain">Whether no workspace may invite this address again.</param>
/// <param name="NotMe">Whether somebody else was meant.</param>
public sealed record DeclineRequest(string Secret, bool DoNotInviteAgain = false, bool NotMe = false);
