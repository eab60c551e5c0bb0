namespace ComeAboard.Client.Departures;

/// <summary>When somebody's access is to end.</summary>
/// <param name="On">The last day of access, inclusive, in the workspace's time zone; null for at once.</param>
/// <param name="To">The address or id of whoever takes over what the leaver is answerable for; null for whoever ends it.</param>
public sealed record DepartureRequest(DateOnly? On = null, string? To = null);

/// <summary>Whose access is to end together; either people, or everybody who came in by a link, or everybody of an organisation.</summary>
/// <param name="People">Their addresses or ids; 500 at most.</param>
/// <param name="Link">The id of a join link.</param>
/// <param name="Organisation">The name, code or id of an organisation.</param>
/// <param name="On">The last day of access, inclusive, in the workspace's time zone; null for at once.</param>
/// <param name="To">The address or id of whoever takes over what they are answerable for; null for whoever ends it.</param>
public sealed record DeparturesRequest(
    IReadOnlyList<string>? People = null,
    Guid? Link = null,
    string? Organisation = null,
    DateOnly? On = null,
    string? To = null
)
{
    /// <summary>staff, guest, partner or client: everybody of that kind, alone or to narrow a link, an organisation or a search.</summary>
    public string? Kind { get; init; }

    /// <summary>Everybody in whose name, address or organisation this is, alone or to narrow the others.</summary>
    public string? Search { get; init; }
}

/// <summary>What became of a departure that was asked for together with others.</summary>
/// <param name="Departures">Those that are planned, running or done now.</param>
/// <param name="Refused">Those that are not, and why.</param>
public sealed record DeparturesAnswer(
    IReadOnlyList<DepartureView> Departures,
    IReadOnlyList<Invitations.StepRefusal> Refused
)
{
    /// <summary>Of how many the access ends; of more than 200 the first are listed.</summary>
    public int Total { get; init; }
}

/// <summary>How far the departures of everybody have come.</summary>
/// <param name="Here">How many are out, and of how many something here is still to be done: seats, tokens, links, what passes to others.</param>
/// <param name="Running">Of how many a connected system has not confirmed as yet.</param>
/// <param name="Systems">What is due in connected systems.</param>
public sealed record DepartureProgress(int Here, int Running, IReadOnlyList<SystemProgress> Systems);

/// <summary>What is to be closed in a connected system.</summary>
/// <param name="Connection">The connection.</param>
/// <param name="Due">How many accounts.</param>
/// <param name="IsPaused">Whether it was told to wait.</param>
/// <param name="Answer">Why it waits, where the system itself is the reason; empty otherwise.</param>
public sealed record SystemProgress(string Connection, int Due, bool IsPaused, string Answer);

/// <summary>What ending the access of several would do.</summary>
/// <param name="Plans">The plan of each, with why it cannot be done where it cannot.</param>
public sealed record DeparturesPlan(IReadOnlyList<DeparturePlanView> Plans)
{
    /// <summary>Of how many; of more than 200 the first are planned.</summary>
    public int Total { get; init; }
}

/// <summary>What ending somebody's access would do, before it is done.</summary>
/// <param name="Person">Whose.</param>
/// <param name="On">The last day, inclusive; null for at once.</param>
/// <param name="Losses">What they lose, as sentences.</param>
/// <param name="Stays">What is left untouched, as sentences.</param>
/// <param name="Problem">Why it cannot be done, when it cannot.</param>
public sealed record DeparturePlanView(
    Accounts.PersonView Person,
    DateOnly? On,
    IReadOnlyList<string> Losses,
    IReadOnlyList<string> Stays,
    Problem? Problem
)
{
    /// <summary>Everything that is done, step by step; the losses are made from it.</summary>
    public IReadOnlyList<DepartureStepView> Steps { get; init; } = [];
}

