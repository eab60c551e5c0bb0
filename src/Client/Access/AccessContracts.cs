namespace ComeAboard.Client.Access;

/// <summary>A role as it is given.</summary>
/// <param name="Role">The role's name.</param>
/// <param name="Resource">The name of the resource it is given at; null for the whole workspace.</param>
/// <param name="Until">Its last day, inclusive; null for as long as the stay.</param>
public sealed record GivenRoleView(string Role, string? Resource = null, DateOnly? Until = null);

/// <summary>What an invitation, a preset or a join link gives; names, or ids, when it is sent.</summary>
/// <param name="Roles">Roles, each in the whole workspace or at a resource.</param>
/// <param name="Groups">Groups to be put in.</param>
/// <param name="Seats">Seat pools to hold a seat of.</param>
public sealed record BundleView(
    IReadOnlyList<GivenRoleView>? Roles = null,
    IReadOnlyList<string>? Groups = null,
    IReadOnlyList<string>? Seats = null
);

/// <summary>A level in an area.</summary>
/// <param name="Area">The area's name.</param>
/// <param name="Level">none, view, contribute, edit or manage.</param>
public sealed record AreaLevel(string Area, string Level);

/// <summary>What changes for one person at one place.</summary>
/// <param name="PersonId">Whose access.</param>
/// <param name="Person">Their name.</param>
/// <param name="Place">A resource, an area, or "everything else"; null for duties.</param>
/// <param name="Before">The level, or the duties, before.</param>
/// <param name="After">The level, or the duties, after.</param>
public sealed record ChangeView(Guid PersonId, string Person, string? Place, string Before, string After);

/// <summary>What an edit changes, for how many people.</summary>
/// <param name="Gaining">How many people gain something.</param>
/// <param name="Losing">How many lose something.</param>
/// <param name="Total">How many single changes there are.</param>
/// <param name="Changes">The first 200 of them.</param>
public sealed record DifferenceView(int Gaining, int Losing, int Total, IReadOnlyList<ChangeView> Changes);

/// <summary>A grant to be given; exactly one of the holders is named.</summary>
/// <param name="Role">The role.</param>
/// <param name="Person">The address or id of a member.</param>
/// <param name="Group">The name or id of a group.</param>
/// <param name="Organisation">The name, code or id of an organisation.</param>
/// <param name="Resource">The resource it is given at; absent for the whole workspace.</param>
/// <param name="From">Its first day, inclusive; absent for at once.</param>
/// <param name="Until">Its last day, inclusive; absent for no end of its own.</param>
/// <param name="Tell">Whether a mail tells the person.</param>
public sealed record GrantRequest(
    string Role,
    string? Person = null,
    string? Group = null,
    string? Organisation = null,
    string? Resource = null,
    DateOnly? From = null,
    DateOnly? Until = null,
    bool Tell = false
);

/// <summary>A grant to be changed.</summary>
/// <param name="Role">Its role.</param>
/// <param name="Until">Its last day, inclusive; absent for no end of its own.</param>
/// <param name="Tell">Whether a mail tells the person.</param>
public sealed record GrantChangeRequest(string Role, DateOnly? Until = null, bool Tell = false);

/// <summary>A grant.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Role">The role.</param>
/// <param name="Holder">The name of the member, group or organisation.</param>
/// <param name="HolderKind">member, group or organisation.</param>
/// <param name="HolderId">Its id.</param>
/// <param name="Resource">The resource; null for the whole workspace.</param>
/// <param name="From">Its first day, inclusive.</param>
/// <param name="Until">Its last day, inclusive.</param>
/// <param name="GivenBy">Who gave it.</param>
/// <param name="GivenAt">When.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record GrantView(
    Guid Id,
    string Role,
    string Holder,
    string HolderKind,
    Guid HolderId,
    string? Resource,
    DateOnly? From,
    DateOnly? Until,
    string GivenBy,
    DateTimeOffset GivenAt,
    int Version
);

/// <summary>What giving, changing or taking a grant comes to.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Difference">What changes, for whom.</param>
/// <param name="Told">Who gets a mail about it.</param>
public sealed record GrantAnswer(GrantView Grant, DifferenceView Difference, IReadOnlyList<string> Told);

/// <summary>People who have a role directly, to be moved under a group.</summary>
/// <param name="Role">The role they have directly.</param>
/// <param name="Resource">At which resource; null for the whole workspace.</param>
/// <param name="People">Whom alone, by address or id; null for everybody who has it.</param>
public sealed record MoveInRequest(
    string Role,
    string? Resource = null,
    IReadOnlyList<string>? People = null
);

/// <summary>What a move into a group came to, or its undoing.</summary>
/// <param name="Group">The group.</param>
/// <param name="Gives">What they have by it, in a few words.</param>
/// <param name="People">Who was moved.</param>
/// <param name="Difference">What changes today, for whom.</param>
public sealed record MoveInAnswer(
    string Group,
    string Gives,
    IReadOnlyList<MovedInView> People,
    DifferenceView Difference
);

/// <summary>Somebody who was moved into a group.</summary>
/// <param name="Id">The member.</param>
/// <param name="Name">Their name.</param>
/// <param name="Joins">Whether they were not in it before.</param>
/// <param name="Gains">What they can do by it that they could not, in words and on any day; nobody loses anything.</param>
public sealed record MovedInView(Guid Id, string Name, bool Joins, IReadOnlyList<string> Gains);

/// <summary>A group to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="About">A line about it.</param>
public sealed record GroupRequest(string Name, string? About = null);

/// <summary>A named set of members.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="About">A line about it; empty for none.</param>
/// <param name="Members">How many are in it.</param>
/// <param name="Grants">What is given to everybody in it.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record GroupView(
    Guid Id,
    string Name,
    string About,
    int Members,
    IReadOnlyList<GrantView> Grants,
    int Version
) : INamedView;

/// <summary>People to be put somewhere.</summary>
/// <param name="People">Addresses or ids, 1 to 1,000.</param>
public sealed record PeopleRequest(IReadOnlyList<string> People);

/// <summary>What putting people into a group, taking them out, or removing something with what is given by it comes to.</summary>
/// <param name="Done">How many people, or grants.</param>
/// <param name="Difference">What changes, for whom.</param>
public sealed record EditAnswer(int Done, DifferenceView Difference);
