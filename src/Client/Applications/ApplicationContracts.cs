namespace ComeAboard.Client.Applications;

/// <summary>An application that the workspace has registered (OAuth 2.0 calls it a client).</summary>
/// <param name="Id">Its id.</param>
/// <param name="Name">What people know it by.</param>
/// <param name="ClientId">The client id it shows.</param>
/// <param name="HasSecret">Whether it has a secret to show; an application on people's own devices has none.</param>
/// <param name="Resource">The resource it is: whoever has access above none there may sign in to it. Empty for an application nobody signs in to.</param>
/// <param name="Redirects">The addresses to which people come back from signing in, compared character by character.</param>
/// <param name="AfterSignOut">The addresses to which people may be sent after signing out.</param>
/// <param name="SignOutAddress">Where it is told that somebody was signed out; empty for nowhere.</param>
/// <param name="Duties">The duties it may ask for, as scopes.</param>
/// <param name="ActsFor">The address of the member for whom it acts by itself; empty where it does not.</param>
/// <param name="SignedIn">How many sign-ins to it stand.</param>
/// <param name="AddedAt">When it was registered.</param>
/// <param name="AddedBy">By whom.</param>
/// <param name="Version">The version.</param>
public sealed record ApplicationView(
    Guid Id,
    string Name,
    string ClientId,
    bool HasSecret,
    string Resource,
    IReadOnlyList<string> Redirects,
    IReadOnlyList<string> AfterSignOut,
    string SignOutAddress,
    IReadOnlyList<string> Duties,
    string ActsFor,
    int SignedIn,
    DateTimeOffset AddedAt,
    string AddedBy,
    int Version
);

/// <summary>An application to be registered, or how it is to be from now on.</summary>
/// <param name="Name">What people know it by; 1 to 100 characters.</param>
/// <param name="Resource">The name or id of the resource it is, where people sign in to it.</param>
/// <param name="Redirects">The addresses to which people come back from signing in: https, or http on the same machine; at most 10.</param>
/// <param name="AfterSignOut">The addresses to which people may be sent after signing out; at most 10.</param>
/// <param name="SignOutAddress">Where it is told that somebody was signed out (OpenID Connect Back-Channel Logout 1.0).</param>
/// <param name="Duties">The duties it may ask for, as scopes; whoever registers it has to hold them.</param>
/// <param name="ActsFor">The address or id of the member for whom it acts by itself (RFC 6749 section 4.4).</param>
/// <param name="IsPublic">Whether it runs where it cannot keep a secret; an application that is changed stays what it is.</param>
public sealed record ApplicationRequest(
    string Name,
    string? Resource = null,
    IReadOnlyList<string>? Redirects = null,
    IReadOnlyList<string>? AfterSignOut = null,
    string? SignOutAddress = null,
    IReadOnlyList<string>? Duties = null,
    string? ActsFor = null,
    bool IsPublic = false
);

/// <summary>An application with its secret, which is shown this once.</summary>
/// <param name="Application">The application.</param>
/// <param name="Secret">Its secret; empty for an application that has none, and where it was only tried.</param>
public sealed record NewApplication(ApplicationView Application, string Secret);
