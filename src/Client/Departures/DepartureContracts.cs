namespace ComeAboard.Client.Departures;

/// <summary>When somebody's access is to end.</summary>
/// <param name="On">The last day of access, inclusive, in the workspace's time zone; null for at once.</param>
public sealed record DepartureRequest(DateOnly? On = null);

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
/// <param name="Deed">stop-access, close-sign-in, revoke-token, close-join-link, stop-list, pass-on-invitation, pass-on-hosting, pass-on-guest, hand-over or free-seat.</param>
/// <param name="Subject">The id of what it is done to.</param>
/// <param name="Name">The name of that; empty where it has none.</param>
/// <param name="Heir">The member who has it from then on; null where nobody does.</param>
/// <param name="HeirName">Their name; empty for none.</param>
/// <param name="Sentence">What is done, as a sentence.</param>
public sealed record DepartureStepView(
    string Deed,
    Guid Subject,
    string Name,
    Guid? Heir,
    string HeirName,
    string Sentence
);

/// <summary>The ending of one person's access.</summary>
/// <param name="Id">Its id.</param>
/// <param name="MemberId">Whose.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="State">planned, done or undone.</param>
/// <param name="On">The last day, inclusive; null when it was at once.</param>
/// <param name="RequestedBy">Who decided it.</param>
/// <param name="RequestedAt">When it was decided.</param>
/// <param name="DoneAt">When access ended.</param>
public sealed record DepartureView(
    Guid Id,
    Guid MemberId,
    string Name,
    string Address,
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
}
