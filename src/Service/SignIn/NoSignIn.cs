using System.Text.Encodings.Web;
using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// For endpoints that look at who asks by themselves, from memory: nothing is looked up for them before they run.
/// </summary>
public sealed class NoSignIn(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory loggers,
    UrlEncoder encoder
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, loggers, encoder)
{
    /// <summary>The scheme of endpoints that need none.</summary>
    public const string SchemeName = "none";

    /// <summary>Marks an endpoint that looks at who asks by itself.</summary>
    public sealed record Marked;

    /// <inheritdoc/>
    protected override Task<AuthenticateResult> HandleAuthenticateAsync() =>
        Task.FromResult(AuthenticateResult.NoResult());
}
