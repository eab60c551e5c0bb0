using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Antiforgery;

namespace ComeAboard.Service.SignIn;

/// <summary>Signing in and out, for browsers' scripts and for programs.</summary>
public static class SignInEndpoints
{
    public static RouteGroupBuilder MapSignIn(this RouteGroupBuilder api)
    {
        api.MapPost("/sessions", OpenAsync)
            .WithName("openSession")
            .Produces(204)
            .Produces<SignInAwaits>(202)
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/sessions/codes", MailCode)
            .WithName("mailSignInCode")
            .Produces(202)
            .LimitedBy(Limits.Codes);
        api.MapPost("/sessions/by-code", OpenByCodeAsync)
            .WithName("openSessionByCode")
            .Produces(204)
            .Produces<SignInAwaits>(202)
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/sessions/passkey-options", BeginShowingAsync)
            .WithName("beginPasskeySignIn")
            .Produces<CeremonyView>()
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/sessions/by-passkey", OpenByPasskeyAsync)
            .WithName("openSessionByPasskey")
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/passkeys/options", BeginMakingAsync)
            .WithName("beginPasskey")
            .WithFreshProof()
            .Produces<CeremonyView>()
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/passkeys", AddPasskeyAsync)
            .WithName("addPasskey")
            .WithFreshProof()
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapDelete("/me/passkeys/{id:guid}", RemovePasskeyAsync)
            .WithName("removePasskey")
            .WithFreshProof()
            .Produces(204);
        api.MapDelete("/sessions/current", (Delegate)CloseAsync).WithName("closeSession").Produces(204);
        api.MapPost("/tokens", SignInAsync)
            .WithName("signInProgram")
            .Produces<NewToken>(201)
            .LimitedBy(Limits.SigningIn);
        api.MapDelete("/tokens/current", SignOutAsync).WithName("signOutProgram").Produces(204);
        api.MapGet("/me", (Delegate)WhoAmIAsync).WithName("whoAmI").Produces<MeView>();
        api.MapPost("/me/address-proof", SendProofAsync)
            .WithName("sendAddressProof")
            .Produces(202)
            .LimitedBy(Limits.Codes);
        api.MapGet("/me/account", (Delegate)AccountAsync).WithName("showAccount").Produces<AccountView>();
        api.MapGet("/me/account/history", HistoryAsync)
            .WithName("accountHistory")
            .Produces<Page<AccountEventView>>();
        api.MapGet("/me/account/stored", (Delegate)StoredAsync)
            .WithName("showStored")
            .Produces<StoredAboutYou>();
        api.MapPut("/me/account/language", SpeakAsync).WithName("changeLanguage").Produces(204);
        api.MapDelete("/me/account/sign-ins/{id:guid}", CloseOneAsync).WithName("closeSignIn").Produces(204);
        api.MapPost("/me/account/sign-ins/close-others", (Delegate)CloseOthersAsync)
            .WithName("closeOtherSignIns")
            .Produces<ClosedSignIns>();
        api.MapPost("/me/proof", RenewProofAsync)
            .WithName("renewProof")
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/proof/by-passkey", RenewByPasskeyAsync)
            .WithName("renewProofByPasskey")
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapSecondSteps();
        api.MapOwnAddresses();
        api.MapGet("/antiforgery", Antiforgery).WithName("antiforgery").Produces<AntiforgeryView>();
        return api;
    }

    /// <summary>Who asks, with the workspaces they are let in to; null when nobody is signed in.</summary>
    public static Task<MeView?> MeAsync(this HttpContext http) =>
        http
            .RequestServices.GetRequiredService<WhoIsHere>()
            .FindAsync(http.User.AccountId(), http.User.TokenWorkspace());

    private static async Task<IResult> OpenAsync(SignInRequest request, HttpContext http, SignInDesk desk)
    {
        if (
            !(await desk.CheckAsync(request.Address, request.Password, Asking.Of(http))).Try(
                out var shown,
                out var refusal
            )
        )
            return refusal.ToResult();
        return await OpenedAsync(http, shown);
    }

