using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>Answering an invitation from a program. The secret travels in the body, where no log sees it.</summary>
public static class LinkEndpoints
{
    public static RouteGroupBuilder MapInvitationLinks(this RouteGroupBuilder api)
    {
        var links = api.MapGroup("/invitation-links").LimitedBy(Limits.SigningIn);
        links.MapPost("/read", ReadAsync).WithName("readLink").Produces<LandingView>();
        links.MapPost("/accept", AcceptAsync).WithName("acceptInvitation").Produces<AcceptAnswer>();
        links.MapPost("/decline", DeclineAsync).WithName("declineInvitation").Produces(204);
        links.MapPost("/code", CodeAsync).WithName("sendCode").Produces(204).LimitedBy(Limits.Codes);
        return api;
    }

    private static async Task<IResult> ReadAsync(LinkRequest request, Landing landing) =>
        (await landing.ReadAsync(request.Secret)).ToResult();

    private static async Task<IResult> AcceptAsync(
        AcceptRequest request,
        HttpContext http,
        Answering answering,
        SignInDesk desk
    )
    {
        if (string.IsNullOrEmpty(request.Address))
            return (
                await answering.AcceptAsNewAsync(
                    request.Secret,
                    new Newcomer(request.Name, request.Password, request.ComeAs, request.Code),
                    Visitors.Via(http)
                )
            ).ToResult(Came);
        return (await desk.CheckAsync(request.Address, request.Password, Asking.Of(http))).Try(
            out var shown,
            out var refusal
        )
            ? (
                await answering.AcceptAsHeldAsync(
                    request.Secret,
                    shown.Account,
                    request.Code,
                    Visitors.Via(http)
                )
            ).ToResult(Came)
            : refusal.ToResult();
    }

    private static async Task<IResult> CodeAsync(
        CodeRequest request,
        HttpContext http,
        Answering answering,
        SignInDesk desk
    )
    {
        if (string.IsNullOrEmpty(request.Address))
            return (
                await answering.SendCodeAsync(request.Secret, request.ComeAs, Visitors.Via(http))
            ).ToResult(_ => Results.NoContent());
        return (await desk.CheckAsync(request.Address, request.Password, Asking.Of(http))).Try(
            out var shown,
            out var refusal
        )
            ? (await answering.SendCodeAsync(request.Secret, shown.Account, Visitors.Via(http))).ToResult(_ =>
                Results.NoContent()
            )
            : refusal.ToResult();
    }

    private static async Task<IResult> DeclineAsync(
        DeclineRequest request,
        HttpContext http,
        Declining declining
    ) =>
        (
            await declining.DeclineAsync(
                request.Secret,
                new No(request.NotMe, request.DoNotInviteAgain),
                Visitors.Via(http)
            )
        ).ToResult(_ => Results.NoContent());

    private static IResult Came(Joined joined) => Results.Ok(joined.ToAnswer());
}
