using ComeAboard.Client.SignIn;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Antiforgery;

namespace ComeAboard.Service.SignIn;

/// <summary>Signing in and out, for browsers' scripts and for programs.</summary>
public static class SignInEndpoints
{
    public static RouteGroupBuilder MapSignIn(this RouteGroupBuilder api)
    {
        api.MapPost("/sessions", OpenAsync).WithName("openSession").Produces(204).LimitedBy(Limits.SigningIn);
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
        await SessionSignIn.OpenAsync(http, shown.Account, shown.Proof);
        return Results.NoContent();
    }

    private static async Task<IResult> CloseAsync(HttpContext http)
    {
        await SessionSignIn.CloseAsync(http);
        return Results.NoContent();
    }

    private static async Task<IResult> SignInAsync(
        ProgramSignInRequest request,
        HttpContext http,
        SignInDesk desk,
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
        return (await tokens.SignInAsync(shown.Account, request.Workspace, request.Label)).ToResult(token =>
            Results.Created((string?)null, token)
        );
    }

    private static async Task<IResult> SignOutAsync(HttpContext http, ApiTokens tokens) =>
        http.User.TokenWorkspace() is { } workspace && http.User.TokenId() is { } id
            ? (await tokens.SignOutAsync(workspace, id)).ToResult(_ => Results.NoContent())
            : CommonRefusals.SignInRequired.ToResult();

    private static async Task<IResult> WhoAmIAsync(HttpContext http) =>
        await http.MeAsync() is { } me ? Results.Ok(me) : CommonRefusals.SignInRequired.ToResult();

    private static async Task<IResult> SendProofAsync(HttpContext http, Passwords passwords, WhoIsHere who) =>
        await who.AccountAsync(http.User.AccountId()) is { } account
            ? (await passwords.SendProofAsync(account, Visitors.Via(http))).ToResult(_ => Results.Accepted())
            : CommonRefusals.SignInRequired.ToResult();

    private static AntiforgeryView Antiforgery(HttpContext http, IAntiforgery antiforgery) =>
        new(antiforgery.GetAndStoreTokens(http).RequestToken!);
}
