using System.Text.Json;

namespace ComeAboard.Client.SignIn;

/// <summary>An account as its holder sees it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Address">Its main address.</param>
/// <param name="Addresses">All its addresses, the main one first.</param>
/// <param name="WaysIn">What its holder signs in with.</param>
/// <param name="SignIns">The browsers that are signed in to it, the one last used first.</param>
/// <param name="Programs">The programs that act for its holder, each in one workspace, the newest first.</param>
public sealed record AccountView(
    Guid Id,
    string Name,
    string Address,
    IReadOnlyList<AccountAddressView> Addresses,
    IReadOnlyList<WayInView> WaysIn,
    IReadOnlyList<SignInView> SignIns,
    IReadOnlyList<ProgramView> Programs
)
{
    /// <summary>The name of the workspace in whose custody the account is; empty for a personal account.</summary>
    public string Custody { get; init; } = "";

    /// <summary>Since when it is in custody; null for a personal account.</summary>
    public DateTimeOffset? CustodySince { get; init; }

    /// <summary>The workspaces that ask for custody of the account, and wait for an answer.</summary>
    public IReadOnlyList<QuestionView> Questions { get; init; } = [];

    /// <summary>What workspaces propose for the account, and waits for an answer.</summary>
    public IReadOnlyList<ProposalView> Proposals { get; init; } = [];

    /// <summary>How many codes are left for when the device of the second step is not at hand.</summary>
    public int RecoveryCodesLeft { get; init; }
}

/// <summary>A name or address that a workspace proposes for an account, or corrects.</summary>
/// <param name="Id">Its id.</param>
/// <param name="WorkspaceName">Which workspace.</param>
/// <param name="By">Who in it.</param>
/// <param name="Name">The name; empty for none.</param>
/// <param name="Address">The address; empty for none.</param>
/// <param name="Reason">Why; empty for no reason.</param>
/// <param name="LapsesAt">The first instant at which it cannot be accepted any more.</param>
public sealed record ProposalView(
    Guid Id,
    string WorkspaceName,
    string By,
    string Name,
    string Address,
    string Reason,
    DateTimeOffset LapsesAt
);

/// <summary>That a workspace asks for custody of an account.</summary>
/// <param name="Id">The claim's id.</param>
/// <param name="Workspace">The short name of the workspace.</param>
/// <param name="WorkspaceName">Its name.</param>
/// <param name="Address">The address it is about.</param>
/// <param name="Deadline">Until when there is time to answer; the instant itself is too late.</param>
public sealed record QuestionView(
    Guid Id,
    string Workspace,
    string WorkspaceName,
    string Address,
    DateTimeOffset Deadline
);

/// <summary>An address of an account.</summary>
/// <param name="Address">The address.</param>
/// <param name="ProvedAt">When its holder showed that the mailbox is theirs; null when they did not.</param>
public sealed record AccountAddressView(string Address, DateTimeOffset? ProvedAt)
{
    /// <summary>Whether notices of the work go there, and not to the main address.</summary>
    public bool TakesNotices { get; init; }
}

/// <summary>Where notices of the work are to go.</summary>
/// <param name="Address">A proved address of one's own; null for the main one.</param>
public sealed record NoticesRequest(string? Address);

/// <summary>Something by which the holder of an account signs in.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Kind">password, passkey or timecode.</param>
/// <param name="Label">What its holder calls it; empty where there is only one of its kind.</param>
/// <param name="MadeAt">When it was made, or last changed.</param>
/// <param name="LastUsedAt">When it was last used; null for never.</param>
public sealed record WayInView(
    Guid Id,
    string Kind,
    string Label,
    DateTimeOffset MadeAt,
    DateTimeOffset? LastUsedAt
);

/// <summary>A browser that is signed in to an account.</summary>
/// <param name="Id">Its id.</param>
/// <param name="With">What was shown: password, passkey, mailedlink or mailedcode.</param>
/// <param name="SecondStep">What was shown besides: timecode or recoverycode; null for nothing.</param>
/// <param name="Browser">Which browser, in words; empty when it does not say.</param>
/// <param name="Network">From which network; empty where that says nothing.</param>
/// <param name="OpenedAt">Since when.</param>
/// <param name="SeenAt">When it was last used, to the minute.</param>
/// <param name="ExpiresAt">The first instant at which it does not count any more (exclusive end).</param>
/// <param name="IsThis">Whether it is the one that asks.</param>
public sealed record SignInView(
    Guid Id,
    string With,
    string? SecondStep,
    string Browser,
    string Network,
    DateTimeOffset OpenedAt,
    DateTimeOffset SeenAt,
    DateTimeOffset ExpiresAt,
    bool IsThis
);

