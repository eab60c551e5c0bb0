namespace ComeAboard.Core.Invitations;

/// <summary>What a column of a list of people to invite holds.</summary>
public enum SheetColumn
{
    /// <summary>The mail address; the only one a list must have.</summary>
    Address,

    /// <summary>The full name.</summary>
    Name,

    /// <summary>The given name.</summary>
    GivenName,

    /// <summary>The family name.</summary>
    FamilyName,

    /// <summary>staff, guest, partner or client.</summary>
    Kind,

    /// <summary>The firm or body they belong to.</summary>
    Organisation,

    /// <summary>The job title.</summary>
    Title,

    /// <summary>The department.</summary>
    Department,

    /// <summary>Whom they report to.</summary>
    Manager,

    /// <summary>The country.</summary>
    Country,

    /// <summary>The language of the mail.</summary>
    Language,

    /// <summary>The host's address.</summary>
    Host,

    /// <summary>The role.</summary>
    Role,

    /// <summary>The group.</summary>
    Group,

    /// <summary>The resource.</summary>
    Resource,

    /// <summary>The first day of the stay.</summary>
    From,

    /// <summary>The last day of the stay.</summary>
    Until,

    /// <summary>The message.</summary>
    Message,

    /// <summary>A line to tell people apart.</summary>
    Note,

    /// <summary>What was left out when a pasted list became a table; no column of anybody's file.</summary>
    Remark,
}
