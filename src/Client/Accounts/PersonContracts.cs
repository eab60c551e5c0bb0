namespace ComeAboard.Client.Accounts;

/// <summary>A person in a workspace, in one capacity.</summary>
/// <param name="Id">The member's id.</param>
/// <param name="Name">Their name.</param>
/// <param name="Address">The address they were invited at.</param>
/// <param name="Kind">staff, guest, partner or client.</param>
/// <param name="Role">view, edit or manage.</param>
/// <param name="IsAdministrator">Whether they are an administrator: staff with the role manage.</param>
/// <param name="State">active or ended.</param>
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
);
