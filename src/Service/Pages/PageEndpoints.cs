using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.AspNetCore.Components;
using Microsoft.AspNetCore.Http.HttpResults;

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
        pages.MapGet("/pages.js", () => Results.Stream(Open("pages.js"), "text/javascript; charset=utf-8"));
        pages.MapGet("/home", (Delegate)GoHomeAsync);
        pages.MapGet(
            "/",
            (HttpContext http) => Results.Redirect(http.User.AccountId() is null ? "/sign-in" : "/places")
        );

        pages.MapLandingPages();
        pages.MapJoinPages();
        pages.MapColleaguePages();
        pages.MapLeavePages();
        pages.MapAccountPages();
        pages.MapSecondStepPages();
        pages.MapClaimPages();
        pages.MapOutsidePages();
        pages.MapProgramPages();
        pages.MapDevicePages();

        pages.MapGet("/set-up/{secret}", SetUpAsync);
        pages.MapPost("/set-up/{secret}", TakeSetUpAsync).LimitedBy(Limits.SigningIn);

        pages.MapGet("/sign-in", (string? next, HttpContext http) => SignInPageAsync(http, next, "", null));
        pages.MapPost("/sign-in", SignInAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/sign-in/code", MailCodeAsync).LimitedBy(Limits.Codes);
        pages.MapPost("/sign-in/by-code", SignInByCodeAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/sign-out", SignOutAsync);
        pages.MapGet("/places", (Delegate)PlacesAsync);
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
        await SessionSignIn.OpenAsync(http, joined.Account, joined.Proof!);
        return Results.Redirect($"/w/{workspace.ShortName}");
    }

    private static async Task<IResult> SignInAsync(IFormCollection form, HttpContext http, SignInDesk desk)
    {
        var next = form["next"].ToString();
        if (
            !(await desk.CheckAsync(form["address"], form["password"], Asking.Of(http))).Try(
                out var shown,
                out var refusal
            )
        )
            return await SignInPageAsync(http, next, form["address"].ToString(), refusal);
        return SecondStepPages.Onward(
            http,
            await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof),
            IsLocal(next) ? next : await HomeAsync(http, shown.Account.Id)
        );
    }

    private static Task<IResult> MailCodeAsync(IFormCollection form, HttpContext http, CodeDesk desk)
    {
        var address = form["address"].ToString();
        if (EmailAddress.Read(address).Refusal is { } malformed)
            return SignInPageAsync(http, form["next"], address, malformed);
        desk.Mail(address, Via);
        return SignInPageAsync(http, form["next"], address, null, hasCode: true);
    }

    private static async Task<IResult> SignInByCodeAsync(
        IFormCollection form,
        HttpContext http,
        CodeDesk desk
    )
    {
        var (next, address) = (form["next"].ToString(), form["address"].ToString());
        if (!(await desk.CheckAsync(address, form["code"])).Try(out var shown, out var refusal))
            return await SignInPageAsync(http, next, address, refusal, hasCode: true);
        return SecondStepPages.Onward(
            http,
            await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof),
            IsLocal(next) ? next : await HomeAsync(http, shown.Account.Id)
        );
    }

    private static async Task<IResult> SignOutAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        await SessionSignIn.CloseAsync(http);
        return Results.Redirect("/sign-in");
    }

    private static async Task<IResult> PlacesAsync(HttpContext http) =>
        await http.MeAsync() is { } me
            ? Page<PlacesPage>(
                new PlacesModel(me, (await AccountAsync(http))?.Language ?? "en", TokenOf(http))
            )
            : Results.Redirect("/sign-in?next=/places");

    internal static async Task<IResult> SignInPageAsync(
        HttpContext http,
        string? next,
        string address,
        Refusal? refusal,
        bool hasCode = false
    )
    {
        http.AllowOwnScript();
        return Page<SignInPage>(
            new SignInModel(
                IsLocal(next) ? next! : "",
                address,
                hasCode,
                refusal,
                LanguageOf(http),
                TokenOf(http)
            )
            {
                HasOutside = await http.RequestServices.GetRequiredService<OutsideProviders>().AreAnyAsync(),
            },
            refusal is null ? 200 : StatusOf(refusal)
        );
    }

    private static async Task<IResult> GoHomeAsync(HttpContext http) =>
        Results.LocalRedirect(
            http.User.AccountId() is { } account ? await HomeAsync(http, account) : "/sign-in"
        );

    /// <summary>Where somebody lands after signing in: the console of their only workspace to look after, else their places.</summary>
    internal static async Task<string> HomeAsync(HttpContext http, Guid account) =>
        await http.RequestServices.GetRequiredService<WhoIsHere>().OnlyChargeAsync(account) is { } only
            ? $"/w/{only}"
            : "/places";

    internal static Task<AccountRow?> AccountAsync(HttpContext http) =>
        http.RequestServices.GetRequiredService<WhoIsHere>().AccountAsync(http.User.AccountId());

    internal static IResult Refused(
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

    internal static bool IsLocal(string? path) =>
        path is ['/', not ('/' or '\\'), ..]
        && !path.Contains('\\', StringComparison.Ordinal)
        && !path.Any(char.IsControl);

    private static Stream Open(string name) =>
        typeof(PageEndpoints).Assembly.GetManifestResourceStream(name)!;
}
