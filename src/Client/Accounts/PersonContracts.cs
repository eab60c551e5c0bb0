using ComeAboard.Client.Access;

namespace ComeAboard.Client.Accounts;

/// <summary>A person in a workspace, in one capacity.</summary>
/// <param name="Id">The member's id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">The address they were invited at.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">What is given to them directly, in a few words.</param>
/// <param name="IsAdministrator">Whether they are an administrator: staff with the duties to invite, to look after people and to decide about access.</param>
/// <param name="State">upcoming, active, paused or ended.</param>
/// <param name="Until">The last day, inclusive; null for no end.</param>
/// <param name="JoinedAt">When they came in.</param>
/// <param name="EndedAt">When their access ended.</param>
/// <param name="InvitedBy">Who invited them; null for the first administrator.</param>
/// <param name="Version">The version to give back in If-Match.</param>
public sealed record PersonView(
    Guid Id,
    string Name,
    string Address,
    string Kind,
    string Role,
    bool IsAdministrator,
    string State,
    DateOnly? Until,
    DateTimeOffset JoinedAt,
    DateTimeOffset? EndedAt,
    string? InvitedBy,
    int Version
)
{
    /// <summary>The address that was invited, where they came with another proved one and did not prove that; empty otherwise.</summary>
    public string InvitedAs { get; init; } = "";

    /// <summary>On whose word they came with another address; empty otherwise.</summary>
    public string VouchedBy { get; init; } = "";

    /// <summary>The first day of a stay that was still to come when they joined, inclusive; null for at once.</summary>
    public DateOnly? From { get; init; }

    /// <summary>The firm or body they belong to; empty for none.</summary>
    public string Organisation { get; init; } = "";

    /// <summary>Their job title; empty for none.</summary>
    public string Title { get; init; } = "";

    /// <summary>Their department; empty for none.</summary>
    public string Department { get; init; } = "";

    /// <summary>Whom they report to; empty for none.</summary>
    public string Manager { get; init; } = "";

    /// <summary>Their country; empty for none.</summary>
    public string Country { get; init; } = "";

    /// <summary>A line to tell people apart; empty for none.</summary>
    public string Note { get; init; } = "";

    /// <summary>The host's name; empty for none.</summary>
    public string Host { get; init; } = "";

    /// <summary>The organisation the workspace knows; null when there is only its name.</summary>
    public Guid? OrganisationId { get; init; }

    /// <summary>Whether they may invite colleagues of their organisation.</summary>
    public bool Leads { get; init; }

    /// <summary>When they were last here, give or take five minutes; null for never.</summary>
    public DateTimeOffset? LastSeenAt { get; init; }

    /// <summary>Their name as the standard of the house would write it; null where it is so already, or there is none.</summary>
    public string? NameByStandard { get; init; }

    /// <summary>The addresses of those who were made one with them: they lead to them.</summary>
    public IReadOnlyList<string> AlsoAt { get; init; } = [];

    /// <summary>The member they were made one with; null for none.</summary>
    public Guid? MergedInto { get; init; }

    /// <summary>The join link they came in by.</summary>
    public Guid? LinkId { get; init; }
}

/// <summary>What a person may do, and why.</summary>
/// <param name="Person">Who.</param>
/// <param name="Cut">Why they get nothing today whatever is given; empty when nothing is cut.</param>
/// <param name="Places">Every place where something is given, with the level today.</param>
/// <param name="Duties">Every duty held, with where it comes from.</param>
/// <param name="Grants">What is given directly.</param>
/// <param name="Groups">The names of the groups they are in.</param>
/// <param name="Seats">The names of the pools they hold a seat of.</param>
/// <param name="Owns">The names of the resources they own.</param>
public sealed record PersonAccess(
    PersonView Person,
    string Cut,
    IReadOnlyList<PlaceAccess> Places,
    IReadOnlyList<DutyAccess> Duties,
    IReadOnlyList<GrantView> Grants,
    IReadOnlyList<string> Groups,
    IReadOnlyList<string> Seats,
    IReadOnlyList<string> Owns
);

/// <summary>What a person may do at one place, and why.</summary>
/// <param name="Place">A resource, an area, or "everything else".</param>
/// <param name="Area">The area it is in; the same for an area.</param>
/// <param name="IsResource">Whether it is a resource.</param>
/// <param name="Level">The level today.</param>
/// <param name="Cut">Why it is none though something is given; empty when nothing is cut.</param>
/// <param name="Paths">Where it comes from.</param>
public sealed record PlaceAccess(
    string Place,
    string Area,
    bool IsResource,
    string Level,
    string Cut,
    IReadOnlyList<PathView> Paths
);

/// <summary>A duty, and why it is held.</summary>
/// <param name="Duty">The duty.</param>
/// <param name="Paths">Where it comes from.</param>
public sealed record DutyAccess(string Duty, IReadOnlyList<PathView> Paths);

