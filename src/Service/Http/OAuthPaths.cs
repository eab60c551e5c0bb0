using Microsoft.AspNetCore.Authentication;
using Microsoft.Extensions.Options;
using OpenIddict.Server.AspNetCore;

namespace ComeAboard.Service.Http;

/// <summary>
/// Has the library look at requests on its own paths only: looking at one costs it about as much as deciding on access and
/// answering, and it would look at all.
/// </summary>
public sealed class OAuthPaths(IOptions<AuthenticationOptions> options, IHttpContextAccessor current)
    : AuthenticationSchemeProvider(options)
{
    private const string Server = OpenIddictServerAspNetCoreDefaults.AuthenticationScheme;

    // The parts of the address space in which the library answers anything at all.
    private static readonly PathString[] Own = ["/oauth", "/device", "/.well-known"];

    private IReadOnlyList<AuthenticationScheme>? _elsewhere;

    /// <inheritdoc/>
    public override async Task<IEnumerable<AuthenticationScheme>> GetRequestHandlerSchemesAsync()
    {
        var path = current.HttpContext?.Request.Path ?? PathString.Empty;
        if (Array.Exists(Own, own => path.StartsWithSegments(own)))
            return await base.GetRequestHandlerSchemesAsync();
        return _elsewhere ??= [
            .. (await base.GetRequestHandlerSchemesAsync()).Where(scheme => scheme.Name != Server),
        ];
    }
}
