using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore.Authentication;
using OpenIddict.Abstractions;
using OpenIddict.Server.AspNetCore;
using Claims = OpenIddict.Abstractions.OpenIddictConstants.Claims;

namespace ComeAboard.Service.Pages;

/// <summary>The page on which the code of a device is given, and the device let in.</summary>
/// <param name="Device">The device that waits; null before its code is given.</param>
/// <param name="Since">Since when it waits, in words; empty before.</param>
/// <param name="Account">Whom it would be signed in as.</param>
/// <param name="Code">What was typed.</param>
/// <param name="Refusal">Why that was no code.</param>
/// <param name="Language">The language it speaks.</param>
/// <param name="Token">The form token.</param>
public sealed record DeviceModel(
    WaitingDevice? Device,
    string Since,
    string Account,
    string Code,
    Refusal? Refusal,
    string Language,
    FormToken Token
);

/// <summary>Letting a device in that shows a code (RFC 8628 section 3.3). Looking at it changes nothing, and its code is answered once.</summary>
public static class DevicePages
{
    private const string Scheme = OpenIddictServerAspNetCoreDefaults.AuthenticationScheme;
    private const string Page = "/device";
    private const string Done = "/device/done";
    private const string Refused = "/device/refused";

    public static void MapDevicePages(this RouteGroupBuilder pages)
    {
        pages.MapGet(Page, ShowAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost(Page, Find);
        pages.MapPost("/device/take", TakeAsync).LimitedBy(Limits.SigningIn);
        pages.MapPost(OAuthServer.DeviceAnswer, AnswerAsync);
        pages.MapGet(Done, (Delegate)((HttpContext http) => SayAsync(http, true)));
        pages.MapGet(Refused, (Delegate)((HttpContext http) => SayAsync(http, false)));
    }

    private static async Task<IResult> ShowAsync(
        string? code,
        HttpContext http,
        DeviceSignIn devices,
        YourAccount yours,
        IOpenIddictTokenManager tokens
    )
    {
        var here = Page + (code is null ? "" : QueryString.Create("code", code));
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in" + QueryString.Create("next", here));
        if (code is null)
            return Form(http, account.Name, account.Language, null, "", null);
        if (SecondStepPages.Stale(http, here) is { } stale)
            return stale;
        if (!(await devices.FindAsync(account.Id, code, tokens)).Try(out var device, out var refusal))
            return Form(http, account.Name, account.Language, null, code, refusal);
        var since = Phrases.Of(account.Language).Instant(device.AskedAt, await yours.ZoneAsync(account));
        var who = $"{account.Name} <{account.Address}>";
        return Form(http, who, account.Language, (device, since), device.Code, null);
    }

    private static IResult Find(IFormCollection form) =>
        Results.Redirect(Page + QueryString.Create("code", form["code"].ToString()));

    /// <summary>Takes the answer, once, and hands it to the library by a form that the browser sends on.</summary>
    private static async Task<IResult> TakeAsync(
        IFormCollection form,
        HttpContext http,
        DeviceSignIn devices,
        IOpenIddictTokenManager tokens
    )
    {
        var code = form["user_code"].ToString();
        var here = Page + QueryString.Create("code", code);
        if (await PageEndpoints.AccountAsync(http) is not { } account)
            return Results.Redirect("/sign-in" + QueryString.Create("next", here));
        if (SecondStepPages.Stale(http, here) is { } stale)
            return stale;
        if (!(await devices.FindAsync(account.Id, code, tokens)).Try(out var device, out var refusal))
            return Form(http, account.Name, account.Language, null, code, refusal);
        if (await devices.TakeAnswerAsync(device.Token) is not { } ticket)
            return Form(http, account.Name, account.Language, null, code, DeviceSignIn.Wrong);
        return Results.LocalRedirect(
            OAuthServer.DeviceAnswer + QueryString.Create("ticket", ticket),
            permanent: false,
            preserveMethod: true
        );
    }

    private static async Task<IResult> AnswerAsync(HttpContext http, DeviceSignIn devices)
    {
        var waiting = (await http.AuthenticateAsync(Scheme)).Principal;
        var proof = http.Features.Get<Proof>();
        // A wrong code passes, too, and stands for no program.
        if (
            await PageEndpoints.AccountAsync(http) is not { } account
            || proof is null
            || waiting?.GetClaim(Claims.ClientId) is null
        )
            return Results.Redirect(Page);
        if (http.Request.Form["answer"] != "yes")
            return Results.Forbid(new AuthenticationProperties { RedirectUri = Refused }, [Scheme]);
        var approved = await devices.ApproveAsync(
            account,
            proof,
            SessionSignIn.HashOf(http.User),
            waiting.GetScopes()
        );
        return OAuthEndpoints.GiveOut(approved, Done);
    }

    private static async Task<IResult> SayAsync(HttpContext http, bool isIn)
    {
        var language = (await PageEndpoints.AccountAsync(http))?.Language ?? PageEndpoints.LanguageOf(http);
        var words = ProgramWords.Of(language);
        return PageEndpoints.Page<WordPage>(
            new WordModel(
                "Come Aboard",
                isIn ? words.DeviceIn : words.DeviceRefused,
                [isIn ? words.DeviceInHow : words.DeviceRefusedHow],
                null,
                Phrases.Of(language).Page.YourAccount,
                "/account",
                Language: language
            )
        );
    }

    private static IResult Form(
        HttpContext http,
        string account,
        string language,
        (WaitingDevice Device, string Since)? waiting,
        string code,
        Refusal? refusal
    ) =>
        PageEndpoints.Page<DevicePage>(
            new DeviceModel(
                waiting?.Device,
                waiting?.Since ?? "",
                account,
                code,
                refusal,
                language,
                PageEndpoints.TokenOf(http)
            ),
            refusal is null ? 200 : PageEndpoints.StatusOf(refusal)
        );
}
