namespace ComeAboard.Client.SignIn;

/// <summary>Everything the service keeps about the holder of an account. Secrets are not told, only that there are some.</summary>
/// <param name="WrittenAt">When this was written.</param>
/// <param name="Account">The account: addresses, ways in, sign-ins, programs.</param>
/// <param name="Language">The language it is written to in, as a BCP 47 tag.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="Memberships">Where its holder is or was a member, the latest first.</param>
/// <param name="Invitations">Invitations that were answered with it, or that went to an address it has proved, the latest first.</param>
/// <param name="AsksNotToBeInvited">The proved addresses whose owner asked not to be invited.</param>
/// <param name="History">What happened to it, oldest first.</param>
public sealed record StoredAboutYou(
    DateTimeOffset WrittenAt,
    AccountView Account,
    string Language,
    DateTimeOffset CreatedAt,
    IReadOnlyList<StoredMembership> Memberships,
    IReadOnlyList<StoredInvitation> Invitations,
    IReadOnlyList<string> AsksNotToBeInvited,
    IReadOnlyList<AccountEventView> History
)
{
    /// <summary>Records of outside systems that a workspace reads and has joined with a membership.</summary>
    public IReadOnlyList<StoredRecord> Records { get; init; } = [];
}

/// <summary>A record of an outside system as it is kept.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="Connection">What the system is called there.</param>
/// <param name="Name">The name in it.</param>
/// <param name="Address">The address in it.</param>
/// <param name="OtherAddresses">Other addresses in it, parted by blanks.</param>
/// <param name="Organisation">The organisation in it.</param>
/// <param name="Title">The job title in it.</param>
/// <param name="Department">The department in it.</param>
/// <param name="Phone">The telephone number in it.</param>
public sealed record StoredRecord(
    string Workspace,
    string Connection,
    string Name,
    string Address,
    string OtherAddresses,
    string Organisation,
    string Title,
    string Department,
    string Phone
);

/// <summary>A membership as it is kept.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="Address">The address they came with.</param>
/// <param name="Name">Their name there.</param>
/// <param name="Kind">As what they are there.</param>
/// <param name="FirstDay">The first day of the stay, inclusive; null for at once.</param>
/// <param name="LastDay">The last day, inclusive; null for no end.</param>
/// <param name="Organisation">Their organisation; empty for none.</param>
/// <param name="Title">Their job title.</param>
/// <param name="Department">Their department.</param>
/// <param name="Manager">Whom they report to.</param>
/// <param name="Country">Their country.</param>
/// <param name="Note">A line by which those who look after the workspace tell them apart.</param>
/// <param name="Host">Who answers for them; empty for nobody.</param>
/// <param name="InvitedBy">Who invited them; null for the first of a workspace.</param>
/// <param name="JoinedAt">When they joined.</param>
/// <param name="LastSeenAt">When they were last there, give or take a few minutes.</param>
/// <param name="EndedAt">When their access ended; null while it has not.</param>
public sealed record StoredMembership(
    string Workspace,
    string Address,
    string Name,
    string Kind,
    DateOnly? FirstDay,
    DateOnly? LastDay,
    string Organisation,
    string Title,
    string Department,
    string Manager,
    string Country,
    string Note,
    string Host,
    string? InvitedBy,
    DateTimeOffset JoinedAt,
    DateTimeOffset? LastSeenAt,
    DateTimeOffset? EndedAt
);

/// <summary>An invitation as it is kept.</summary>
/// <param name="Workspace">The workspace's name.</param>
/// <param name="Address">To which address it went.</param>
/// <param name="Name">The name it bore.</param>
/// <param name="Kind">As what they were asked.</param>
/// <param name="State">Where it stands.</param>
/// <param name="Message">The message in it.</param>
/// <param name="InvitedBy">Who answers for it.</param>
/// <param name="CreatedAt">When it was made.</param>
public sealed record StoredInvitation(
    string Workspace,
    string Address,
    string Name,
    string Kind,
    string State,
    string Message,
    string InvitedBy,
    DateTimeOffset CreatedAt
);

/// <summary>The language an account is written to in.</summary>
/// <param name="Language">A BCP 47 tag: en or de.</param>
public sealed record LanguageRequest(string Language);
