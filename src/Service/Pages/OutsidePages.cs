using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;
using Microsoft.AspNetCore.Authentication.OpenIdConnect;

namespace ComeAboard.Service.Pages;

/// <summary>The pages of signing in by another organisation's provider (OpenID Connect): on to it, and back.</summary>
public static class OutsidePages
{
    internal const string ToSignIn = "sign-in";
    internal const string ToTie = "tie";
    internal const string ToConfirm = "confirm";

    private const string Via = "page";

    // The library takes nothing for "back to where it was asked".
    private const string Home = "/home";

    internal static Refusal Failed { get; } =
        new(
            "outside.failed",
            "Signing in by your organisation did not work: its answer was not right, or came too late.",
            "Begin again, or sign in another way.",
            RefusalSort.NotSignedIn
        );

    internal static Refusal Denied { get; } =
        new(
            "outside.denied",
            "Your organisation did not sign you in.",
            "Begin again, or sign in another way.",
            RefusalSort.NotSignedIn
        );

    private static Refusal Away { get; } =
        new(
            "outside.away",
            "Your organisation's sign-in does not answer.",
            "Try again later, or sign in another way.",
            RefusalSort.NotSignedIn
        );

    public static void MapOutsidePages(this RouteGroupBuilder pages)
    {
        pages.MapPost("/sign-in/outside", SignInAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/sign-in/from/{id:guid}", BackAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/outside", TieAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/outside/remove", RemoveAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/confirm/outside", ConfirmAsync).LimitedBy(Limits.SigningIn);
    }

    private static async Task<IResult> SignInAsync(
        IFormCollection form,
        HttpContext http,
        OutsideProviders providers
    )
    {
        var (next, address) = (form["next"].ToString(), form["address"].ToString());
        if (!EmailAddress.Read(address).Try(out var at, out var refusal))
            return await PageEndpoints.SignInPageAsync(http, next, address, refusal);
        return await providers.ForAsync(at) is { } provider
            ? await OnAsync(http, provider, ToSignIn, next, at.ToString(), null)
            : await PageEndpoints.SignInPageAsync(http, next, address, OutsideProviders.Unknown);
    }

    private static async Task<IResult> TieAsync(
        IFormCollection form,
        HttpContext http,
        OutsideProviders providers
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        if (SecondStepPages.Stale(http, "/account") is { } stale)
            return stale;
        return await MineAsync(form, account, providers) is { } provider
            ? await OnAsync(http, provider, ToTie, "/account", account.Address, account)
            : Refused(http, OutsideProviders.Unknown);
    }

    private static async Task<IResult> RemoveAsync(
        IFormCollection form,
        HttpContext http,
        OutsideSignIn outside
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        if (SecondStepPages.Stale(http, "/account") is { } stale)
            return stale;
        var id = Guid.TryParse(form["id"], out var read) ? read : Guid.Empty;
        return (await outside.RemoveAsync(account, id, Via)).Try(out _, out var refusal)
            ? Results.Redirect("/account")
            : Refused(http, refusal);
    }

    private static async Task<IResult> ConfirmAsync(
        string? next,
        IFormCollection form,
        HttpContext http,
        OutsideProviders providers
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in");
        var back = PageEndpoints.IsLocal(next) ? next! : "/account";
        return await MineAsync(form, account, providers) is { } provider
            ? await OnAsync(http, provider, ToConfirm, back, account.Address, account)
            : Refused(http, OutsideProviders.Unknown);
    }

    /// <summary>The provider that a form names, if its word counts for the account.</summary>
    private static async Task<ProviderRow?> MineAsync(
        IFormCollection form,
        AccountRow account,
        OutsideProviders providers
    ) =>
        Guid.TryParse(form["provider"], out var id)
            ? (await providers.OfAccountAsync(account.Id)).FirstOrDefault(p => p.Id == id)
            : null;