/// <summary>What a person would see, for looking only.</summary>
/// <param name="Person">Whose view it is.</param>
/// <param name="Allowed">Whether they get in at all today.</param>
/// <param name="Why">Why not; empty when they do.</param>
/// <param name="Areas">The areas and resources they see, with what they may do there.</param>
/// <param name="Pages">The pages of the console that open to them.</param>
/// <param name="Sentences">What they are told they can do.</param>
public sealed record SeenAs(
    PersonView Person,
    bool Allowed,
    string Why,
    IReadOnlyList<PlaceAccess> Areas,
    IReadOnlyList<string> Pages,
    IReadOnlyList<string> Sentences
);

/// <summary>Details of one or several people to be changed; what is absent stays.</summary>
/// <param name="Name">Their name; for one person only.</param>
/// <param name="Organisation">Their organisation, by name or code; empty for none.</param>
/// <param name="Title">Their job title.</param>
/// <param name="Department">Their department.</param>
/// <param name="Manager">Whom they report to.</param>
/// <param name="Country">Their country.</param>
/// <param name="Note">A line to tell people apart.</param>
/// <param name="Host">The address or id of the member of the staff who answers for them; empty for nobody.</param>
/// <param name="Leads">Whether they may invite colleagues of their organisation.</param>
public sealed record DetailsRequest(
    string? Name = null,
    string? Organisation = null,
    string? Title = null,
    string? Department = null,
    string? Manager = null,
    string? Country = null,
    string? Note = null,
    string? Host = null,
    bool? Leads = null
)
{
    /// <summary>Whether an organisation that nobody here knows is meant as it is written; else it is asked about.</summary>
    public bool OrganisationAsWritten { get; init; }
}

/// <summary>Something to be done with several people.</summary>
/// <param name="Step">pause, resume, sign-out, extend, kind, change, grant or take.</param>
/// <param name="People">Addresses or ids, at most 1,000.</param>
/// <param name="Kind">The new kind, for the step kind.</param>
/// <param name="Details">What to change, for the step change.</param>
/// <param name="Role">The role to give or take, for grant and take.</param>
/// <param name="Resource">Where, for grant and take; absent for the whole workspace.</param>
/// <param name="Until">For grant: its last day, inclusive; for extend: the last day of their stay from now on, inclusive.</param>
/// <param name="Versions">The versions as they were seen, in the order of the people; one that is outdated is refused.</param>
/// <param name="Reason">A line for the record.</param>
public sealed record PeopleStepRequest(
    string Step,
    IReadOnlyList<string> People,
    string? Kind = null,
    DetailsRequest? Details = null,
    string? Role = null,
    string? Resource = null,
    DateOnly? Until = null,
    IReadOnlyList<int>? Versions = null,
    string? Reason = null
);

/// <summary>What became of a step for several people.</summary>
/// <param name="Done">Those it was done for.</param>
/// <param name="Refused">Those it was not done for, and why.</param>
/// <param name="Difference">What changes in what they may do.</param>
public sealed record PeopleStepAnswer(
    IReadOnlyList<PersonView> Done,
    IReadOnlyList<PersonRefusal> Refused,
    DifferenceView Difference
);

/// <summary>Somebody a step was not done for.</summary>
/// <param name="Person">As they were named.</param>
/// <param name="Problem">Why not.</param>
public sealed record PersonRefusal(string Person, Problem Problem);

/// <summary>Somebody known here whom a few letters may mean.</summary>
/// <param name="Source">member, invitation, contact, directory or organisation.</param>
/// <param name="Name">The name.</param>
/// <param name="Address">The address; empty for an organisation.</param>
/// <param name="Organisation">The organisation; empty for none.</param>
/// <param name="Kind">As what they are, or would come in.</param>
/// <param name="Title">Their job title; empty for none.</param>
/// <param name="Id">The member, invitation, contact or organisation; of somebody of a directory the connection.</param>
public sealed record SuggestionView(
    string Source,
    string Name,
    string Address,
    string Organisation,
    string Kind,
    string Title,
    Guid Id
);

/// <summary>The people of an organisation, as its lead sees them.</summary>
/// <param name="Organisation">The organisation's name.</param>
/// <param name="Domains">The mail domains at which colleagues can be invited.</param>
/// <param name="Cap">How many people it may have here; null for any number.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; null for no end.</param>
/// <param name="Here">Those who are here.</param>
/// <param name="Invited">Those who are invited.</param>
public sealed record ColleaguesView(
    string Organisation,
    IReadOnlyList<string> Domains,
    int? Cap,
    DateOnly? AgreementEnds,
    IReadOnlyList<ColleagueView> Here,
    IReadOnlyList<ColleagueView> Invited
);

/// <summary>A colleague.</summary>
/// <param name="Name">Their name; empty when unknown.</param>
/// <param name="Address">Their address.</param>
/// <param name="Until">Their last day, inclusive; null for no end.</param>
/// <param name="State">here, or the state of the invitation.</param>
public sealed record ColleagueView(string Name, string Address, DateOnly? Until, string State);

/// <summary>A colleague to be invited by the lead of an organisation.</summary>
/// <param name="Address">Their address, at a domain of the organisation.</param>
/// <param name="Name">Their name.</param>
/// <param name="Message">A message in plain words without links.</param>
/// <param name="Until">Their last day, inclusive; at most the lead's own and the agreement's.</param>
public sealed record ColleagueRequest(
    string Address,
    string? Name = null,
    string? Message = null,
    DateOnly? Until = null
);
