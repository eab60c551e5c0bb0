using ComeAboard.Client.SignIn;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.SignIn;

/// <summary>The second step: taking it while signing in, and looking after one's own.</summary>
public static class SecondStepEndpoints
{
    public static RouteGroupBuilder MapSecondSteps(this RouteGroupBuilder api)
    {
        api.MapPost("/sessions/second-step", StepAsync)
            .WithName("takeSecondStep")
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/second-step/options", (Delegate)BeginAsync)
            .WithName("beginSecondStep")
            .WithFreshProof()
            .Produces<SecondStepOffer>()
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/second-step", KeepAsync)
            .WithName("addSecondStep")
            .WithFreshProof()
            .Produces<RecoveryCodes>()
            .LimitedBy(Limits.SigningIn);
        api.MapPost("/me/second-step/recovery-codes", (Delegate)RenewCodesAsync)
            .WithName("renewRecoveryCodes")
            .WithFreshProof()
            .Produces<RecoveryCodes>()
            .LimitedBy(Limits.SigningIn);
        api.MapDelete("/me/second-step", (Delegate)RemoveAsync)
            .WithName("removeSecondStep")
            .WithFreshProof()
            .Produces(204);
        return api;
    }

    private static async Task<IResult> StepAsync(SecondStepSignInRequest request, HttpContext http) =>
        (await SessionSignIn.StepAsync(http, request.Code)).ToResult(_ => Results.NoContent());

    private static async Task<IResult> BeginAsync(HttpContext http) =>
        (await SignInEndpoints.HolderAsync(http)).ToResult(account =>
            Results.Ok(StepsOf(http).Begin(account))
        );

    private static async Task<IResult> KeepAsync(SecondStepRequest request, HttpContext http) =>
        (await SignInEndpoints.HolderAsync(http)).Try(out var account, out var refusal)
            ? (
                await StepsOf(http).KeepAsync(account, request, Asking.Of(http), Visitors.Via(http))
            ).ToResult()
            : refusal.ToResult();

    private static async Task<IResult> RenewCodesAsync(HttpContext http) =>
        (await SignInEndpoints.HolderAsync(http)).Try(out var account, out var refusal)
            ? (await StepsOf(http).RenewCodesAsync(account, Visitors.Via(http))).ToResult()
            : refusal.ToResult();

    private static async Task<IResult> RemoveAsync(HttpContext http) =>
        (await SignInEndpoints.HolderAsync(http)).Try(out var account, out var refusal)
            ? (await StepsOf(http).RemoveAsync(account, Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : refusal.ToResult();

    private static SecondSteps StepsOf(HttpContext http) =>
        http.RequestServices.GetRequiredService<SecondSteps>();
}
