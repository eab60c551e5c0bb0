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
);
