using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which a second step is set up, and the one that shows its recovery codes.</summary>
/// <param name="Offer">What a device is given; null once it is set up.</param>
/// <param name="Codes">The recovery codes, shown this once; null before.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record SecondStepModel(
    SecondStepOffer? Offer,
    RecoveryCodes? Codes,
    Refusal? Refusal,
    string Language,
    FormToken Token
);

/// <summary>The page that asks for the second step of a sign-in.</summary>
/// <param name="Next">Where one goes from there.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record StepModel(string Next, Refusal? Refusal, string Language, FormToken Token);

/// <summary>The pages of the second step; all of them work without scripts.</summary>
public static class SecondStepPages
{
    private const string Via = "page";
    private const string Place = "/account/second-step";

    public static void MapSecondStepPages(this RouteGroupBuilder pages)
    {
        pages.MapGet(
            "/sign-in/step",
            (string? next, HttpContext http) =>
                http.Features.Get<AwaitedStep>() is null
                    ? Results.Redirect("/sign-in")
                    : Step(http, next, null)
        );
        pages.MapPost("/sign-in/step", StepAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet(Place, (Delegate)OfferAsync);
        pages.MapPost(Place, KeepAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/second-step/codes", RenewCodesAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/second-step/remove", RemoveAsync).LimitedBy(Limits.SigningIn);
    }

    /// <summary>Where somebody goes who has just signed in: on, or to the second step.</summary>
    internal static IResult Onward(HttpContext http, Outcome<bool> opened, string next) =>
        !opened.Try(out var isIn, out var refusal) ? OutsidePages.Refused(http, refusal)
        : isIn ? Results.LocalRedirect(next)
        : Results.LocalRedirect("/sign-in/step?next=" + Uri.EscapeDataString(next));

    private static IResult Step(HttpContext http, string? next, Refusal? refusal) =>
        PageEndpoints.Page<StepPage>(
            new StepModel(
                PageEndpoints.IsLocal(next) ? next! : "",
                refusal,
                PageEndpoints.LanguageOf(http),
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );

    private static async Task<IResult> StepAsync(IFormCollection form, HttpContext http)
    {
        var next = form["next"].ToString();
        return (await SessionSignIn.StepAsync(http, form["code"])).Try(out var account, out var refusal)
            ? Results.LocalRedirect(
                PageEndpoints.IsLocal(next) ? next : await PageEndpoints.HomeAsync(http, account.Id)
            )
            : Step(http, next, refusal);
    }

    private static async Task<IResult> OfferAsync(HttpContext http)
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=" + Place);
        return Stale(http, Place) ?? Show(http, account.Language, StepsOf(http).Begin(account), null, null);
    }

    private static async Task<IResult> KeepAsync(IFormCollection form, HttpContext http)
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=" + Place);
        if (Stale(http, Place) is { } stale)
            return stale;
        var steps = StepsOf(http);
        var request = new SecondStepRequest(form["state"].ToString(), form["code"].ToString());
        var kept = await steps.KeepAsync(account, request, Asking.Of(http), Via);
        return kept.Try(out var codes, out var refusal)
            ? Show(http, account.Language, null, codes, null)
            : Show(
                http,
                account.Language,
                steps.Again(account, request.State) ?? steps.Begin(account),
                null,
                refusal
            );
    }

    private static async Task<IResult> RenewCodesAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        if (Stale(http, "/account") is { } stale)
            return stale;
        return (await StepsOf(http).RenewCodesAsync(account, Via)).Try(out var codes, out var refusal)
            ? Show(http, account.Language, null, codes, null)
            : PageEndpoints.Refused(http, refusal);
    }

    private static async Task<IResult> RemoveAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        if (Stale(http, "/account") is { } stale)
            return stale;
        return (await StepsOf(http).RemoveAsync(account, Via)).Try(out _, out var refusal)
            ? Results.Redirect("/account")
            : PageEndpoints.Refused(http, refusal);
    }

    private static IResult Show(
        HttpContext http,
        string language,
        SecondStepOffer? offer,
        RecoveryCodes? codes,
        Refusal? refusal
    ) =>
        PageEndpoints.Page<SecondStepPage>(
            new SecondStepModel(offer, codes, refusal, language, PageEndpoints.TokenOf(http)),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );

    /// <summary>The way to a fresh proof, where there is none; null where there is.</summary>
    internal static IResult? Stale(HttpContext http, string next)
    {
        var now = http.RequestServices.GetRequiredService<TimeProvider>().Now();
        return http.Features.Get<Proof>() is { } proof && proof.IsFresh(now)
            ? null
            : Results.Redirect("/confirm?next=" + Uri.EscapeDataString(next));
    }

    private static SecondSteps StepsOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<SecondSteps>();
}