    /// <summary>
    /// Sends a browser on to a provider. By a page and not by an answer to the form, which may lead to this service alone.
    /// </summary>
    private static async Task<IResult> OnAsync(
        HttpContext http,
        ProviderRow provider,
        string purpose,
        string next,
        string? hint,
        AccountRow? account
    )
    {
        var properties = new AuthenticationProperties
        {
            RedirectUri = PageEndpoints.IsLocal(next) ? next : Home,
        };
        properties.Items[OutsideEvents.Purpose] = purpose;
        properties.Items[OutsideEvents.Provider] = provider.Id.ToString();
        properties.Items[OutsideEvents.Account] = account?.Id.ToString();
        properties.Items[OutsideEvents.Hint] = hint;
        try
        {
            var handler = await HandlerAsync(http, provider);
            await handler.ChallengeAsync(properties);
        }
        catch (Exception fault) when (fault is not OutOfMemoryException)
        {
            http.RequestServices.GetRequiredService<ILogger<OutsideEvents>>()
                .LogWarning(fault, "The provider {Provider} could not be asked", provider.Issuer);
            return Refused(http, Away);
        }
        var to = http.Response.Headers.Location.ToString();
        http.Response.Headers.Remove("Location");
        http.Response.StatusCode = StatusCodes.Status200OK;
        http.Response.Headers["Refresh"] = "0; url=" + to;
        var language = account?.Language ?? PageEndpoints.LanguageOf(http);
        var words = Phrases.Of(language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                words.SignIn,
                [string.Format(null, words.OutsideOn, provider.Name)],
                Action: string.Format(null, words.OutsideGo, provider.Name),
                Link: to,
                Language: language
            )
        );
    }

    private static async Task<IResult> BackAsync(Guid id, HttpContext http, OutsideProviders providers)
    {
        if (await providers.FindAsync(id) is not { } provider)
            return Refused(http, OutsideProviders.Unknown);
        var handler = await HandlerAsync(http, provider);
        return await handler.HandleRequestAsync() ? Results.Empty : Refused(http, Failed);
    }

    /// <summary>What follows from a provider's word.</summary>
    internal static async Task<IResult> ReceivedAsync(
        HttpContext http,
        AuthenticationProperties asked,
        string? back,
        OutsideWord word
    )
    {
        var services = http.RequestServices;
        var outside = services.GetRequiredService<OutsideSignIn>();
        if (
            !Guid.TryParse(asked.Items[OutsideEvents.Provider], out var id)
            || await services.GetRequiredService<OutsideProviders>().FindAsync(id) is not { } provider
        )
            return Refused(http, OutsideProviders.Unknown);
        if (word.Subject.Length == 0)
            return Refused(http, Failed);
        var next = back is null or Home ? "" : back;
        if (asked.Items[OutsideEvents.Purpose] == ToSignIn)
        {
            if (!(await outside.ComeAsync(provider, word, Via)).Try(out var shown, out var no))
                return await PageEndpoints.SignInPageAsync(http, next, word.Address?.ToString() ?? "", no);
            return SecondStepPages.Onward(
                http,
                await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof),
                PageEndpoints.IsLocal(next) ? next : await PageEndpoints.HomeAsync(http, shown.Account.Id)
            );
        }
        // Whoever is signed in now has to be who asked.
        if (
            await PageEndpoints.AccountAsync(http) is not { } account
            || asked.Items[OutsideEvents.Account] != account.Id.ToString()
        )
            return Refused(http, Failed);
        if (asked.Items[OutsideEvents.Purpose] == ToTie)
        {
            if (SecondStepPages.Stale(http, "/account") is { } stale)
                return stale;
            return (await outside.TieAsync(account, provider, word, Via)).Try(out _, out var refusal)
                ? Results.LocalRedirect("/account")
                : Refused(http, refusal);
        }
        if (!(await outside.ConfirmAsync(account, provider, word)).Try(out var again, out var wrong))
            return Refused(http, wrong);
        var proofs = services.GetRequiredService<FreshProofs>();
        return (await proofs.RenewAsync(account, again, Asking.Of(http), Via)).Try(out _, out wrong)
            ? Results.LocalRedirect(PageEndpoints.IsLocal(next) ? next : "/account")
            : Refused(http, wrong);
    }

    internal static IResult Refused(HttpContext http, Refusal refusal)
    {
        var language = PageEndpoints.LanguageOf(http);
        var words = Phrases.Of(language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                words.SignIn,
                [],
                refusal,
                http.User.AccountId() is null ? words.SignIn : words.YourAccount,
                http.User.AccountId() is null ? "/sign-in" : "/account",
                Language: language
            ),
            PageEndpoints.StatusOf(refusal)
        );
    }

    private static async Task<OpenIdConnectHandler> HandlerAsync(HttpContext http, ProviderRow provider)
    {
        var name = http.RequestServices.GetRequiredService<OutsideOptions>().Ready(provider);
        var handler = ActivatorUtilities.CreateInstance<OpenIdConnectHandler>(http.RequestServices);
        await handler.InitializeAsync(
            new AuthenticationScheme(name, null, typeof(OpenIdConnectHandler)),
            http
        );
        return handler;
    }
}
