namespace ComeAboard.Client.Access;

/// <summary>A role to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Sentence">What its holder can do, in one plain sentence of at most 200 characters.</param>
/// <param name="Everywhere">The level in every area not named; none when absent.</param>
/// <param name="Areas">The levels in areas, by name.</param>
/// <param name="Duties">invite, approve, people, access, seats, claims, record, settings.</param>
public sealed record RoleRequest(
    string Name,
    string Sentence,
    string? Everywhere = null,
    IReadOnlyList<AreaLevel>? Areas = null,
    IReadOnlyList<string>? Duties = null
);

/// <summary>A role.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Sentence">What its holder can do.</param>
/// <param name="IsBuiltIn">Whether every workspace has it; such a role cannot be changed.</param>
/// <param name="Everywhere">The level in every area not named.</param>
/// <param name="Areas">The levels in the areas named.</param>
/// <param name="Duties">Its duties.</param>
/// <param name="Holders">How many members, groups and organisations it is given to.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record RoleDetail(
    Guid Id,
    string Name,
    string Sentence,
    bool IsBuiltIn,
    string Everywhere,
    IReadOnlyList<AreaLevel> Areas,
    IReadOnlyList<string> Duties,
    int Holders,
    int Version
) : INamedView;

/// <summary>A need of an area that a role does not meet.</summary>
/// <param name="Area">The area that draws on another.</param>
/// <param name="Needs">The area it draws on.</param>
/// <param name="AtLeast">The level needed there.</param>
/// <param name="Has">The level the role has there.</param>
public sealed record GapView(string Area, string Needs, string AtLeast, string Has);

/// <summary>What an edit of a role comes to.</summary>
/// <param name="Role">The role as it would be, or is.</param>
/// <param name="Gaps">Needs it does not meet.</param>
/// <param name="Raised">Its levels with every need met; the first way out.</param>
/// <param name="Lowered">Its levels without the areas whose needs are not met; the second way out.</param>
/// <param name="Difference">What changes for the people who hold it.</param>
public sealed record RoleChange(
    RoleDetail Role,
    IReadOnlyList<GapView> Gaps,
    IReadOnlyList<AreaLevel> Raised,
    IReadOnlyList<AreaLevel> Lowered,
    DifferenceView Difference
);

/// <summary>One line of roles compared.</summary>
/// <param name="What">An area, "everything else", or a duty.</param>
/// <param name="IsDuty">Whether it is a duty.</param>
/// <param name="Cells">A level for each role; for a duty yes or no.</param>
/// <param name="Differs">Whether the cells are not all the same.</param>
public sealed record MatrixLineView(string What, bool IsDuty, IReadOnlyList<string> Cells, bool Differs);

/// <summary>Roles side by side.</summary>
/// <param name="Roles">The roles.</param>
/// <param name="Lines">A line for each area and each duty.</param>
public sealed record MatrixView(IReadOnlyList<RoleDetail> Roles, IReadOnlyList<MatrixLineView> Lines);

/// <summary>An area to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="PrivateEntries">Whether people below edit see only what they made themselves.</param>
/// <param name="Needs">What whoever sees it needs in other areas.</param>
public sealed record AreaRequest(
    string Name,
    bool PrivateEntries = false,
    IReadOnlyList<AreaLevel>? Needs = null
);

/// <summary>A part of the workspace's work.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="PrivateEntries">Whether people below edit see only what they made themselves.</param>
/// <param name="Needs">What whoever sees it needs in other areas.</param>
/// <param name="Resources">How many resources are in it.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record AreaView(
    Guid Id,
    string Name,
    bool PrivateEntries,
    IReadOnlyList<AreaLevel> Needs,
    int Resources,
    int Version
) : INamedView;
