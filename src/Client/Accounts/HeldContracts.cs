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

/// <summary>A step with a held account.</summary>
/// <param name="Step">pause, resume or close.</param>
/// <param name="Address">The account's main address.</param>
/// <param name="Reason">Why, for the record; null for no reason.</param>
public sealed record HeldStepRequest(string Step, string Address, string? Reason = null);

/// <summary>What a step with a held account came to.</summary>
/// <param name="Address">The account's address.</param>
/// <param name="Name">Its name.</param>
/// <param name="Standing">open, paused or closed.</param>
/// <param name="SignInsClosed">How many sign-ins were closed.</param>
public sealed record HeldStepAnswer(string Address, string Name, string Standing, int SignInsClosed);

/// <summary>Which ways in of a held account are removed.</summary>
/// <param name="Ways">second-step, passkeys, outside: one or more.</param>
public sealed record ResetRequest(IReadOnlyList<string> Ways);

/// <summary>What was removed.</summary>
/// <param name="Address">The account's address.</param>
/// <param name="Removed">How many ways in, by word.</param>
/// <param name="SignInsClosed">How many sign-ins were closed.</param>
public sealed record ResetAnswer(string Address, IReadOnlyDictionary<string, int> Removed, int SignInsClosed);

/// <summary>What is to be different about an account.</summary>
/// <param name="Address">The account's main address.</param>
/// <param name="Name">The name it is to have; null to leave it.</param>
/// <param name="NewAddress">The address it is to have, which counts once its holder has shown that it is theirs; null to leave it.</param>
/// <param name="Reason">Why, as its holder is told; null for no reason.</param>
public sealed record AccountCorrection(
    string Address,
    string? Name = null,
    string? NewAddress = null,
    string? Reason = null
);

/// <summary>New addresses for many accounts at once: by a pattern, or one by one.</summary>
/// <param name="Pattern">How they are made of names: {given}.{family}@new.example, with {given}, {family}, {initial} and {local}; null where they come one by one.</param>
/// <param name="From">Only accounts whose main address is at this proved domain; null for all proved domains.</param>
/// <param name="Entries">One by one; null where there is a pattern.</param>
/// <param name="Reason">Why, as the holders are told; null for no reason.</param>
public sealed record ReaddressRequest(
    string? Pattern = null,
    string? From = null,
    IReadOnlyList<ReaddressEntry>? Entries = null,
    string? Reason = null
);

/// <summary>A new address for one account.</summary>
/// <param name="Address">The account's main address.</param>
/// <param name="To">The address it is to have.</param>
public sealed record ReaddressEntry(string Address, string To);

/// <summary>What became of the addresses.</summary>
/// <param name="Items">Each, in the order of the addresses or of the entries.</param>
/// <param name="Counts">How many of each verdict.</param>
public sealed record ReaddressAnswer(
    IReadOnlyList<ReaddressView> Items,
    IReadOnlyDictionary<string, int> Counts
);

/// <summary>What became of one address.</summary>
/// <param name="Address">The address now.</param>
/// <param name="Name">Whose.</param>
/// <param name="To">The address they would have; empty where none can be made.</param>
/// <param name="Verdict">correct (held: it counts once its holder has shown that it is theirs), propose, same, collides, wrong or refused.</param>
/// <param name="Sentence">Why nothing is done; empty where something is.</param>
/// <param name="Code">The code of the refusal; null where there is none.</param>
public sealed record ReaddressView(
    string Address,
    string Name,
    string To,
    string Verdict,
    string Sentence,
    string? Code
);

/// <summary>What became of a correction, or of a proposal.</summary>
/// <param name="Address">The account's main address.</param>
/// <param name="Name">Its name now.</param>
/// <param name="WaitingName">The name that waits for its holder to accept it; empty for none.</param>
/// <param name="WaitingAddress">The address that waits for that; empty for none.</param>
/// <param name="LapsesAt">The first instant at which it cannot be accepted any more; null where nothing waits.</param>
public sealed record AccountCorrected(
    string Address,
    string Name,
    string WaitingName,
    string WaitingAddress,
    DateTimeOffset? LapsesAt
);
