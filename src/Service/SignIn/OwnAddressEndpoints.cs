using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.SignIn;

/// <summary>One's own addresses over HTTP.</summary>
public static class OwnAddressEndpoints
{
    public static RouteGroupBuilder MapOwnAddresses(this RouteGroupBuilder api)
    {
        api.MapPost(
                "/me/addresses",
                (OwnAddressRequest request, HttpContext http) =>
                    DoAsync(
                        http,
                        (all, account, via) => all.SendCodeAsync(account, request.Address, via),
                        Results.Accepted()
                    )
            )
            .WithName("sendAddressCode")
            .Produces(202)
            .LimitedBy(Limits.Codes);
        api.MapPost(
                "/me/addresses/proof",
                (OwnAddressProof request, HttpContext http) =>
                    DoAsync(
                        http,
                        (all, account, via) => all.AddAsync(account, request.Address, request.Code, via)
                    )
            )
            .WithName("addAddress")
            .WithFreshProof()
            .Produces(204)
            .LimitedBy(Limits.SigningIn);
        api.MapPost(
                "/me/addresses/main",
                (OwnAddressRequest request, HttpContext http) =>
                    DoAsync(http, (all, account, via) => all.MakeMainAsync(account, request.Address, via))
            )
            .WithName("makeAddressMain")
            .WithFreshProof()
            .Produces(204);
        api.MapPost(
                "/me/addresses/notices",
                (NoticesRequest request, HttpContext http) =>
                    DoAsync(
                        http,
                        (all, account, via) => all.SendNoticesToAsync(account, request.Address, via)
                    )
            )
            .WithName("sendNoticesTo")
            .WithFreshProof()
            .Produces(204);
        api.MapDelete(
                "/me/addresses/{address}",
                (string address, HttpContext http) =>
                    DoAsync(http, (all, account, via) => all.RemoveAsync(account, address, via))
            )
            .WithName("removeAddress")
            .WithFreshProof()
            .Produces(204);
        return api;
    }

    private static async Task<IResult> DoAsync(
        HttpContext http,
        Func<YourAddresses, AccountRow, string, Task<Outcome<bool>>> step,
        IResult? done = null
    )
    {
        if (!(await SignInEndpoints.HolderAsync(http)).Try(out var account, out var refusal))
            return refusal.ToResult();
        var all = http.RequestServices.GetRequiredService<YourAddresses>();
        return (await step(all, account, Visitors.Via(http))).ToResult(_ => done ?? Results.NoContent());
    }
}
