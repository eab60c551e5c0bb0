namespace ComeAboard.Client.SignIn;

/// <summary>A sign-in with a password.</summary>
/// <param name="Address">A proved address of the account, or the one it was set up with.</param>
/// <param name="Password">Its password.</param>
public sealed record SignInRequest(string Address, string Password);

/// <summary>A sign-in of a program: it gets a token for one workspace.</summary>
/// <param name="Address">An address of the account.</param>
/// <param name="Password">Its password.</param>
/// <param name="Workspace">The short name of the workspace the token is for.</param>
/// <param name="Label">What the token is for, shown in the list of tokens.</param>
/// <param name="Code">A code of the account's second step, where it has one.</param>
public sealed record ProgramSignInRequest(
    string Address,
    string Password,
    string Workspace,
    string? Label = null,
    string? Code = null
);

/// <summary>A wish for an API token of one's own.</summary>
/// <param name="Label">What it is for, 1 to 100 characters.</param>
/// <param name="Days">How many days it counts, 1 to 365; 90 when absent.</param>
public sealed record TokenRequest(string Label, int? Days = null);

/// <summary>An API token; its secret is not in it.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Label">What it is for.</param>
/// <param name="Holder">The name of the member it acts as.</param>
/// <param name="CreatedAt">When it was made.</param>
/// <param name="RevokedAt">When it was revoked; null while it works.</param>
public sealed record TokenView(
    Guid Id,
    string Label,
    string Holder,
    DateTimeOffset CreatedAt,
    DateTimeOffset? RevokedAt
)
{
    /// <summary>The first instant at which it does not count any more (exclusive end).</summary>
    public DateTimeOffset ExpiresAt { get; init; }

    /// <summary>Whether it is the caller's own.</summary>
    public bool IsOwn { get; init; }
}

/// <summary>A new API token with its secret, which is shown this once.</summary>
/// <param name="Token">The secret: send it as <c>Authorization: Bearer …</c> (RFC 6750).</param>
/// <param name="Id">The token's id.</param>
/// <param name="Workspace">The short name of its workspace.</param>
public sealed record NewToken(string Token, Guid Id, string Workspace)
{
    /// <summary>The first instant at which it does not count any more (exclusive end).</summary>
    public DateTimeOffset ExpiresAt { get; init; }
}

/// <summary>Who is signed in.</summary>
/// <param name="AccountId">The account.</param>
/// <param name="Name">Its name.</param>
/// <param name="Address">Its address.</param>
/// <param name="Places">The workspaces it is active in.</param>
public sealed record MeView(Guid AccountId, string Name, string Address, IReadOnlyList<PlaceView> Places)
{
    /// <summary>Whether the account has shown that its address is its own.</summary>
    public bool IsAddressProved { get; init; }
}

/// <summary>A workspace somebody is in.</summary>
/// <param name="Workspace">Its short name.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">As what they are there.</param>
/// <param name="Role">What is given to them directly, in a few words.</param>
/// <param name="Allows">What they can do there, as a sentence.</param>
/// <param name="Until">The last day, inclusive; null for no end.</param>
/// <param name="Duties">The administrative duties they hold there.</param>
public sealed record PlaceView(
    string Workspace,
    string Name,
    string Kind,
    string Role,
    string Allows,
    DateOnly? Until,
    IReadOnlyList<string> Duties
)
{
    /// <summary>The first day of a stay that has not begun, inclusive; null when it has.</summary>
    public DateOnly? From { get; init; }

    /// <summary>The host's name; empty for none.</summary>
    public string Host { get; init; } = "";

    /// <summary>Why they do not get in at present, as a sentence; empty when they do.</summary>
    public string Stopped { get; init; } = "";

    /// <summary>The name of the organisation they may invite colleagues of; empty for none.</summary>
    public string Leads { get; init; } = "";
}

/// <summary>The first administrator's answer to the set-up link.</summary>
/// <param name="Secret">The last part of the set-up link.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="Password">Their password, 10 to 128 characters.</param>
public sealed record SetUpRequest(string Secret, string Name, string Address, string Password);

/// <summary>The token that a browser session must send back with every change, in the header <c>X-Antiforgery</c>.</summary>
/// <param name="Token">The token.</param>
public sealed record AntiforgeryView(string Token);

/// <summary>Something that touches the safety of a workspace.</summary>
/// <param name="Id">Its id.</param>
/// <param name="At">When.</param>
/// <param name="Kind">sign-in.failed, sign-in.locked or right.refused.</param>
/// <param name="Who">Whom it is about, by name and address.</param>
/// <param name="Network">From which network: an IPv4 address, or the first 64 bits of an IPv6 one.</param>
/// <param name="Details">What happened, in a few words.</param>
public sealed record SecurityEventView(
    Guid Id,
    DateTimeOffset At,
    string Kind,
    string Who,
    string Network,
    string Details
);
