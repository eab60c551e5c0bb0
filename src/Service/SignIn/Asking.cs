using ComeAboard.Service.Http;

namespace ComeAboard.Service.SignIn;

/// <summary>Where somebody asks from who wants to be let in.</summary>
/// <param name="Network">Their network.</param>
/// <param name="KnownAccount">The account that was signed in to in their browser before; null for none.</param>
/// <param name="Session">The hash of the session they have; null for none.</param>
public sealed record Asking(string Network, Guid? KnownAccount, string? Session)
{
    /// <summary>Whether somebody has signed in to an account from there before.</summary>
    public bool Knows(Guid account) => KnownAccount == account;

    /// <summary>Reads it from a request.</summary>
    public static Asking Of(HttpContext http) =>
        new(
            Limits.NetworkOf(http),
            http.RequestServices.GetRequiredService<KnownBrowsers>().AccountOf(http),
            SessionSignIn.HashOf(http.User)
        );
}
