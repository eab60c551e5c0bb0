using System.Text.Encodings.Web;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;

namespace ComeAboard.Service.SignIn;

/// <summary>Programs sign in with <c>Authorization: Bearer</c> and an API token (RFC 6750), looked up at every request.</summary>
public sealed class TokenSignIn(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory loggers,
    UrlEncoder encoder,
    Database database
) : AuthenticationHandler<AuthenticationSchemeOptions>(options, loggers, encoder)
{
    /// <summary>The authentication scheme of API tokens.</summary>
    public const string SchemeName = "token";

    private const string Prefix = "Bearer ";

    /// <summary>Whether a request carries a token at all.</summary>
    public static bool IsCarriedBy(HttpRequest request) =>
        request.Headers.Authorization.ToString().StartsWith(Prefix, StringComparison.OrdinalIgnoreCase);

    /// <inheritdoc/>
    protected override async Task<AuthenticateResult> HandleAuthenticateAsync()
    {
        if (!IsCarriedBy(Request))
            return AuthenticateResult.NoResult();
        if (Secret.Read(Request.Headers.Authorization.ToString()[Prefix.Length..].Trim()) is not { } secret)
            return AuthenticateResult.Fail("not a token");
        var hash = secret.Hash().Value;
        await using var rows = database.Open();
        var token = await rows
            .ApiTokens.IgnoreQueryFilters()
            .AsNoTracking()
            .FirstOrDefaultAsync(t => t.SecretHash == hash && t.RevokedAt == null, Context.RequestAborted);
        return token is null
            ? AuthenticateResult.Fail("unknown token")
            : AuthenticateResult.Success(
                new AuthenticationTicket(SessionSignIn.PrincipalOf(token), SchemeName)
            );
    }
}