/// <summary>One step of a departure.</summary>
/// <param name="Number">Its place among the steps, from 1.</param>
/// <param name="Kind">stop-access, close-sign-in, revoke-token, close-join-link, stop-list, pass-on-invitation, pass-on-hosting, pass-on-guest, hand-over, free-seat or close-account.</param>
/// <param name="Subject">The name of what it is done to; empty where it has none.</param>
/// <param name="SubjectId">The id of that.</param>
/// <param name="Heir">The member who has it from then on; null where nobody does.</param>
/// <param name="HeirName">Their name; empty for none.</param>
/// <param name="Sentence">What is done, as a sentence.</param>
/// <param name="State">due, confirmed, stuck, by hand, or done: told to a system that cannot be asked.</param>
/// <param name="Answer">What the last try found, or the reason somebody gave; empty for nothing.</param>
/// <param name="Tries">How many tries came to nothing.</param>
/// <param name="Since">Since when it is due; null where it is not.</param>
/// <param name="At">When it was confirmed; null where it was not.</param>
/// <param name="By">Who said by hand that it is so; empty for nobody.</param>
public sealed record DepartureStepView(
    int Number,
    string Kind,
    string Subject,
    Guid SubjectId,
    Guid? Heir,
    string HeirName,
    string Sentence,
    string State,
    string Answer,
    int Tries,
    DateTimeOffset? Since,
    DateTimeOffset? At,
    string By
)
{
    /// <summary>The file that was put beside somebody's word; null for none.</summary>
    public StepFileView? File { get; init; }
}

/// <summary>A file beside somebody's word that a step is so.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Sha256">The SHA-256 of what is in it, as 64 hexadecimal digits; the receipt says it, too.</param>
public sealed record StepFileView(string Name, string Sha256);

/// <summary>Who left, or is to.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Their name then.</param>
/// <param name="Address">Their address then.</param>
public sealed record LeaverView(Guid Id, string Name, string Address);

/// <summary>The ending of one person's access.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Person">Whose.</param>
/// <param name="State">planned, running, stuck, done or undone.</param>
/// <param name="On">The last day, inclusive; null when it was at once.</param>
/// <param name="RequestedBy">Who decided it.</param>
/// <param name="RequestedAt">When it was decided.</param>
/// <param name="DoneAt">When access here ended.</param>
public sealed record DepartureView(
    Guid Id,
    LeaverView Person,
    string State,
    DateOnly? On,
    string RequestedBy,
    DateTimeOffset RequestedAt,
    DateTimeOffset? DoneAt
)
{
    /// <summary>Until when the stay was agreed before this end was planned, inclusive; null for no end.</summary>
    public DateOnly? Agreed { get; init; }

    /// <summary>Whether it is planned, and can be moved as far as was agreed or taken back.</summary>
    public bool CanBeMoved { get; init; }

    /// <summary>What it comes to, step by step: as planned until it is done, then as done.</summary>
    public IReadOnlyList<DepartureStepView> Steps { get; init; } = [];

    /// <summary>When every step was confirmed; null while one is not.</summary>
    public DateTimeOffset? ConfirmedAt { get; init; }

    /// <summary>The signed receipt (RFC 7515, compact); null while there is none.</summary>
    public string? Receipt { get; init; }
}

/// <summary>Somebody whose end is taken back, line by line.</summary>
/// <param name="Person">Who.</param>
/// <param name="Until">Until when they stay, inclusive; null for no end.</param>
/// <param name="Lines">What becomes of each step of their departure.</param>
public sealed record ReinstateView(
    LeaverView Person,
    DateOnly? Until,
    IReadOnlyList<ReinstateLineView> Lines
);

/// <summary>What becomes of one step of a departure that is taken back.</summary>
/// <param name="Sentence">As a sentence.</param>
/// <param name="IsRestored">Whether it is as it was.</param>
public sealed record ReinstateLineView(string Sentence, bool IsRestored);

/// <summary>Why a step that did not confirm is so all the same.</summary>
/// <param name="Reason">The reason, 1 to 500 characters; it stands in the receipt.</param>
public sealed record ConfirmRequest(string Reason)
{
    /// <summary>A file beside it, such as a letter or a picture; null for none. Its name and digest stand in the receipt.</summary>
    public StepFile? File { get; init; }
}

/// <summary>A file, whole.</summary>
/// <param name="Name">Its name, 1 to 120 characters, without a folder.</param>
/// <param name="Content">What is in it, 1 byte to 2 MiB; base64 in JSON.</param>
public sealed record StepFile(string Name, byte[] Content);

/// <summary>Somebody whose data was taken away, or would be.</summary>
/// <param name="Person">Who it was.</param>
/// <param name="Goes">What goes, and how much of it.</param>
/// <param name="Stays">What stays all the same, as sentences.</param>
public sealed record ErasedView(
    LeaverView Person,
    IReadOnlyList<ErasedLine> Goes,
    IReadOnlyList<string> Stays
);

/// <summary>One sort of what goes.</summary>
/// <param name="What">What.</param>
/// <param name="Count">How many.</param>
public sealed record ErasedLine(string What, int Count);
