using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Authentication;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which somebody looks after their own account, and the one on which they show anew who they are.</summary>
public static class OwnAccountPages
{
    private const string Via = "page";
    private const int HistoryShown = 20;

    public static void MapOwnAccountPages(this RouteGroupBuilder pages)
    {
        pages.MapGet("/account", ShowAsync);
        pages.MapPost("/account/close", CloseAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/close-others", CloseOthersAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/language", SpeakAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/withdraw", WithdrawAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/addresses/code", SendCodeAsync).LimitedBy(Limits.Codes);
        pages.MapPost("/account/addresses/add", AddAddressAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/addresses/main", MakeMainAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/addresses/remove", RemoveAddressAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/addresses/notices", SendNoticesAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/addresses/notices-main", SendNoticesToMainAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/proposals/accept", AcceptAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/proposals/aside", SetAsideAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/split/code", SendSplitCodeAsync).LimitedBy(Limits.Codes);
        pages.MapPost("/account/split/undo", UndoSplitAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/confirm", (string? next, HttpContext http) => ShowConfirmAsync(http, next, null));
        pages.MapPost("/confirm", ConfirmAsync).LimitedBy(Limits.SigningIn);
    }

    private static Task<IResult> ShowAsync(string? before, HttpContext http) =>
        AccountPageAsync(http, before, (_, _) => Task.FromResult<Refusal?>(null));

    private static Task<IResult> CloseAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, own) => (await own.CloseAsync(account, IdOf(form), Via)).Refusal
        );

