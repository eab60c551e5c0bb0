namespace ComeAboard.Client.Connections;

/// <summary>A line of a mapping to be added: who has what in a connected system.</summary>
/// <param name="To">accounts, for an account and nothing more; or group: and the name of a group there.</param>
/// <param name="Role">Whoever this role is given to; a name or an id. One of role, group and resource is said.</param>
/// <param name="Group">Whoever is in this group; a name or an id.</param>
/// <param name="Resource">Whoever may do something at this resource; a name or an id.</param>
/// <param name="Level">For a resource: view, contribute, edit or manage, at least; null for view.</param>
public sealed record MappingRequest(
    string To,
    string? Role = null,
    string? Group = null,
    string? Resource = null,
    string? Level = null
);

/// <summary>A line of a mapping.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Of">role, group or resource.</param>
/// <param name="Subject">Its name; empty where there is none of it any more.</param>
/// <param name="SubjectId">Its id.</param>
/// <param name="Level">For a resource: the level it takes at least; else empty.</param>
/// <param name="To">accounts, or group: and the name of the group there.</param>
public sealed record MappingView(Guid Id, string Of, string Subject, Guid SubjectId, string Level, string To);

/// <summary>What is to be looked at before it is carried out.</summary>
/// <param name="With">A line that would be added; null for none.</param>
/// <param name="Without">The id of a line that would be taken away; null for none.</param>
public sealed record PreviewRequest(MappingRequest? With = null, Guid? Without = null);

/// <summary>What would be done to one account there.</summary>
/// <param name="MemberId">Whose.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="IsTakenOver">Whether an account that is there already is taken for theirs; such a one is never removed.</param>
/// <param name="Deeds">make, rewrite, switch-on, switch-off, remove, join-group NAME and leave-group NAME, in order.</param>
/// <param name="Sentence">The same as a sentence.</param>
public sealed record ThereChangeView(
    Guid MemberId,
    string Name,
    string Address,
    bool IsTakenOver,
    IReadOnlyList<string> Deeds,
    string Sentence
);

/// <summary>What lies between what a connected system holds at this moment and what it ought to.</summary>
/// <param name="Changes">What would be done, the first 1,000.</param>
/// <param name="Total">To how many accounts something would be done.</param>
/// <param name="Counts">How many times each deed.</param>
/// <param name="LeftOver">How many accounts there belong to nobody who ought to have one; nothing is done to them.</param>
/// <param name="MissingGroups">Groups that the mapping names and that are not there.</param>
public sealed record PushPreview(
    IReadOnlyList<ThereChangeView> Changes,
    int Total,
    IReadOnlyDictionary<string, int> Counts,
    int LeftOver,
    IReadOnlyList<string> MissingGroups
);

/// <summary>How carrying out to a connected system stands.</summary>
/// <param name="Name">The connection.</param>
/// <param name="Type">Its type.</param>
/// <param name="State">nothing-mapped, resting, working, paused (told to wait) or away (it does not answer).</param>
/// <param name="Waiting">How many accounts something is due for.</param>
/// <param name="Stuck">For how many of them it was tried several times in vain.</param>
/// <param name="Since">Since when the oldest of it is due; null for nothing due.</param>
/// <param name="Answer">Why it waits, where the system itself is the reason; empty otherwise.</param>
/// <param name="DownSince">Since when it does not answer; null while it does.</param>
/// <param name="NextTry">Before which instant nothing is tried; null for none.</param>
/// <param name="ConfirmedAt">When something was confirmed there last; null for never.</param>
/// <param name="SweptAt">When it was read whole last, to see whether it holds what it ought to; null for never.</param>
/// <param name="SweepAnswer">Why the last such reading came to nothing; empty where it came to its end.</param>
/// <param name="LeftOver">How many accounts there nobody ought to have, and nobody said may be left.</param>
/// <param name="On">How many accounts were on when they were last read.</param>
/// <param name="Off">How many were off.</param>
/// <param name="Mapping">The lines of its mapping.</param>
public sealed record LaneView(
    string Name,
    string Type,
    string State,
    int Waiting,
    int Stuck,
    DateTimeOffset? Since,
    string Answer,
    DateTimeOffset? DownSince,
    DateTimeOffset? NextTry,
    DateTimeOffset? ConfirmedAt,
    DateTimeOffset? SweptAt,
    string SweepAnswer,
    int LeftOver,
    int On,
    int Off,
    IReadOnlyList<MappingView> Mapping
);

/// <summary>The account of a member in a connected system.</summary>
/// <param name="MemberId">Whose.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="Wanted">What it is to be: on, off or gone.</param>
/// <param name="Groups">The groups there that it is to be in.</param>
/// <param name="Held">What it was when it was last read: on, off or gone; empty where it never was.</param>
/// <param name="HeldGroups">The groups of ours that it was in then.</param>
/// <param name="State">due, stuck, confirmed, told (to a system that cannot be asked) or by hand.</param>
/// <param name="Answer">What the last try came to.</param>
/// <param name="Tries">How many tries came to nothing.</param>
/// <param name="Since">Since when it is due; null where it is not.</param>
/// <param name="NextTry">When it is tried next; null where nothing is due.</param>
/// <param name="ConfirmedAt">When it was confirmed last.</param>
/// <param name="Key">By what the system tells it apart; empty where that is not known.</param>
public sealed record AccountThereView(
    Guid MemberId,
    string Name,
    string Address,
    string Wanted,
    IReadOnlyList<string> Groups,
    string Held,
    IReadOnlyList<string> HeldGroups,
    string State,
    string Answer,
    int Tries,
    DateTimeOffset? Since,
    DateTimeOffset? NextTry,
    DateTimeOffset? ConfirmedAt,
    string Key
);
