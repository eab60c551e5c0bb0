namespace ComeAboard.Client.Accounts;

/// <summary>A person in a workspace, in one capacity.</summary>
/// <param name="Id">The member's id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">The address they were invited at.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">view, edit or manage.</param>
/// <param name="IsAdministrator">Whether they are an administrator: staff with the role manage.</param>
/// <param name="State">upcoming, active or ended.</param>
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

    /// <summary>The join link they came in by.</summary>
    public Guid? LinkId { get; init; }
}