    private static async Task<IResult> OpenedAsync(HttpContext http, Shown shown) =>
        (await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof)).ToResult(isIn =>
            isIn
                ? Results.NoContent()
                : Results.Json(new SignInAwaits("second-step"), statusCode: StatusCodes.Status202Accepted)
        );

    private static IResult MailCode(SignInCodeRequest request, HttpContext http, CodeDesk desk)
    {
        if (EmailAddress.Read(request.Address).Refusal is { } malformed)
            return malformed.ToResult();
        desk.Mail(request.Address, Visitors.Via(http));
        return Results.Accepted();
    }

    private static async Task<IResult> OpenByCodeAsync(
        SignInByCodeRequest request,
        HttpContext http,
        CodeDesk desk
    )
    {
        if (!(await desk.CheckAsync(request.Address, request.Code)).Try(out var shown, out var refusal))
            return refusal.ToResult();
        return await OpenedAsync(http, shown);
    }

    private static async Task<IResult> BeginShowingAsync(HttpContext http, Passkeys passkeys) =>
        Results.Ok(await passkeys.BeginShowingAsync(PasskeyBrowser.Of(http)));

    private static async Task<IResult> OpenByPasskeyAsync(
        PasskeySignInRequest request,
        HttpContext http,
        Passkeys passkeys
    )
    {
        if (
            !(await passkeys.CheckAsync(request, PasskeyBrowser.Of(http))).Try(out var shown, out var refusal)
        )
            return refusal.ToResult();
        return await OpenedAsync(http, shown);
    }

    private static async Task<IResult> BeginMakingAsync(HttpContext http, Passkeys passkeys) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? Results.Ok(await passkeys.BeginMakingAsync(account, PasskeyBrowser.Of(http)))
            : refusal.ToResult();

    private static async Task<IResult> AddPasskeyAsync(
        PasskeyRequest request,
        HttpContext http,
        Passkeys passkeys
    ) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (
                await passkeys.AddAsync(account, request, PasskeyBrowser.Of(http), Visitors.Via(http))
            ).ToResult(_ => Results.NoContent())
            : refusal.ToResult();

    private static async Task<IResult> RemovePasskeyAsync(Guid id, HttpContext http, Passkeys passkeys) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (await passkeys.RemoveAsync(account, id, Visitors.Via(http))).ToResult(_ => Results.NoContent())
            : refusal.ToResult();

    private static async Task<IResult> CloseAsync(HttpContext http)
    {
        await SessionSignIn.CloseAsync(http);
        return Results.NoContent();
    }

    private static async Task<IResult> SignInAsync(
        ProgramSignInRequest request,
        HttpContext http,
        SignInDesk desk,
        SecondSteps steps,
        ApiTokens tokens
    )
    {
        if (
            !(await desk.CheckAsync(request.Address, request.Password, Asking.Of(http))).Try(
                out var shown,
                out var refusal
            )
        )
            return refusal.ToResult();
        if (await steps.IsDueAsync(shown.Account.Id))
        {
            if (string.IsNullOrWhiteSpace(request.Code))
                return SecondSteps.Due.ToResult();
            var second = await steps.CheckAsync(
                shown.Account,
                request.Code,
                Limits.NetworkOf(http),
                Visitors.Via(http)
            );
            if (!second.Try(out var way, out refusal))
                return refusal.ToResult();
            shown = shown with { Proof = shown.Proof with { Second = way } };
        }
        return (await tokens.SignInAsync(shown, request.Workspace, request.Label)).ToResult(token =>
            Results.Created((string?)null, token)
        );
    }

    private static async Task<IResult> SignOutAsync(HttpContext http, ApiTokens tokens, DeviceSignIn devices)
    {
        if (http.User.TokenWorkspace() is { } workspace && http.User.TokenId() is { } id)
            return (await tokens.SignOutAsync(workspace, id)).ToResult(_ => Results.NoContent());
        return http.Features.Get<ActingProgram>() is { Standing: null } program
            ? (await devices.SignOutAsync(program, Visitors.Via(http))).ToResult(_ => Results.NoContent())
            : CommonRefusals.SignInRequired.ToResult();
    }

    private static async Task<IResult> WhoAmIAsync(HttpContext http) =>
        await http.MeAsync() is { } me ? Results.Ok(me) : CommonRefusals.SignInRequired.ToResult();

    private static async Task<IResult> SendProofAsync(HttpContext http, Passwords passwords, WhoIsHere who) =>
        http.Features.Get<ActingProgram>() is not { Bound: not null }
        && await who.AccountAsync(http.User.AccountId()) is { } account
            ? (await passwords.SendProofAsync(account, Visitors.Via(http))).ToResult(_ => Results.Accepted())
            : CommonRefusals.SignInRequired.ToResult();

    /// <summary>
    /// The account of whoever is signed in in a browser. A token counts in one workspace, and an account is more than that:
    /// <c>token.one-workspace</c>; and what a program was let in for does not include it: <c>account.in-browser</c>.
    /// </summary>
    internal static async Task<Outcome<AccountRow>> HolderAsync(HttpContext http)
    {
        if (http.User.TokenId() is not null)
            return new Refusal(
                "token.one-workspace",
                "An API token counts in one workspace, and this is about the whole account.",
                "Sign in in a browser and open your account there.",
                RefusalSort.NotAllowed
            );
        if (http.User.IsProgram())
            return new Refusal(
                "account.in-browser",
                "A program cannot look after your account.",
                "Sign in in a browser and open your account there.",
                RefusalSort.NotAllowed
            );
        return
            await http.RequestServices.GetRequiredService<WhoIsHere>().AccountAsync(http.User.AccountId())
                is { } account
            ? account
            : CommonRefusals.SignInRequired;
    }

    private static async Task<IResult> AccountAsync(HttpContext http) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? Results.Ok(await AccountOf(http).ShowAsync(account, SessionSignIn.HashOf(http.User)))
            : refusal.ToResult();

    private static async Task<IResult> HistoryAsync(HttpContext http, [AsParameters] Paging paging) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (await AccountOf(http).HistoryAsync(account, paging)).ToResult()
            : refusal.ToResult();

    private static async Task<IResult> StoredAsync(HttpContext http)
    {
        if (!(await HolderAsync(http)).Try(out var account, out var refusal))
            return refusal.ToResult();
        http.Response.Headers.ContentDisposition = "attachment; filename=\"stored-about-you.json\"";
        return Results.Ok(
            await http
                .RequestServices.GetRequiredService<StoredAbout>()
                .WriteAsync(account, SessionSignIn.HashOf(http.User))
        );
    }

    private static async Task<IResult> SpeakAsync(LanguageRequest request, HttpContext http) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (await AccountOf(http).SpeakAsync(account, request.Language, Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : refusal.ToResult();

    private static async Task<IResult> CloseOneAsync(Guid id, HttpContext http) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (await AccountOf(http).CloseAsync(account, id, Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : refusal.ToResult();

    private static async Task<IResult> CloseOthersAsync(HttpContext http) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (
                await AccountOf(http)
                    .CloseOthersAsync(account, SessionSignIn.HashOf(http.User), Visitors.Via(http))
            ).ToResult(closed => Results.Ok(new ClosedSignIns(closed)))
            : refusal.ToResult();

    private static async Task<IResult> RenewProofAsync(
        ProofRequest request,
        HttpContext http,
        FreshProofs proofs
    ) =>
        (await HolderAsync(http)).Try(out var account, out var refusal)
            ? (await proofs.RenewAsync(account, request, Asking.Of(http), Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : refusal.ToResult();

    private static async Task<IResult> RenewByPasskeyAsync(
        PasskeySignInRequest request,
        HttpContext http,
        Passkeys passkeys,
        FreshProofs proofs
    )
    {
        if (!(await HolderAsync(http)).Try(out var account, out var refusal))
            return refusal.ToResult();
        var shown = await passkeys.CheckAsync(request, PasskeyBrowser.Of(http));
        return shown.Try(out var one, out refusal)
            ? (await proofs.RenewAsync(account, one, Asking.Of(http), Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : (refusal with { Sort = RefusalSort.Invalid }).ToResult();
    }

    private static YourAccount AccountOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<YourAccount>();

    private static AntiforgeryView Antiforgery(HttpContext http, IAntiforgery antiforgery) =>
        new(antiforgery.GetAndStoreTokens(http).RequestToken!);
}
