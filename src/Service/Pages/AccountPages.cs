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
)
{
    /// <summary>The providers by which it can be shown anew who one is, by id.</summary>
    public IReadOnlyDictionary<Guid, string> Outside { get; init; } = new Dictionary<Guid, string>();

    /// <summary>Where the forms for that go.</summary>
    public string OutsideAction { get; init; } = "";
}

/// <summary>What a form about a password asks for.</summary>
[Flags]
public enum PasswordAsks
{
    Nothing = 0,
    Address = 1,
    Old = 2,
    New = 4,

    /// <summary>A code of the second step, in place of the old password.</summary>
    Code = 8,

    /// <summary>A passkey, in place of the old password.</summary>
    Passkey = 16,
}

/// <summary>The pages on which somebody looks after their own way in: a forgotten password, a new one, a proved address.</summary>
public static class AccountPages
{
    private const string Via = "page";

    public static void MapAccountPages(this RouteGroupBuilder pages)
    {
        pages.MapOwnAccountPages();
        pages.MapJoinAccountPages();
        pages.MapGet("/forgotten", (HttpContext http) => Forgotten(http, false));
        pages.MapPost("/forgotten", ForgetAsync).LimitedBy(Limits.Codes);
        pages.MapGet("/new-password/{secret}", ShowResetAsync);
        pages.MapPost("/new-password/{secret}", ResetAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/prove/{secret}", ShowProofAsync);
        pages.MapPost("/prove/{secret}", ProveAsync).LimitedBy(Limits.SigningIn);
        pages.MapGet("/password", (HttpContext http) => Change(http, null));
        pages.MapPost("/password", ChangeAsync).LimitedBy(Limits.SigningIn);
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
        return SecondStepPages.Onward(
            http,
            await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof),
            "/places"
        );
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

    internal static PageWords WordsOf(HttpContext http) => Phrases.Of(PageEndpoints.LanguageOf(http)).Page;

    internal static IResult Page(
        HttpContext http,
        string title,
        IReadOnlyList<string> sentences,
        string? action,
        PasswordAsks asks,
        string button,
        Refusal? refusal,
        IReadOnlyDictionary<Guid, string>? outside = null
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
            )
            {
                Outside = outside ?? new Dictionary<Guid, string>(),
                OutsideAction = $"/confirm/outside{http.Request.QueryString}",
            },
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
}
