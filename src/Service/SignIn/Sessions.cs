using System.Security.Claims;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.Cookies;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Browser sign-ins: a cookie that names a row, looked up at every request, so that deleting the row is enough to end it everywhere.</summary>
public static class SessionSignIn
{
    /// <summary>The authentication scheme of browser sessions.</summary>
    public const string Scheme = "session";

    /// <summary>How long a session lasts.</summary>
    public static readonly TimeSpan Lifetime = TimeSpan.FromDays(7);

    // How long a sign-in waits for its second step.
    private static readonly TimeSpan StepLifetime = TimeSpan.FromMinutes(10);

    // How old it may be when a session was last used, as its holder sees it.
    private static readonly TimeSpan SeenEvery = TimeSpan.FromMinutes(1);

    private const string SessionClaim = "session";
    private const string WorkspaceClaim = "workspace";
    private const string TokenClaim = "token";

    public static void Configure(CookieAuthenticationOptions cookie, bool isPlain)
    {
        cookie.Cookie.Name = isPlain ? "aboard_session" : "__Host-aboard_session";
        cookie.Cookie.HttpOnly = true;
        cookie.Cookie.SameSite = SameSiteMode.Lax;
        cookie.Cookie.SecurePolicy = isPlain ? CookieSecurePolicy.SameAsRequest : CookieSecurePolicy.Always;
        cookie.ExpireTimeSpan = Lifetime;
        cookie.SlidingExpiration = false;
        cookie.Events.OnValidatePrincipal = ValidateAsync;
        cookie.Events.OnRedirectToLogin = _ => Task.CompletedTask;
        cookie.Events.OnRedirectToAccessDenied = _ => Task.CompletedTask;
    }

    /// <summary>
    /// Opens a session and gives the browser its cookie; the account's history says by what. Where the account has a second
    /// step that was not shown, the session opens nothing yet but the way to that.
    /// </summary>
    /// <param name="http">The browser's request.</param>
    /// <param name="account">Whose.</param>
    /// <param name="proof">What was shown.</param>
    /// <returns>
    /// Whether somebody is signed in, else a second step is due; refused with <c>account.paused</c> or <c>account.closed</c>.
    /// </returns>
    public static async Task<Outcome<bool>> OpenAsync(HttpContext http, AccountRow account, Proof proof)
    {
        var services = http.RequestServices;
        var now = services.GetRequiredService<TimeProvider>().Now();
        var awaits =
            !proof.IsStrong
            && proof.Awaits(await services.GetRequiredService<SecondSteps>().IsDueAsync(account.Id));
        var secret = ApiTokens.NewSecret();
        var session = new SessionRow
        {
            Id = Guid.CreateVersion7(now),
            SecretHash = secret.Hash().Value,
            AccountId = account.Id,
            OpenedAt = now,
            ExpiresAt = now + (awaits ? StepLifetime : Lifetime),
            OpenedWith = proof.Way,
            SecondStep = proof.Second,
            AwaitsStep = awaits,
            ProvedAt = proof.At,
            SeenAt = now,
            Browser = Cut(http.Request.Headers.UserAgent.ToString(), 200),
            Network = Asking.Of(http).Network,
        };
        var opened = await services
            .GetRequiredService<AccountWriter>()
            .WriteAsync<bool>(
                [account.Id],
                [],
                Caller.Invitee(account.Name, Visitors.Via(http)),
                async write =>
                {
                    if (write[account.Id].Standing.ForbidsSignIn() is { } no)
                        return no;
                    // A new sign-in takes the place of the one this browser had.
                    if ((http.Features.Get<AwaitedStep>()?.Session ?? HashOf(http.User)) is { } before)
                        await write.Rows.Sessions.Where(s => s.SecretHash == before).ExecuteDeleteAsync();
                    write.Rows.Sessions.Add(session);
                    if (awaits)
                        return true;
                    write.Note(
                        account.Id,
                        proof.Second is null ? "account.signed-in" : "account.signed-in-twofold",
                        ("with", Word(proof.Way)),
                        ("second", proof.Second is { } second ? Word(second) : null),
                        ("browser", session.Browser),
                        ("network", session.Network)
                    );
                    return true;
                }
            );
        if (!opened.Succeeded)
            return opened;
        var identity = new ClaimsIdentity(
            [new(ClaimTypes.NameIdentifier, account.Id.ToString()), new(SessionClaim, secret.Reveal())],
            Scheme
        );
        if (!awaits)
            services.GetRequiredService<KnownBrowsers>().Remember(http, account.Id);
        await http.SignInAsync(Scheme, new ClaimsPrincipal(identity));
        return !awaits;
    }