    private static Task<IResult> CloseOthersAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        return AccountPageAsync(
            http,
            null,
            async (account, own) =>
                (await own.CloseOthersAsync(account, SessionSignIn.HashOf(http.User), Via)).Refusal
        );
    }

    private static Task<IResult> SpeakAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, own) => (await own.SpeakAsync(account, form["language"], Via)).Refusal
        );

    private static Task<IResult> WithdrawAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, own) => (await own.WithdrawAsync(account, IdOf(form), Via)).Refusal
        );

    private static Task<IResult> SendCodeAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, _) =>
                (await AddressesOf(http).SendCodeAsync(account, form["address"], Via)).Refusal,
            codeFor: form["address"]
        );

    private static Task<IResult> AddAddressAsync(IFormCollection form, HttpContext http) =>
        FreshAsync(
            http,
            async account =>
                (await AddressesOf(http).AddAsync(account, form["address"], form["code"], Via)).Refusal
        );

    private static Task<IResult> MakeMainAsync(IFormCollection form, HttpContext http) =>
        FreshAsync(
            http,
            async account => (await AddressesOf(http).MakeMainAsync(account, form["address"], Via)).Refusal
        );

    private static Task<IResult> SendNoticesAsync(IFormCollection form, HttpContext http) =>
        FreshAsync(
            http,
            async account =>
                (await AddressesOf(http).SendNoticesToAsync(account, form["address"], Via)).Refusal
        );

    private static Task<IResult> SendNoticesToMainAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        return FreshAsync(
            http,
            async account => (await AddressesOf(http).SendNoticesToAsync(account, null, Via)).Refusal
        );
    }

    private static Task<IResult> RemoveAddressAsync(IFormCollection form, HttpContext http) =>
        FreshAsync(
            http,
            async account => (await AddressesOf(http).RemoveAsync(account, form["address"], Via)).Refusal
        );

    private static Task<IResult> AcceptAsync(IFormCollection form, HttpContext http) =>
        FreshAsync(
            http,
            async account => (await ProposalsOf(http).AcceptAsync(account, IdOf(form), Via)).Refusal
        );

    private static Task<IResult> SetAsideAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, _) => (await ProposalsOf(http).SetAsideAsync(account, IdOf(form), Via)).Refusal
        );

    private static Task<IResult> SendSplitCodeAsync(IFormCollection form, HttpContext http)
    {
        _ = form;
        return SecondStepPages.Stale(http, "/account") is { } stale
            ? Task.FromResult(stale)
            : AccountPageAsync(
                http,
                null,
                async (account, _) => (await SplitsOf(http).SendCodeAsync(account, Via)).Refusal,
                hasSplitCode: true
            );
    }

    private static async Task<IResult> UndoSplitAsync(IFormCollection form, HttpContext http)
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        if (SecondStepPages.Stale(http, "/account") is { } stale)
            return stale;
        var undone = await SplitsOf(http).UndoAsync(account, http.Features.Get<Proof>()!, form["code"], Via);
        if (!undone.Try(out var stays, out var refusal))
            return await AccountPageAsync(
                http,
                null,
                (_, _) => Task.FromResult<Refusal?>(refusal),
                hasSplitCode: refusal.Field == "code"
            );
        await http.SignOutAsync(SessionSignIn.Scheme);
        var words = Phrases.Of(account.Language).Page;
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                words.SplitTitle,
                [string.Format(null, words.SplitDone, stays)],
                null,
                words.SignIn,
                "/sign-in",
                Language: account.Language
            )
        );
    }

    private static Splits SplitsOf(HttpContext http) => http.RequestServices.GetRequiredService<Splits>();

    private static YourProposals ProposalsOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<YourProposals>();

    private static Guid IdOf(IFormCollection form) => Guid.TryParse(form["id"], out var id) ? id : Guid.Empty;

    /// <summary>Takes a step that asks for a fresh proof.</summary>
    private static Task<IResult> FreshAsync(HttpContext http, Func<AccountRow, Task<Refusal?>> step) =>
        SecondStepPages.Stale(http, "/account") is { } stale
            ? Task.FromResult(stale)
            : AccountPageAsync(http, null, (account, _) => step(account));

    private static YourAddresses AddressesOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<YourAddresses>();

    /// <summary>Takes a step with the account of whoever is signed in, and shows the account as it is then.</summary>
    private static async Task<IResult> AccountPageAsync(
        HttpContext http,
        string? before,
        Func<AccountRow, YourAccount, Task<Refusal?>> step,
        string? codeFor = null,
        bool hasSplitCode = false
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        var own = http.RequestServices.GetRequiredService<YourAccount>();
        var refusal = await step(account, own);
        if (refusal is null && codeFor is null && !hasSplitCode && HttpMethods.IsPost(http.Request.Method))
            return Results.Redirect("/account");
        if (
            !(await own.HistoryAsync(account, new Paging(before, HistoryShown))).Try(
                out var history,
                out var unreadable
            )
        )
            return PageEndpoints.Refused(http, unreadable);
        http.AllowOwnScript();
        return PageEndpoints.Page<AccountPage>(
            new AccountModel(
                await own.ShowAsync(account, SessionSignIn.HashOf(http.User)),
                history,
                await own.ZoneAsync(account),
                refusal,
                account.Language,
                PageEndpoints.TokenOf(http)
            )
            {
                CodeFor = refusal is null ? codeFor : null,
                Joined = await http
                    .RequestServices.GetRequiredService<Merging.YourMerges>()
                    .JoinedAsync(account.Id),
                Split = await SplitsOf(http).FindAsync(account.Id),
                HasSplitCode = hasSplitCode && refusal?.Field is null or "code",
                Outside = await OutsideOfAsync(http, account, isTied: false),
            },
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }

    /// <summary>The providers whose word counts for an account: those it is tied to, or the others.</summary>
    private static async Task<IReadOnlyDictionary<Guid, string>> OutsideOfAsync(
        HttpContext http,
        AccountRow account,
        bool isTied
    )
    {
        var services = http.RequestServices;
        var tied = await services.GetRequiredService<OutsideSignIn>().TiedToAsync(account.Id);
        return (await services.GetRequiredService<OutsideProviders>().OfAccountAsync(account.Id))
            .Where(provider => tied.Contains(provider.Id) == isTied)
            .ToDictionary(provider => provider.Id, provider => provider.Name);
    }

    private static async Task<IResult> ShowConfirmAsync(HttpContext http, string? next, Refusal? refusal)
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in");
        var ways = (
            await http
                .RequestServices.GetRequiredService<YourAccount>()
                .ShowAsync(account, SessionSignIn.HashOf(http.User))
        ).WaysIn;
        var outside = await OutsideOfAsync(http, account, isTied: true);
        // Whoever has no password is not asked for one, where there is another way.
        var asks =
            outside.Count > 0 && ways.All(way => way.Kind != "password")
                ? PasswordAsks.Nothing
                : PasswordAsks.Old;
        if (ways.Any(way => way.Kind == "timecode"))
            asks |= PasswordAsks.Code;
        if (ways.Any(way => way.Kind == "passkey"))
            asks |= PasswordAsks.Passkey;
        http.AllowOwnScript();
        var words = AccountPages.WordsOf(http);
        var back = PageEndpoints.IsLocal(next) ? next! : "/account";
        return AccountPages.Page(
            http,
            words.ConfirmTitle,
            [words.ConfirmHow],
            asks == PasswordAsks.Nothing ? null : "/confirm?next=" + Uri.EscapeDataString(back),
            asks,
            words.Confirm,
            refusal,
            outside
        );
    }

    private static async Task<IResult> ConfirmAsync(
        string? next,
        IFormCollection form,
        HttpContext http,
        FreshProofs proofs
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in");
        var request = new ProofRequest(form["old"], form["code"]);
        var renewed = await proofs.RenewAsync(account, request, Asking.Of(http), Via);
        return renewed.Succeeded
            ? Results.LocalRedirect(PageEndpoints.IsLocal(next) ? next! : "/account")
            : await ShowConfirmAsync(http, next, renewed.Refusal);
    }
}
