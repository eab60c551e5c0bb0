using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Http.HttpResults;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Pages;

/// <summary>
/// The pages of people who are not at work in the console: invitation, sign-in, set-up, their own places. Plain HTML
/// and forms, no scripts; opening any of them changes nothing but the time an invitation was first seen.
/// </summary>
public static class PageEndpoints
{
    private const string Via = "page";

    public static void MapPages(this WebApplication app)
    {
        var pages = app.MapGroup("").ExcludeFromDescription();
        pages.MapGet("/pages.css", () => Results.Stream(Open("pages.css"), "text/css; charset=utf-8"));
        pages.MapGet(
            "/",
            (HttpContext http) => Results.Redirect(http.User.AccountId() is null ? "/sign-in" : "/places")
        );

        pages.MapGet("/i/{secret}", LandAsync);
        pages.MapPost("/i/{secret}/accept", AcceptAsync).RequireRateLimiting(Limits.SigningIn);
        pages.MapPost("/i/{secret}/accept-held", AcceptHeldAsync).RequireRateLimiting(Limits.SigningIn);
        pages.MapPost("/i/{secret}/code", CodeAsync).RequireRateLimiting(Limits.Codes);
        pages.MapPost("/i/{secret}/sign-in", SignInAtLandingAsync).RequireRateLimiting(Limits.SigningIn);
        pages.MapPost("/i/{secret}/sign-out", SignOutAtLandingAsync);
        pages.MapPost("/i/{secret}/decline", DeclineAsync);
        pages.MapGet("/i/{secret}/stop", StopPageAsync);
        // Mail programs ask for this by themselves, without cookies (RFC 8058); the secret is all they need.
        pages
            .MapPost("/i/{secret}/stop", StopAsync)
            .DisableAntiforgery()
            .RequireRateLimiting(Limits.SigningIn);

        pages.MapJoinPages();
        pages.MapColleaguePages();

        pages.MapGet("/set-up/{secret}", SetUpAsync);
        pages.MapPost("/set-up/{secret}", TakeSetUpAsync).RequireRateLimiting(Limits.SigningIn);

        pages.MapGet("/sign-in", (string? next, HttpContext http) => SignInPage(http, next, "", null));
        pages.MapPost("/sign-in", SignInAsync).RequireRateLimiting(Limits.SigningIn);
        pages.MapPost("/sign-out", SignOutAsync);
        pages.MapGet("/places", (Delegate)PlacesAsync);
    }

