namespace ComeAboard.Client.Access;

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
) : INamedView
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
/// <param name="Version">Counts the grant's changes; to be given back when it is changed.</param>
public sealed record PathView(
    Guid GrantId,
    string Role,
    string Level,
    string? Resource,
    string Through,
    string ThroughName,
    DateOnly? From,
    DateOnly? Until,
    bool Counts,
    int Version
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
