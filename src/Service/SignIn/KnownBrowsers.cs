using System.Security.Cryptography;
using Microsoft.AspNetCore.DataProtection;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Browsers in which somebody has signed in before: a sealed cookie names the account. It lets nobody in; it only keeps
/// strangers who guess passwords from locking the account's own holder out.
/// </summary>
public sealed class KnownBrowsers(IDataProtectionProvider protection, ServiceSettings settings)
{
    private static readonly TimeSpan Lifetime = TimeSpan.FromDays(180);

    private readonly ITimeLimitedDataProtector _seal = protection
        .CreateProtector("ComeAboard.SignIn.KnownBrowser.v1")
        .ToTimeLimitedDataProtector();

    private string Name => settings.IsPlain ? "aboard_known" : "__Host-aboard_known";

    /// <summary>Remembers that somebody has signed in to an account in this browser.</summary>
    public void Remember(HttpContext http, Guid account) =>
        http.Response.Cookies.Append(
            Name,
            _seal.Protect(account.ToString("N"), Lifetime),
            new CookieOptions
            {
                HttpOnly = true,
                Secure = !settings.IsPlain,
                SameSite = SameSiteMode.Lax,
                MaxAge = Lifetime,
                IsEssential = true,
                Path = "/",
            }
        );

    /// <summary>The account somebody has signed in to in this browser before; null for none.</summary>
    public Guid? AccountOf(HttpContext http)
    {
        if (http.Request.Cookies[Name] is not { Length: > 0 } kept)
            return null;
        try
        {
            return Guid.TryParse(_seal.Unprotect(kept), out var known) ? known : null;
        }
        catch (CryptographicException)
        {
            return null;
        }
    }
}
