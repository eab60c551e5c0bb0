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
);

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
);

/// <summary>A resource to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Area">The area it belongs to.</param>
/// <param name="About">A line about it.</param>
/// <param name="Owner">The address or id of the active member who owns it; absent for nobody.</param>
public sealed record ResourceRequest(string Name, string Area, string? About = null, string? Owner = null);

/// <summary>One thing people get access to.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Area">The area it belongs to.</param>
/// <param name="About">A line about it; empty for none.</param>
/// <param name="OwnerId">The member who owns it.</param>
/// <param name="Owner">Their name; empty for nobody.</param>
/// <param name="People">How many people have access today.</param>
/// <param name="Outsiders">How many of them are outsiders.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record ResourceView(
    Guid Id,
    string Name,
    string Area,
    string About,
    Guid? OwnerId,
    string Owner,
    int People,
    int Outsiders,
    int Version
)
{
    /// <summary>In the answer to a change, what it changes for whom; null otherwise.</summary>
    public DifferenceView? Difference { get; init; }
}

/// <summary>A way by which something is given.</summary>
/// <param name="GrantId">The grant.</param>
/// <param name="Role">The role it gives.</param>
/// <param name="Level">The level that is at the place asked about.</param>
/// <param name="Resource">The resource it is given at; null for the whole workspace.</param>
/// <param name="Through">member (directly), group or organisation.</param>
/// <param name="ThroughName">The group's or organisation's name; empty for directly.</param>
/// <param name="From">Its first day, inclusive; null for at once.</param>
/// <param name="Until">Its last day, inclusive; null for no end of its own.</param>
/// <param name="Counts">Whether it is what produces the answer: taking all such grants away changes it.</param>
public sealed record PathView(
    Guid GrantId,
    string Role,
    string Level,
    string? Resource,
    string Through,
    string ThroughName,
    DateOnly? From,
    DateOnly? Until,
    bool Counts
);

/// <summary>Who has access to a resource, at what level, from where, until when.</summary>
/// <param name="PersonId">The member.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their address.</param>
/// <param name="Kind">As what they are here.</param>
/// <param name="Organisation">Their organisation; empty for none.</param>
/// <param name="Level">The level today.</param>
/// <param name="Cut">Why it is none though something is given; empty when nothing is cut.</param>
/// <param name="Until">The day after which this level is gone, by what is known today; null for no end.</param>
/// <param name="Paths">Where it comes from.</param>
public sealed record AccessLine(
    Guid PersonId,
    string Name,
    string Address,
    string Kind,
    string Organisation,
    string Level,
    string Cut,
    DateOnly? Until,
    IReadOnlyList<PathView> Paths
);

/// <summary>A page of who has access, with the number of all.</summary>
/// <param name="Items">The lines of this page.</param>
/// <param name="Next">The cursor of the next page; null on the last.</param>
/// <param name="Total">How many there are.</param>
/// <param name="SwitchedOff">Organisations and people switched off for the resource.</param>
public sealed record AccessPage(
    IReadOnlyList<AccessLine> Items,
    string? Next,
    int Total,
    IReadOnlyList<SwitchedOffView> SwitchedOff
);

/// <summary>Somebody switched off for a resource.</summary>
/// <param name="HolderId">The member or organisation.</param>
/// <param name="Name">Its name.</param>
/// <param name="IsOrganisation">Whether it is an organisation.</param>
public sealed record SwitchedOffView(Guid HolderId, string Name, bool IsOrganisation);

/// <summary>Whom to switch off for a resource: one of the two.</summary>
/// <param name="Person">The address or id of a member.</param>
/// <param name="Organisation">The name, code or id of an organisation.</param>
public sealed record SwitchRequest(string? Person = null, string? Organisation = null);

/// <summary>Resources to be handed from one owner to another, in one step.</summary>
/// <param name="From">The address or id of the owner.</param>
/// <param name="To">The address or id of the new one, an active member.</param>
/// <param name="Resources">Which, by name or id; all of theirs when absent.</param>
public sealed record HandoverRequest(string From, string To, IReadOnlyList<string>? Resources = null);

/// <summary>What was handed over.</summary>
/// <param name="Resources">The names of the resources.</param>
/// <param name="To">The name of the new owner.</param>
public sealed record HandoverAnswer(IReadOnlyList<string> Resources, string To);

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
);

/// <summary>People to be put somewhere.</summary>
/// <param name="People">Addresses or ids, 1 to 1,000.</param>
public sealed record PeopleRequest(IReadOnlyList<string> People);

/// <summary>What putting people into a group, taking them out, or removing something with what is given by it comes to.</summary>
/// <param name="Done">How many people, or grants.</param>
/// <param name="Difference">What changes, for whom.</param>
public sealed record GroupAnswer(int Done, DifferenceView Difference);

/// <summary>Somebody to turn to in an organisation.</summary>
/// <param name="Name">Their name.</param>
/// <param name="Address">Their mail address.</param>
/// <param name="Title">Their job title.</param>
public sealed record ContactView(string Name, string Address, string? Title = null);

/// <summary>An organisation to be made or changed.</summary>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Kind">As what its people come in: guest, partner or client.</param>
/// <param name="Code">A short code for recognition, at most 8 characters.</param>
/// <param name="Colour">A colour for recognition as #rrggbb.</param>
/// <param name="Reference">Its reference number in the workspace's books.</param>
/// <param name="Domains">Its mail domains.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; absent for no end.</param>
/// <param name="Cap">How many people it may have here; absent for any number.</param>
/// <param name="Contacts">Whom to turn to there; left as they are when absent.</param>
public sealed record OrganisationRequest(
    string Name,
    string Kind,
    string? Code = null,
    string? Colour = null,
    string? Reference = null,
    IReadOnlyList<string>? Domains = null,
    DateOnly? AgreementEnds = null,
    int? Cap = null,
    IReadOnlyList<ContactView>? Contacts = null
);

/// <summary>A firm or body that outsiders belong to.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name.</param>
/// <param name="Kind">As what its people come in.</param>
/// <param name="Code">Its code; empty for none.</param>
/// <param name="Colour">Its colour; empty for none.</param>
/// <param name="Reference">Its reference number; empty for none.</param>
/// <param name="Domains">Its mail domains.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; null for no end.</param>
/// <param name="IsOver">Whether the agreement is over; then none of its people get in.</param>
/// <param name="Cap">How many people it may have here; null for any number.</param>
/// <param name="People">How many are here.</param>
/// <param name="Invited">How many are invited and have not answered.</param>
/// <param name="Leads">The names of those who may invite colleagues.</param>
/// <param name="Contacts">Whom to turn to there.</param>
/// <param name="Grants">What is given to everybody of it.</param>
/// <param name="OffAt">The resources it is switched off for.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record OrganisationView(
    Guid Id,
    string Name,
    string Kind,
    string Code,
    string Colour,
    string Reference,
    IReadOnlyList<string> Domains,
    DateOnly? AgreementEnds,
    bool IsOver,
    int? Cap,
    int People,
    int Invited,
    IReadOnlyList<string> Leads,
    IReadOnlyList<ContactView> Contacts,
    IReadOnlyList<GrantView> Grants,
    IReadOnlyList<string> OffAt,
    int Version
)
{
    /// <summary>In the answer to a change, what it changes for whom; null otherwise.</summary>
    public DifferenceView? Difference { get; init; }
}