/// <summary>A program that acts for somebody in one workspace, by an API token.</summary>
/// <param name="Id">The token's id.</param>
/// <param name="Label">What it is for.</param>
/// <param name="Workspace">The short name of the workspace.</param>
/// <param name="WorkspaceName">Its name.</param>
/// <param name="CreatedAt">Since when.</param>
/// <param name="ExpiresAt">The first instant at which it does not count any more (exclusive end).</param>
public sealed record ProgramView(
    Guid Id,
    string Label,
    string Workspace,
    string WorkspaceName,
    DateTimeOffset CreatedAt,
    DateTimeOffset ExpiresAt
);

/// <summary>Something that happened to an account.</summary>
/// <param name="Sequence">Its place in the account's history, from 1.</param>
/// <param name="At">When.</param>
/// <param name="By">Who did it.</param>
/// <param name="Via">Through what: console, client, http, page, mail, clock or operator.</param>
/// <param name="Action">What, for programs: <c>account.signed-in</c>.</param>
/// <param name="Sentence">What, in the account's language.</param>
public sealed record AccountEventView(
    long Sequence,
    DateTimeOffset At,
    string By,
    string Via,
    string Action,
    string Sentence
);

/// <summary>What a browser is asked to make or to show a passkey.</summary>
/// <param name="Id">To be given back with the answer; it counts once, for 5 minutes.</param>
/// <param name="Options">The options in the JSON form of WebAuthn level 3.</param>
public sealed record CeremonyView(Guid Id, JsonElement Options);

/// <summary>A passkey that a browser has made.</summary>
/// <param name="Ceremony">The id of what it was asked.</param>
/// <param name="Credential">The credential in the JSON form of WebAuthn level 3.</param>
/// <param name="Label">What its holder calls it.</param>
public sealed record PasskeyRequest(Guid Ceremony, JsonElement Credential, string? Label = null);

/// <summary>A sign-in with a passkey.</summary>
/// <param name="Ceremony">The id of what the browser was asked.</param>
/// <param name="Credential">The credential in the JSON form of WebAuthn level 3.</param>
public sealed record PasskeySignInRequest(Guid Ceremony, JsonElement Credential);

/// <summary>Asks for a code to sign in with.</summary>
/// <param name="Address">An address the account has proved.</param>
public sealed record SignInCodeRequest(string Address);

/// <summary>A sign-in with a code that was mailed.</summary>
/// <param name="Address">The address it was mailed to.</param>
/// <param name="Code">The code, 8 digits.</param>
public sealed record SignInByCodeRequest(string Address, string Code);

/// <summary>Shows anew that an account is one's own: by its password, or by a code of its second step.</summary>
/// <param name="Password">Its password; null to show a code.</param>
/// <param name="Code">A time-based code or a recovery code; null to show the password.</param>
public sealed record ProofRequest(string? Password = null, string? Code = null);

/// <summary>A second step that is offered: nothing is kept until a code made with its key is given back.</summary>
/// <param name="Key">The key for the device, in the letters of RFC 4648 base 32.</param>
/// <param name="Address">The same as an <c>otpauth</c> address, as devices read it.</param>
/// <param name="Png">That address as a QR code: a PNG in base 64.</param>
/// <param name="State">To be given back with the code within 10 minutes.</param>
public sealed record SecondStepOffer(string Key, string Address, string Png, string State);

/// <summary>Keeps a second step.</summary>
/// <param name="State">The state of what was offered.</param>
/// <param name="Code">The code that the device shows at this moment, 6 digits.</param>
public sealed record SecondStepRequest(string State, string Code);

/// <summary>Codes for when the device is not at hand; they are shown this once.</summary>
/// <param name="Codes">Ten codes of 20 hexadecimal digits; each counts once.</param>
public sealed record RecoveryCodes(IReadOnlyList<string> Codes);

/// <summary>That a sign-in is not through yet.</summary>
/// <param name="Awaits">What is due: second-step.</param>
public sealed record SignInAwaits(string Awaits);

/// <summary>The second step of a sign-in.</summary>
/// <param name="Code">A time-based code, 6 digits, or a recovery code.</param>
public sealed record SecondStepSignInRequest(string Code);

/// <summary>An address of one's own.</summary>
/// <param name="Address">The address.</param>
public sealed record OwnAddressRequest(string Address);

/// <summary>The code that was mailed to an address of one's own.</summary>
/// <param name="Address">The address.</param>
/// <param name="Code">The code, 8 digits.</param>
public sealed record OwnAddressProof(string Address, string Code);

/// <summary>How many sign-ins were closed.</summary>
/// <param name="Closed">How many.</param>
public sealed record ClosedSignIns(int Closed);
