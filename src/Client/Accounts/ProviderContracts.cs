namespace ComeAboard.Client.Accounts;

/// <summary>A provider (OpenID Connect) by which people at the workspace's proved domains sign in.</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What people know it by.</param>
/// <param name="Issuer">Its issuer, exactly as it says it itself.</param>
/// <param name="ClientId">Under which client id it knows us.</param>
/// <param name="HasSecret">Whether a secret of ours is kept; the secret itself is never shown.</param>
/// <param name="Domains">The mail domains whose people sign in by it.</param>
/// <param name="RedirectUri">The address that it has to know us by.</param>
/// <param name="JoinLink">The label of the join link by which whoever it vouches for joins; empty where that takes an invitation.</param>
/// <param name="UsedBy">How many accounts have it among their ways in.</param>
/// <param name="AddedAt">When it was added.</param>
/// <param name="AddedBy">By whom.</param>
/// <param name="Version">The version.</param>
public sealed record ProviderView(
    Guid Id,
    string Name,
    string Issuer,
    string ClientId,
    bool HasSecret,
    IReadOnlyList<string> Domains,
    string RedirectUri,
    string JoinLink,
    int UsedBy,
    DateTimeOffset AddedAt,
    string AddedBy,
    int Version
);

/// <summary>A provider to be added, or how it is to be from now on.</summary>
/// <param name="Name">What people know it by; 1 to 100 characters.</param>
/// <param name="Issuer">Its issuer, an https address; a provider that is changed keeps the one it has.</param>
/// <param name="ClientId">Under which client id it knows us.</param>
/// <param name="ClientSecret">The secret it gave us; null for none, or for the one there is.</param>
/// <param name="Domains">Mail domains the workspace has proved.</param>
/// <param name="JoinLink">The label or id of a join link by which whoever it vouches for joins; null where that takes an invitation.</param>
public sealed record ProviderRequest(
    string Name,
    string Issuer,
    string ClientId,
    string? ClientSecret = null,
    IReadOnlyList<string>? Domains = null,
    string? JoinLink = null
);
