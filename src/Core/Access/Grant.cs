using System.Collections.Immutable;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Access;

/// <summary>To whom something is given.</summary>
public enum HolderKind
{
    /// <summary>One person.</summary>
    Member,

    /// <summary>Everybody in a group.</summary>
    Group,

    /// <summary>Everybody of an organisation.</summary>
    Organisation,
}

/// <summary>A role given in the whole workspace or at one resource, for some time or for good.</summary>
/// <param name="Id">Its id.</param>
/// <param name="RoleId">Which role.</param>
/// <param name="ResourceId">At which resource; null for the whole workspace.</param>
/// <param name="Window">From which day until which, both inclusive, in the workspace's time zone.</param>
public readonly record struct Grant(Guid Id, Guid RoleId, Guid? ResourceId, Stay Window)
{
    /// <summary>Counts its changes, from 1.</summary>
    public int Version { get; init; } = 1;
}

/// <summary>A grant, and through what it reaches a person.</summary>
/// <param name="Grant">The grant.</param>
/// <param name="Through">Directly, through a group, or through an organisation.</param>
/// <param name="HolderId">The member, group or organisation that holds it.</param>
public readonly record struct GrantPath(Grant Grant, HolderKind Through, Guid HolderId);

/// <summary>A member, as far as access goes.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Kind">As what they are here.</param>
/// <param name="Stay">From when until when.</param>
/// <param name="IsPaused">Whether they are kept out for a while.</param>
/// <param name="OrganisationId">The organisation they belong to; null for none.</param>
/// <param name="Leads">Whether they may invite colleagues of that organisation.</param>
/// <param name="Grants">What is given to them directly.</param>
/// <param name="Groups">The groups they are in.</param>
public sealed record Person(
    Guid Id,
    Kind Kind,
    Stay Stay,
    bool IsPaused,
    Guid? OrganisationId,
    bool Leads,
    ImmutableArray<Grant> Grants,
    ImmutableArray<Guid> Groups
)
{
    /// <summary>Their address in the form in which addresses are compared.</summary>
    public string AddressKey { get; init; } = "";

    /// <summary>Their name.</summary>
    public string Name { get; init; } = "";
}

/// <summary>A named set of members.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Grants">What is given to everybody in it.</param>
public sealed record Group(Guid Id, string Name, ImmutableArray<Grant> Grants);

/// <summary>A firm or body that outsiders belong to, as far as access goes.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">Its name, unique in the workspace.</param>
/// <param name="Kind">As what its people come in.</param>
/// <param name="AgreementEnds">The last day of the agreement, inclusive; after it none of its people get in. Null for no end.</param>
/// <param name="Domains">Its mail domains, in lower case.</param>
/// <param name="Cap">How many people it may have here, the invited ones included; null for any number.</param>
/// <param name="Grants">What is given to everybody of it.</param>
public sealed record Organisation(
    Guid Id,
    string Name,
    Kind Kind,
    DateOnly? AgreementEnds,
    ImmutableArray<string> Domains,
    int? Cap,
    ImmutableArray<Grant> Grants
)
{
    /// <summary>Its short code for recognition; empty for none.</summary>
    public string Code { get; init; } = "";

    /// <summary>Whether its agreement is over on a day.</summary>
    public bool IsOver(DateOnly day) => AgreementEnds < day;
}
