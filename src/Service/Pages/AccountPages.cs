using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;

namespace ComeAboard.Service.Pages;

/// <summary>A page with one form about a password.</summary>
/// <param name="Title">Its heading.</param>
/// <param name="Sentences">What it says.</param>
/// <param name="Action">Where the form goes; null for no form.</param>
/// <param name="Asks">Whether it asks for an address, the old password, a new password.</param>
/// <param name="Button">What its button says.</param>
/// <param name="Refusal">Why the last step was not taken.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record PasswordModel(
    string Title,
    IReadOnlyList<string> Sentences,
    string? Action,
    PasswordAsks Asks,
    string Button,
    Refusal? Refusal,
    string Language,
    FormToken Token
);

/// <summary>What a form about a password asks for.</summary>
[Flags]
public enum PasswordAsks
{
    Nothing = 0,
    Address = 1,
    Old = 2,
    New = 4,
}

/// <summary>The pages on which somebody looks after their own way in: a forgotten password, a new one, a proved address.</summary>
public static class AccountPages
{
    private const string Via = "page";
    private const int HistoryShown = 20;

    public static void MapAccountPages(this RouteGroupBuilder pages)
    {
        pages.MapGet("/forgotten", (HttpContext http) => Forgotten(http, false));
        pages.MapPost("/forgotten", ForgetAsync).LimitedBy(Limits.Codes);
        pages.MapGet("/new-password/{secret}", ShowResetAsync);
        pages.MapPost("/new-password/{secret}", ResetAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/prove/{secret}", ShowProofAsync);
        pages.MapPost("/prove/{secret}", ProveAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/account", ShowAsync);
        pages.MapPost("/account/close", CloseAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/close-others", CloseOthersAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/language", SpeakAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost("/account/withdraw", WithdrawAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/confirm", (string? next, HttpContext http) => Confirm(http, next, null));
        pages.MapPost("/confirm", ConfirmAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/password", (HttpContext http) => Change(http, null));
        pages.MapPost("/password", ChangeAsync).LimitedBy(Limits.SigningIn);
    }

    private static Task<IResult> ShowAsync(string? before, HttpContext http) =>
        AccountPageAsync(http, before, (_, _) => Task.FromResult<Refusal?>(null));

    private static Task<IResult> CloseAsync(IFormCollection form, HttpContext http) =>
        AccountPageAsync(
            http,
            null,
            async (account, own) =>
                (
                    await own.CloseAsync(
                        account,
                        Guid.TryParse(form["id"], out var id) ? id : Guid.Empty,
                        Via
                    )
                ).Refusal
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
            async (account, own) =>
                (
                    await own.WithdrawAsync(
                        account,
                        Guid.TryParse(form["id"], out var id) ? id : Guid.Empty,
                        Via
                    )
                ).Refusal
        );

    /// <summary>Takes a step with the account of whoever is signed in, and shows the account as it is then.</summary>
    private static async Task<IResult> AccountPageAsync(
        HttpContext http,
        string? before,
        Func<AccountRow, YourAccount, Task<Refusal?>> step
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/account");
        var own = http.RequestServices.GetRequiredService<YourAccount>();
        var refusal = await step(account, own);
        if (refusal is null && HttpMethods.IsPost(http.Request.Method))
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
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
    }

    private static IResult Forgotten(HttpContext http, bool isSent)
    {
        var words = WordsOf(http);
        return Page(
            http,
            words.Forgotten,
            [isSent ? words.ForgottenSent : words.ForgottenHow],
            isSent ? null : "/forgotten",
            PasswordAsks.Address,
            words.SendLink,
            null
        );
    }

    private static IResult ForgetAsync(IFormCollection form, HttpContext http, Passwords passwords)
    {
        passwords.Forget(form["address"], Via);
        return Forgotten(http, true);
    }

    private static async Task<IResult> ShowResetAsync(string secret, HttpContext http, AccountLinks links) =>
        Reset(
            http,
            secret,
            (await links.FindAsync(secret, AccountLinkPurpose.Password)).Refusal,
            isClosed: true
        );

    private static async Task<IResult> ResetAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Passwords passwords
    )
    {
        if (!(await passwords.ResetAsync(secret, form["password"], Via)).Try(out var shown, out var refusal))
            return Reset(http, secret, refusal, refusal.Field != "password");
        await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof);
        return Results.Redirect("/places");
    }

    private static IResult Reset(HttpContext http, string secret, Refusal? refusal, bool isClosed)
    {
        var words = WordsOf(http);
        return Page(
            http,
            words.NewPassword,
            [words.PasswordRule],
            refusal is not null && isClosed ? null : $"/new-password/{secret}",
            PasswordAsks.New,
            words.KeepPassword,
            refusal
        );
    }

    /// <summary>Opening the link proves nothing yet: mail scanners and previews follow links.</summary>
    private static async Task<IResult> ShowProofAsync(string secret, HttpContext http, AccountLinks links)
    {
        var words = WordsOf(http);
        var found = await links.FindAsync(secret, AccountLinkPurpose.Address);
        return Page(
            http,
            words.ProveTitle,
            found.Try(out var account, out var refusal)
                ? [string.Format(null, words.ProveHow, account.Address)]
                : [],
            refusal is null ? $"/prove/{secret}" : null,
            PasswordAsks.Nothing,
            words.ProveButton,
            refusal
        );
    }

    private static async Task<IResult> ProveAsync(
        string secret,
        IFormCollection form,
        HttpContext http,
        Passwords passwords
    )
    {
        _ = form;
        var words = WordsOf(http);
        var proved = await passwords.ProveAsync(secret, Via);
        return Page(
            http,
            words.ProveTitle,
            proved.Try(out var account, out var refusal)
                ? [string.Format(null, words.Proved, account.Address)]
                : [],
            null,
            PasswordAsks.Nothing,
            "",
            refusal
        );
    }

    private static IResult Change(HttpContext http, Refusal? refusal, bool isDone = false)
    {
        if (http.User.AccountId() is null)
            return Results.Redirect("/sign-in?next=/password");
        var words = WordsOf(http);
        return Page(
            http,
            words.ChangePassword,
            [isDone ? words.PasswordChanged : words.ChangeHow],
            isDone ? null : "/password",
            PasswordAsks.Old | PasswordAsks.New,
            words.KeepPassword,
            refusal
        );
    }

    private static async Task<IResult> ChangeAsync(
        IFormCollection form,
        HttpContext http,
        Passwords passwords
    )
    {
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in?next=/password");
        var changed = await passwords.ChangeAsync(
            account,
            form["old"],
            form["password"],
            Asking.Of(http),
            Via
        );
        return Change(http, changed.Refusal, changed.Succeeded);
    }

    private static IResult Confirm(HttpContext http, string? next, Refusal? refusal)
    {
        if (http.User.AccountId() is null)
            return Results.Redirect("/sign-in");
        var words = WordsOf(http);
        var back = PageEndpoints.IsLocal(next) ? next! : "/account";
        return Page(
            http,
            words.ConfirmTitle,
            [words.ConfirmHow],
            "/confirm?next=" + Uri.EscapeDataString(back),
            PasswordAsks.Old,
            words.Confirm,
            refusal
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
        var renewed = await proofs.RenewAsync(account, form["old"], Asking.Of(http), Via);
        return renewed.Succeeded
            ? Results.LocalRedirect(PageEndpoints.IsLocal(next) ? next! : "/account")
            : Confirm(http, next, renewed.Refusal);
    }

    private static PageWords WordsOf(HttpContext http) => Phrases.Of(PageEndpoints.LanguageOf(http)).Page;

    private static IResult Page(
        HttpContext http,
        string title,
        IReadOnlyList<string> sentences,
        string? action,
        PasswordAsks asks,
        string button,
        Refusal? refusal
    ) =>
        PageEndpoints.Page<PasswordPage>(
            new PasswordModel(
                title,
                sentences,
                action,
                asks,
                button,
                refusal,
                PageEndpoints.LanguageOf(http),
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
}