    /// <summary>Takes the second step of the sign-in that waits for it in this browser; it gets a new session.</summary>
    /// <param name="http">The browser's request.</param>
    /// <param name="code">The code.</param>
    public static async Task<Outcome<AccountRow>> StepAsync(HttpContext http, string? code)
    {
        if (
            http.Features.Get<AwaitedStep>() is not { } awaited
            || await http.RequestServices.GetRequiredService<WhoIsHere>().AccountAsync(awaited.Account)
                is not { } account
        )
            return new Refusal(
                "second-step.not-due",
                "No sign-in waits for a code here; after ten minutes it is over.",
                "Sign in again.",
                RefusalSort.NotSignedIn
            );
        var steps = http.RequestServices.GetRequiredService<SecondSteps>();
        var checkedCode = await steps.CheckAsync(account, code, Asking.Of(http).Network, Visitors.Via(http));
        if (!checkedCode.Try(out var second, out var refusal))
            return refusal;
        var opened = await OpenAsync(http, account, awaited.Proof with { Second = second });
        return opened.Try(out _, out var shut) ? account : shut;
    }

    /// <summary>Closes the session of this request.</summary>
    public static async Task CloseAsync(HttpContext http)
    {
        if ((http.Features.Get<AwaitedStep>()?.Session ?? HashOf(http.User)) is { } hash)
        {
            using var pass = await http.RequestServices.GetRequiredService<WriteGate>().EnterAsync();
            await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
            await rows.Sessions.Where(s => s.SecretHash == hash).ExecuteDeleteAsync();
        }
        await http.SignOutAsync(Scheme);
    }

    /// <summary>The hash of the session's secret, as it is stored; null when there is no session.</summary>
    public static string? HashOf(ClaimsPrincipal user) =>
        Secret.Read(user.FindFirstValue(SessionClaim))?.Hash().Value;

    /// <summary>The signed-in account, or null.</summary>
    public static Guid? AccountId(this ClaimsPrincipal user) =>
        Guid.TryParse(user.FindFirstValue(ClaimTypes.NameIdentifier), out var id) ? id : null;

    /// <summary>The only workspace an API token counts in; null for browser sessions.</summary>
    public static Guid? TokenWorkspace(this ClaimsPrincipal user) =>
        Guid.TryParse(user.FindFirstValue(WorkspaceClaim), out var id) ? id : null;

    /// <summary>The API token of this request, or null.</summary>
    public static Guid? TokenId(this ClaimsPrincipal user) =>
        Guid.TryParse(user.FindFirstValue(TokenClaim), out var id) ? id : null;

    /// <summary>The principal of an API token.</summary>
    /// <param name="account">The holder's account.</param>
    /// <param name="workspace">Where it counts.</param>
    /// <param name="token">Its id.</param>
    public static ClaimsPrincipal PrincipalOf(Guid account, Guid workspace, Guid token) =>
        new(
            new ClaimsIdentity(
                [
                    new(ClaimTypes.NameIdentifier, account.ToString()),
                    new(WorkspaceClaim, workspace.ToString()),
                    new(TokenClaim, token.ToString()),
                ],
                TokenSignIn.SchemeName
            )
        );

    /// <summary>The principal of a program that somebody let in.</summary>
    public static ClaimsPrincipal PrincipalOf(ActingProgram program) =>
        new(
            new ClaimsIdentity(
                [
                    new(ClaimTypes.NameIdentifier, program.Account.ToString()),
                    .. program.Standing is { } standing
                        ? [new System.Security.Claims.Claim(WorkspaceClaim, standing.Workspace.Id.ToString())]
                        : Array.Empty<System.Security.Claims.Claim>(),
                ],
                TokenSignIn.SchemeName
            )
        );

    /// <summary>Whether it is a program that asks, and not somebody in a browser.</summary>
    public static bool IsProgram(this ClaimsPrincipal user) =>
        user.Identity?.AuthenticationType == TokenSignIn.SchemeName;

    private static string Word(ProofWay way) => way.ToString().ToLowerInvariant();

    private static string Cut(string text, int most) => text.Length <= most ? text : text[..most];

    private static async Task ValidateAsync(CookieValidatePrincipalContext context)
    {
        var services = context.HttpContext.RequestServices;
        var now = services.GetRequiredService<TimeProvider>().Now();
        if (context.Principal is { } principal && HashOf(principal) is { } hash)
        {
            await using var rows = services.GetRequiredService<Database>().Open();
            var open = await rows
                .Sessions.AsNoTracking()
                .FirstOrDefaultAsync(s => s.SecretHash == hash && s.ExpiresAt > now);
            var proof = open is null ? null : new Proof(open.OpenedWith, open.ProvedAt, open.SecondStep);
            if (open is { AwaitsStep: true })
            {
                // Nobody is signed in yet, and the cookie stays.
                context.HttpContext.Features.Set(new AwaitedStep(open.AccountId, hash, proof!));
                context.RejectPrincipal();
                return;
            }
            if (open is not null)
            {
                if (open.SeenAt < now - SeenEvery)
                    services.GetRequiredService<SessionMarks>().Note(hash);
                context.HttpContext.Features.Set(proof);
                return;
            }
        }
        context.RejectPrincipal();
        await context.HttpContext.SignOutAsync(Scheme);
    }
}

/// <summary>Said of a request whose sign-in waits for its second step: nobody is signed in.</summary>
/// <param name="Account">Whose.</param>
/// <param name="Session">The hash of the session.</param>
/// <param name="Proof">What was shown so far.</param>
public sealed record AwaitedStep(Guid Account, string Session, Proof Proof);