    private static async Task<IResult> LandAsync(string secret, HttpContext http, Answering answering)
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return Refused(http, refusal);
        if (HttpMethods.IsGet(http.Request.Method))
            await answering.NoteSeenAsync(found.Invitation);
        return await LandingAsync(http, secret, answering, null);
    }

    private static async Task<IResult> AcceptAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        var name = form["name"].ToString();
        var joined = await answering.AcceptAsNewAsync(secret, name, form["password"], Via);
        if (!joined.Try(out var came, out var refusal))
            return await LandingAsync(http, secret, answering, refusal, name);
        await SessionSignIn.OpenAsync(http, came.Account);
        return Welcome(came);
    }

    private static async Task<IResult> AcceptHeldAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        if (await AccountAsync(http) is not { } account)
            return await LandingAsync(http, secret, answering, CommonRefusals.SignInRequired);
        var joined = await answering.AcceptAsHeldAsync(secret, account, form["code"], Via);
        return joined.Try(out var came, out var refusal)
            ? Welcome(came)
            : await LandingAsync(http, secret, answering, refusal);
    }

    private static async Task<IResult> CodeAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering
    )
    {
        _ = form;
        if (await AccountAsync(http) is not { } account)
            return await LandingAsync(http, secret, answering, CommonRefusals.SignInRequired);
        return (await answering.SendCodeAsync(secret, account, Via)).Try(out _, out var refusal)
            ? await LandingAsync(http, secret, answering, null, codeSent: true)
            : await LandingAsync(http, secret, answering, refusal);
    }

    private static async Task<IResult> SignInAtLandingAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering,
        SignInDesk desk
    )
    {
        if (!(await desk.CheckAsync(form["address"], form["password"])).Try(out var account, out var refusal))
            return await LandingAsync(http, secret, answering, refusal);
        await SessionSignIn.OpenAsync(http, account);
        return Results.Redirect($"/i/{secret}");
    }

    private static async Task<IResult> SignOutAtLandingAsync(
        string secret,
        IFormCollection form,
        HttpContext http
    )
    {
        _ = form;
        await SessionSignIn.CloseAsync(http);
        return Results.Redirect($"/i/{secret}");
    }

    private static async Task<IResult> DeclineAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Answering answering,
        Declining declining
    )
    {
        var no = new No(form["reason"] == "not-me", form["stop"] == "yes");
        if (!(await declining.DeclineAsync(secret, no, Via)).Try(out _, out var refusal))
            return Refused(http, refusal);
        var found = (await answering.FindAsync(secret)).Value;
        var words = Phrases.Of(found.Invitation.Language).Page;
        return Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                words.Declined,
                [no.DoNotInviteAgain ? words.DeclinedStopped : words.DeclinedKept],
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    /// <summary>What a mail's way out leads to in a browser: opening it changes nothing yet.</summary>
    private static async Task<IResult> StopPageAsync(string secret, HttpContext http, Answering answering)
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return Refused(http, refusal);
        var words = Phrases.Of(found.Invitation.Language).Page;
        return Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                words.StopTitle,
                [string.Format(null, words.StopSentence, found.Invitation.Address)],
                StopPath: $"/i/{secret}/stop",
                Token: TokenOf(http),
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    private static async Task<IResult> StopAsync(
        string secret,
        HttpContext http,
        Answering answering,
        Declining declining
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return Refused(http, refusal);
        if (!(await declining.DeclineAsync(secret, new No(false, true), Via)).Try(out _, out refusal))
            return Refused(http, refusal);
        return Page<WordPage>(
            new WordModel(
                found.Workspace.Name,
                Phrases.Of(found.Invitation.Language).Page.StopTitle,
                [Phrases.Of(found.Invitation.Language).Page.Stopped],
                Language: found.Invitation.Language,
                Colours: found.Workspace.ShortName
            )
        );
    }

    /// <summary>Where somebody goes who said yes.</summary>
    private static IResult Welcome(Joined came)
    {
        if (came.Member is not null)
            return Results.Redirect("/places");
        var language = came.Invitation!.Language;
        var words = Phrases.Of(language).Page;
        return Page<WordPage>(
            new WordModel(
                came.Workspace.Name,
                words.WaitingTitle,
                [string.Format(null, words.WaitingSentence, came.Workspace.Name)],
                Language: language,
                Colours: came.Workspace.ShortName
            )
        );
    }

    private static async Task<IResult> SetUpAsync(string secret, HttpContext http, SettingUp settingUp) =>
        (await settingUp.FindAsync(secret)).Try(out var workspace, out var refusal)
            ? Page<SetUpPage>(new SetUpModel(secret, workspace, "", "", null, TokenOf(http)))
            : Refused(http, refusal);

    private static async Task<IResult> TakeSetUpAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        SettingUp settingUp
    )
    {
        if (!(await settingUp.FindAsync(secret)).Try(out var workspace, out var refusal))
            return Refused(http, refusal);
        var (name, address) = (form["name"].ToString(), form["address"].ToString());
        if (
            !(await settingUp.TakeAsync(secret, name, address, form["password"], Via)).Try(
                out var joined,
                out refusal
            )
        )
            return Page<SetUpPage>(
                new SetUpModel(secret, workspace, name, address, refusal, TokenOf(http)),
                StatusOf(refusal)
            );
        await SessionSignIn.OpenAsync(http, joined.Account);
        return Results.Redirect($"/w/{workspace.ShortName}");
    }

    private static async Task<IResult> SignInAsync(IFormCollection form, HttpContext http, SignInDesk desk)
    {
        var next = form["next"].ToString();
        if (!(await desk.CheckAsync(form["address"], form["password"])).Try(out var account, out var refusal))
            return SignInPage(http, next, form["address"].ToString(), refusal);
        await SessionSignIn.OpenAsync(http, account);
        return Results.LocalRedirect(IsLocal(next) ? next : await HomeAsync(http, account));
    }

    private static async Task<IResult> SignOutAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        await SessionSignIn.CloseAsync(http);
        return Results.Redirect("/sign-in");
    }

    private static async Task<IResult> PlacesAsync(HttpContext http) =>
        await SignInEndpoints.FindAsync(http) is { } me
            ? Page<PlacesPage>(
                new PlacesModel(me, (await AccountAsync(http))?.Language ?? "en", TokenOf(http))
            )
            : Results.Redirect("/sign-in?next=/places");

    private static async Task<IResult> LandingAsync(
        HttpContext http,
        string secret,
        Answering answering,
        Refusal? refusal,
        string typed = "",
        bool codeSent = false
    )
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var closed))
            return Refused(http, closed);
        if (!(await answering.ReadAsync(secret)).Try(out var offer, out closed))
            return Refused(http, closed, found, $"/i/{secret}/decline");
        var me = await SignInEndpoints.FindAsync(http);
        var needsCode = me is not null && !await HoldsAsync(http, me.AccountId, found.Invitation.AddressKey);
        var model = new LandingModel(
            secret,
            offer,
            found.Workspace,
            me,
            needsCode,
            codeSent,
            refusal,
            typed,
            TokenOf(http)
        );
        return Page<LandingPage>(model, refusal is null ? 200 : StatusOf(refusal));
    }

    private static IResult SignInPage(HttpContext http, string? next, string address, Refusal? refusal) =>
        Page<SignInPage>(
            new SignInModel(IsLocal(next) ? next! : "", address, refusal, TokenOf(http)),
            refusal is null ? 200 : StatusOf(refusal)
        );

    /// <summary>Where somebody lands after signing in: the console of their only workspace to look after, else their places.</summary>
    private static async Task<string> HomeAsync(HttpContext http, AccountRow account)
    {
        await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
        var kept = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where member.AccountId == account.Id && member.EndedAt == null
            select new { member, workspace }
        )
            .AsNoTracking()
            .ToListAsync();
        var worlds = http.RequestServices.GetRequiredService<AccessWorlds>();
        var now = http.RequestServices.GetRequiredService<TimeProvider>().Now();
        var looksAfter = new List<string>();
        foreach (var k in kept)
        {
            var world = await worlds.OfAsync(k.workspace);
            if (world.DutiesOf(k.member.Id, Core.Workspaces.Days.Of(now, k.workspace.Zone)) != Duties.None)
                looksAfter.Add(k.workspace.ShortName);
        }
        return looksAfter.Count == 1 && kept.Count == 1 ? $"/w/{looksAfter[0]}" : "/places";
    }

    private static async Task<AccountRow?> AccountAsync(HttpContext http)
    {
        if (http.User.AccountId() is not { } id)
            return null;
        await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
        return await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id);
    }

    private static async Task<bool> HoldsAsync(HttpContext http, Guid account, string addressKey)
    {
        await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
        return await rows.AccountAddresses.AnyAsync(a =>
            a.AccountId == account && a.AddressKey == addressKey
        );
    }

    private static IResult Refused(
        HttpContext http,
        Refusal refusal,
        FoundInvitation? found = null,
        string? stop = null
    )
    {
        var language = found?.Invitation.Language ?? LanguageOf(http);
        var words = Phrases.Of(language).Page;
        var isUsed = refusal.Code == "link.used";
        return Page<WordPage>(
            new WordModel(
                found?.Workspace.Name ?? "Come Aboard",
                words.LinkClosed,
                [],
                refusal,
                isUsed ? words.SignIn : null,
                isUsed ? "/sign-in" : null,
                stop,
                stop is null ? null : TokenOf(http),
                language,
                found?.Workspace.ShortName
            ),
            StatusOf(refusal)
        );
    }

    /// <summary>The language a browser asks for first, among ours (RFC 9110 section 12.5.4).</summary>
    internal static string LanguageOf(HttpContext http) =>
        http.Request.GetTypedHeaders()
            .AcceptLanguage.OrderByDescending(language => language.Quality ?? 1)
            .Select(language => language.Value.ToString().Split('-')[0])
            .FirstOrDefault(Languages.All.Contains)
        ?? Languages.Default;

    internal static RazorComponentResult<T> Page<T>(object model, int status = 200)
        where T : IComponent =>
        new(new Dictionary<string, object?> { ["Model"] = model }) { StatusCode = status };

    internal static FormToken TokenOf(HttpContext http)
    {
        var tokens = http.RequestServices.GetRequiredService<IAntiforgery>().GetAndStoreTokens(http);
        return new FormToken(tokens.FormFieldName, tokens.RequestToken!);
    }

    internal static int StatusOf(Refusal refusal) => refusal.ToProblem().Status;

    private static bool IsLocal(string? path) =>
        path is ['/', not ('/' or '\\'), ..]
        && !path.Contains('\\', StringComparison.Ordinal)
        && !path.Any(char.IsControl);

    private static Stream Open(string name) =>
        typeof(PageEndpoints).Assembly.GetManifestResourceStream(name)!;
}
