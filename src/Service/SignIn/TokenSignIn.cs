using System.Text.Encodings.Web;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Authentication;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Options;
using OpenIddict.Validation.AspNetCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Programs sign in with <c>Authorization: Bearer</c> (RFC 6750) and an API token, or the access token of a program that
/// somebody let in; looked up at every request. A token of the workspace that is asked about is found in memory, where it
/// was looked at within the last half second, as its holder and the workspace are; whatever is not found there is looked for
/// in the database.
/// </summary>
public sealed class TokenSignIn(
    IOptionsMonitor<AuthenticationSchemeOptions> options,
    ILoggerFactory loggers,
    UrlEncoder encoder,
    Database database,
    AccessWorlds worlds,
    TimeProvider clock
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
            return await OfProgramAsync();
        var hash = secret.Hash().Value;
        var now = clock.Now();
        if (
            Request.RouteValues["workspace"] is string name
            && worlds.Recent(name) is { } kept
            && kept.Picture.Tokens.TryGetValue(hash, out var known)
            && known.ExpiresAt > now
        )
        {
            Context.Features.Set(new Standing(kept.Workspace, kept.Picture.Holders[known.Member]));
            return AuthenticateResult.Success(
                new AuthenticationTicket(
                    SessionSignIn.PrincipalOf(known.Account, kept.Workspace.Id, known.Id),
                    SchemeName
                )
            );
        }
        await using var rows = database.Open();
        // The token, its holder and their workspace in one look: most requests need all three.
        var found = await (
            from token in rows.ApiTokens.IgnoreQueryFilters()
            join member in rows.Members.IgnoreQueryFilters()
                on new { token.WorkspaceId, Id = token.MemberId } equals new { member.WorkspaceId, member.Id }
            join workspace in rows.Workspaces on token.WorkspaceId equals workspace.Id
            where token.SecretHash == hash && token.RevokedAt == null && token.ExpiresAt > now
            select new { token, holder = new Standing(workspace, member) }
        )
            .AsNoTracking()
            .FirstOrDefaultAsync(Context.RequestAborted);
        if (found is null)
            return await OfProgramAsync();
        Context.Features.Set(found.holder);
        return AuthenticateResult.Success(
            new AuthenticationTicket(
                SessionSignIn.PrincipalOf(found.token.AccountId, found.token.WorkspaceId, found.token.Id),
                SchemeName
            )
        );
    }

    private async Task<AuthenticateResult> OfProgramAsync()
    {
        var program = await ActingAsync(Context);
        if (program is null)
            return AuthenticateResult.Fail("unknown token");
        Context.Features.Set(program);
        if (program.Standing is { } standing)
            Context.Features.Set(standing);
        return AuthenticateResult.Success(
            new AuthenticationTicket(SessionSignIn.PrincipalOf(program), SchemeName)
        );
    }

    /// <summary>Whom a program acts for that comes with the access token of this request; null when it does not count.</summary>
    public static async Task<ActingProgram?> ActingAsync(HttpContext http)
    {
        var shown = await http.AuthenticateAsync(OpenIddictValidationAspNetCoreDefaults.AuthenticationScheme);
        return shown.Principal is { } principal
            ? await http.RequestServices.GetRequiredService<ProgramTokens>().ReadAsync(principal)
            : null;
    }
}
