namespace ComeAboard.Core.Invitations;

/// <summary>What becomes of the secrets by which an invitation is opened.</summary>
public enum SecretStep
{
    /// <summary>They go on counting, or are of no use any more by the state alone.</summary>
    Keep,

    /// <summary>A new one is mailed; all others are dead.</summary>
    Renew,

    /// <summary>A further one is mailed; the others go on counting.</summary>
    MailAnother,

    /// <summary>A further one is handed over by another way than mail; the others go on counting.</summary>
    HandOver,
}

/// <summary>What becomes of the seats an invitation carries.</summary>
public enum SeatStep
{
    /// <summary>Nothing.</summary>
    Keep,

    /// <summary>They are reserved.</summary>
    Reserve,

    /// <summary>What was reserved is free again.</summary>
    LetGo,

    /// <summary>What was reserved is given to the new member.</summary>
    Settle,
}

/// <summary>What becomes of a place of the join link an invitation came by.</summary>
public enum PlaceStep
{
    /// <summary>Nothing.</summary>
    Keep,

    /// <summary>One more has come in by it, or waits for approval.</summary>
    Use,

    /// <summary>Somebody who waited does not come in after all.</summary>
    GiveBack,
}

/// <summary>The mails that follow from a step of an invitation.</summary>
public enum InvitationMail
{
    /// <summary>The invitation, to the invitee.</summary>
    Invitation,

    /// <summary>The reminder, to the invitee.</summary>
    Reminder,

    /// <summary>That somebody has to approve it, to the invitee.</summary>
    Waiting,

    /// <summary>That somebody waits for approval, to whoever is answerable.</summary>
    AwaitsApproval,

    /// <summary>That it was not approved, to the invitee.</summary>
    NotApproved,

    /// <summary>That what they had accepted was taken back, to the invitee.</summary>
    TakenBack,

    /// <summary>That it was declined, to whoever is answerable.</summary>
    Declined,
}

/// <summary>
/// Everything that follows from one step of an invitation, as one value: made here, applied in one place. What is not
/// said stays as it is.
/// </summary>
/// <param name="From">The state it leaves, as stored; null for one that is new.</param>
/// <param name="To">The state it goes to.</param>
/// <param name="Entry">What the record says is being done: <c>invitation.resent</c>.</param>
public sealed record InvitationConsequences(InvitationState? From, InvitationState To, string Entry)
{
    /// <summary>The new deadline (exclusive end).</summary>
    public DateTimeOffset? Deadline { get; init; }

    /// <summary>When it is reminded of next; null for never.</summary>
    public DateTimeOffset? NextReminderAt { get; init; }

    /// <summary>Another address, to which it goes from now on.</summary>
    public EmailAddress? Address { get; init; }

    /// <summary>Who is answerable for it from now on.</summary>
    public Guid? Answerable { get; init; }

    /// <summary>What becomes of its secrets.</summary>
    public SecretStep Secrets { get; init; }

    /// <summary>What becomes of its seats.</summary>
    public SeatStep Seats { get; init; }

    /// <summary>What becomes of the place of its join link.</summary>
    public PlaceStep Place { get; init; }

    /// <summary>The mails that go out.</summary>
    public IReadOnlyList<InvitationMail> Mails { get; init; } = [];

    /// <summary>Whether its mails that have not gone yet are not to go any more.</summary>
    public bool WithdrawsMail { get; init; }

    /// <summary>Whether the invitee has answered by this.</summary>
    public bool IsAnswer { get; init; }

    /// <summary>Whether the mail server has taken the invitation by this.</summary>
    public bool IsSent { get; init; }

    /// <summary>Whether the person becomes a member by this.</summary>
    public bool Joins { get; init; }

    /// <summary>Whether the invitee says that somebody else was meant.</summary>
    public bool IsNotMe { get; init; }

    /// <summary>Whether the invitee wants no invitations any more.</summary>
    public bool StopsInvitations { get; init; }

    /// <summary>Somebody's own words about it; empty for none.</summary>
    public string Words { get; init; } = "";

    /// <summary>What else the record says.</summary>
    public IReadOnlyList<(string Name, object? Value)> Details { get; init; } = [];

    /// <summary>Whether it is under way after this and was not before.</summary>
    public bool Revives => To.IsPending() && From?.IsPending() != true;
}
