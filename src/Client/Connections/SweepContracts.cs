namespace ComeAboard.Client.Connections;

/// <summary>An account in a connected system that nobody ought to have.</summary>
/// <param name="Key">By what the system tells it apart.</param>
/// <param name="SignInName">The name it is signed in with there.</param>
/// <param name="Name">The name of its owner there; empty where it says none.</param>
/// <param name="FoundAt">When it was first found.</param>
/// <param name="State">found, or left: somebody said that it may stay until a day.</param>
/// <param name="Until">The last day, inclusive, on which it may stay; null where nobody said so.</param>
/// <param name="Reason">Why it may stay.</param>
/// <param name="By">Who said so.</param>
public sealed record LeftOverView(
    string Key,
    string SignInName,
    string Name,
    DateTimeOffset FoundAt,
    string State,
    DateOnly? Until,
    string Reason,
    string By
);

/// <summary>What a connected system held when it was read whole, beside what it ought to hold.</summary>
/// <param name="Name">The connection.</param>
/// <param name="At">When it was read.</param>
/// <param name="Accounts">How many accounts it held.</param>
/// <param name="Otherwise">What was otherwise than it ought to be, the first 1,000; it is put right by itself.</param>
/// <param name="OtherwiseTotal">How many accounts were otherwise.</param>
/// <param name="LeftOver">The accounts that are on and that nobody ought to have, by the name they are signed in with; nothing is done to them.</param>
/// <param name="LeftOverTotal">How many those are; at most 5,000 are listed.</param>
/// <param name="MissingGroups">Groups that the mapping names and that are not there.</param>
public sealed record SweepView(
    string Name,
    DateTimeOffset At,
    int Accounts,
    IReadOnlyList<ThereChangeView> Otherwise,
    int OtherwiseTotal,
    IReadOnlyList<LeftOverView> LeftOver,
    int LeftOverTotal,
    IReadOnlyList<string> MissingGroups
);

/// <summary>What is to become of left-overs.</summary>
/// <param name="Keys">Which, by their keys; 1 to 200.</param>
/// <param name="Decision">remove (there, and asked again), adopt (it is somebody's) or leave.</param>
/// <param name="Person">For adopt: whose it is; an address or an id.</param>
/// <param name="Reason">For leave: why it may stay.</param>
/// <param name="Until">For leave: the last day, inclusive, on which it may stay; at most a year ahead.</param>
public sealed record LeftOverRequest(
    IReadOnlyList<string> Keys,
    string Decision,
    string? Person = null,
    string? Reason = null,
    DateOnly? Until = null
);

/// <summary>A left-over to which what was said was not done.</summary>
/// <param name="Key">Which.</param>
/// <param name="Problem">Why.</param>
public sealed record LeftOverRefusal(string Key, Problem Problem);

/// <summary>What became of left-overs.</summary>
/// <param name="Done">To how many it was done.</param>
/// <param name="Refused">To which it was not, and why.</param>
public sealed record LeftOverAnswer(int Done, IReadOnlyList<LeftOverRefusal> Refused);

/// <summary>What somebody has in a connected system, asked there at this moment.</summary>
/// <param name="Connection">The connection.</param>
/// <param name="Type">Its type.</param>
/// <param name="Wanted">What their account is to be: on, off or gone.</param>
/// <param name="Groups">The groups there that it is to be in.</param>
/// <param name="Held">What it is: on, off or gone; empty where it did not answer.</param>
/// <param name="HeldGroups">The groups of ours that it is in.</param>
/// <param name="State">as it ought to be, otherwise, told (it cannot be asked), or not answered.</param>
/// <param name="Answer">What is to be done to it, or why it did not answer.</param>
public sealed record PersonThereView(
    string Connection,
    string Type,
    string Wanted,
    IReadOnlyList<string> Groups,
    string Held,
    IReadOnlyList<string> HeldGroups,
    string State,
    string Answer
);

/// <summary>What a system that is only told was told.</summary>
/// <param name="Id">The id of the event, which the receiver knows it again by.</param>
/// <param name="At">When it was written.</param>
/// <param name="Sentence">What it says.</param>
/// <param name="State">accepted; due: it is sent again by itself; or failed: it was a trial, or what it says is not so any more.</param>
/// <param name="Tries">How many times it was sent.</param>
/// <param name="TriedAt">When it was sent last; null for never.</param>
/// <param name="AcceptedAt">When the receiver took it first; null while it did not.</param>
/// <param name="Answer">What the last try came to.</param>
/// <param name="Body">The event, as it is sent.</param>
public sealed record EventSentView(
    Guid Id,
    DateTimeOffset At,
    string Sentence,
    string State,
    int Tries,
    DateTimeOffset? TriedAt,
    DateTimeOffset? AcceptedAt,
    string Answer,
    string Body
);
