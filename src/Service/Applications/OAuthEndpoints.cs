using System.Security.Claims;
using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore;
using Microsoft.AspNetCore.Authentication;
using OpenIddict.Abstractions;
using OpenIddict.Server.AspNetCore;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>What programs ask of us in OAuth 2.0 and OpenID Connect: tokens, and who somebody is.</summary>
public static class OAuthEndpoints
{
    private const string Scheme = OpenIddictServerAspNetCoreDefaults.AuthenticationScheme;

    public static void MapOAuth(this WebApplication app)
    {
        var oauth = app.MapGroup("").ExcludeFromDescription().WithMetadata(new NoSignIn.Marked());
        oauth.MapPost(OAuthServer.Token, TokenAsync);
        oauth.MapMethods(OAuthServer.UserInfo, ["GET", "POST"], (Delegate)TellAsync);
    }

    /// <summary>
    /// Counts how often devices begin, and has what the library answers by itself wait in line with all that write.
    /// </summary>
    public static IApplicationBuilder UseOAuthLine(this IApplicationBuilder app, LimitSettings limits) =>
        app.Use(
            async (http, next) =>
            {
                if (http.Request.Path == OAuthServer.DeviceAnswer)
                {
                    // The library takes a code that comes twice for stolen: it gets only what was answered on our page.
                    var devices = http.RequestServices.GetRequiredService<DeviceSignIn>();
                    if (
                        HttpMethods.IsPost(http.Request.Method)
                        && await devices.TakeTicketAsync(http.Request.Query["ticket"])
                    )
                        await next(http);
                    else
                        http.Response.Redirect("/device");
                    return;
                }
                var begins = http.Request.Path == OAuthServer.Device;
                if (
                    !HttpMethods.IsPost(http.Request.Method)
                    || !begins && http.Request.Path != OAuthServer.Revoke
                )
                {
                    await next(http);
                    return;
                }
                var all = http.RequestServices;
                if (
                    begins
                    && await all.GetRequiredService<Budgets>()
                        .TakeAsync(
                            "devices",
                            Limits.NetworkOf(http),
                            limits.SignInsPerMinute,
                            TimeSpan.FromMinutes(1)
                        )
                        is { } wait
                )
                {
                    await Limits.RefuseAsync(http, wait);
                    return;
                }
                using var pass = await all.GetRequiredService<WriteGate>().EnterAsync();
                await next(http);
            }
        );

    /// <summary>Gives out what a principal stands for, in line with all that write.</summary>
    internal static IResult GiveOut(ClaimsPrincipal principal, string? onward = null) =>
        new InLine(
            Results.SignIn(
                principal,
                onward is null ? null : new AuthenticationProperties { RedirectUri = onward },
                Scheme
            )
        );

    /// <summary>Refuses in the protocol's words (RFC 6749 sections 4.1.2.1 and 5.2).</summary>
    internal static IResult Refuse(string error, string sentence) =>
        Results.Forbid(
            new AuthenticationProperties(
                new Dictionary<string, string?>
                {
                    [OpenIddictServerAspNetCoreConstants.Properties.Error] = error,
                    [OpenIddictServerAspNetCoreConstants.Properties.ErrorDescription] = sentence,
                }
            ),
            [Scheme]
        );

    private static async Task<IResult> TokenAsync(HttpContext http, SignOns signOns, DeviceSignIn devices)
    {
        var request = http.GetOpenIddictServerRequest()!;
        if (request.IsClientCredentialsGrantType())
            return Answer(await signOns.ForItselfAsync(request.ClientId, request.GetScopes()));
        if ((await http.AuthenticateAsync(Scheme)).Principal is not { } before)
            return Refuse(Errors.InvalidGrant, SignOns.Out.Sentence);
        return Answer(
            request.IsDeviceCodeGrantType()
                ? await devices.SignInAsync(before, request.ClientId)
                : await signOns.RenewAsync(before)
        );
    }

    private static IResult Answer(Outcome<ClaimsPrincipal> outcome) =>
        outcome.Try(out var principal, out var refusal)
            ? GiveOut(principal)
            : Refuse(Errors.InvalidGrant, refusal.Sentence);

    private static async Task<IResult> TellAsync(HttpContext http, SignOns signOns)
    {
        var told = (await http.AuthenticateAsync(Scheme)).Principal;
        if (told is null || !told.HasScope(Scopes.OpenId))
            return Refuse(Errors.InsufficientScope, "Who somebody is is told to programs they signed in to.");
        if (!(await signOns.RenewAsync(told)).Try(out var now, out var refusal))
            return Refuse(Errors.InvalidToken, refusal.Sentence);
        var claims = new Dictionary<string, object?> { [Claims.Subject] = now.GetClaim(Claims.Subject) };
        claims[ProgramClaims.Level] = now.GetClaim(ProgramClaims.Level);
        if (told.HasScope(Scopes.Profile))
            (claims[Claims.Name], claims[Claims.Locale]) = (
                now.GetClaim(Claims.Name),
                now.GetClaim(Claims.Locale)
            );
        if (told.HasScope(Scopes.Email))
            (claims[Claims.Email], claims[Claims.EmailVerified]) = (
                now.GetClaim(Claims.Email),
                now.GetClaim(Claims.EmailVerified) == "true"
            );
        return Results.Ok(claims);
    }

    /// <summary>An answer whose making writes.</summary>
    private sealed class InLine(IResult answer) : IResult
    {
        public async Task ExecuteAsync(HttpContext httpContext)
        {
            using var pass = await httpContext.RequestServices.GetRequiredService<WriteGate>().EnterAsync();
            await answer.ExecuteAsync(httpContext);
        }
    }
}
