namespace ComeAboard.Client.Accounts;

/// <summary>An account to be made outright, in the workspace's custody, at a domain it has proved.</summary>
/// <param name="Address">Its address.</param>
/// <param name="Name">The person's name.</param>
/// <param name="OnPaper">Whether the set-up link is handed over on a sheet, not mailed.</param>
public sealed record HeldAccountRequest(string Address, string Name, bool OnPaper = false);

/// <summary>An account that was made outright.</summary>
/// <param name="Address">Its address.</param>
/// <param name="Name">Its name.</param>
/// <param name="PersonId">The id of the member it is here: staff, without access as yet.</param>
/// <param name="ExpiresAt">The first instant at which the set-up link does not count any more.</param>
/// <param name="Sheet">The sheet to print and hand over, an HTML document, shown this once; null where the link was mailed.</param>
public sealed record HeldAccountView(
    string Address,
    string Name,
    Guid PersonId,
    DateTimeOffset ExpiresAt,
    string? Sheet
);

/// <summary>Which ways in of a held account are removed.</summary>
/// <param name="Ways">second-step, passkeys, outside: one or more.</param>
public sealed record ResetRequest(IReadOnlyList<string> Ways);

/// <summary>What was removed.</summary>
/// <param name="Address">The account's address.</param>
/// <param name="Removed">How many ways in, by word.</param>
/// <param name="SignInsClosed">How many sign-ins were closed.</param>
public sealed record ResetAnswer(string Address, IReadOnlyDictionary<string, int> Removed, int SignInsClosed);
