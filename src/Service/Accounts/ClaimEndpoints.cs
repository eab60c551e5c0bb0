using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>Claims over HTTP: for the workspace, and for the holder of the account.</summary>
public static class ClaimEndpoints
{
    public static RouteGroupBuilder MapClaims(this RouteGroupBuilder workspace)
    {
        var claims = workspace.MapGroup("/claims").ForMembers(Duties.Claims);
        claims
            .MapGet(
                "",
                async (
                    Visitor visitor,
                    string? state,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    Claims all
                ) => (await all.ListAsync(visitor, state, paging)).ToPage(http)
            )
            .WithName("listClaims")
            .OrCsv("claims")
            .Produces<Page<ClaimView>>();
        claims
            .MapGet(
                "/{address}",
                async (Visitor visitor, string address, Claims all) =>
                    (await all.ShowAsync(visitor, address)).ToResult()
            )
            .WithName("showClaim")
            .Produces<ClaimView>();
        claims
            .MapPost(
                "/steps",
                async (Visitor visitor, ClaimStepRequest request, Claims all) =>
                    (await all.StepAsync(visitor, request)).ToResult()
            )
            .WithName("stepClaims")
            .OrTried()
            .Produces<ClaimStepAnswer>();
        return workspace;
    }

    public static RouteGroupBuilder MapHeldAccounts(this RouteGroupBuilder workspace)
    {
        workspace
            .MapPost(
                "/accounts",
                async (Visitor visitor, HeldAccountRequest request, HeldAccounts all) =>
                    (await all.AddAsync(visitor.WorkspaceId, visitor.Caller, request)).ToResult(view =>
                        Results.Created((string?)null, view)
                    )
            )
            .ForMembers(Duties.Claims)
            .WithName("addAccount")
            .OrTried()
            .Produces<HeldAccountView>(201);
        workspace
            .MapPost(
                "/accounts/correct",
                async (Visitor visitor, AccountCorrection request, Corrections all) =>
                    (await all.CorrectAsync(visitor, request)).ToResult()
            )
            .ForMembers(Duties.Claims)
            .WithName("correctAccount")
            .OrTried()
            .Produces<AccountCorrected>();
        workspace
            .MapPost(
                "/accounts/propose",
                async (Visitor visitor, AccountCorrection request, Corrections all) =>
                    (await all.ProposeAsync(visitor, request)).ToResult()
            )
            .ForMembers(Duties.Claims)
            .WithName("proposeCorrection")
            .OrTried()
            .Produces<AccountCorrected>();
        workspace
            .MapPost(
                "/accounts/readdress",
                async (Visitor visitor, ReaddressRequest request, Readdresses all) =>
                    (await all.ReaddressAsync(visitor, request)).ToResult()
            )
            .ForMembers(Duties.Claims)
            .WithName("readdress")
            .OrTried()
            .Produces<ReaddressAnswer>();
        workspace
            .MapPost(
                "/accounts/steps",
                async (Visitor visitor, HeldStepRequest request, HeldSteps all) =>
                    (await all.TakeAsync(visitor, request)).ToResult()
            )
            .ForMembers(Duties.Claims)
            .WithName("stepAccount")
            .OrTried()
            .Produces<HeldStepAnswer>();
        workspace
            .MapPost(
                "/people/{person}/reset",
                async (Visitor visitor, string person, ResetRequest request, Resets all) =>
                    (await all.ResetAsync(visitor, person, request)).ToResult()
            )
            .ForMembers(Duties.People)
            .WithName("resetWaysIn")
            .OrTried()
            .Produces<ResetAnswer>();
        return workspace;
    }

    public static RouteGroupBuilder MapClaimLinks(this RouteGroupBuilder api)
    {
        var links = api.MapGroup("/claim-links/{secret}");
        links
            .MapGet(
                "",
                async (string secret, ClaimAnswers answers) =>
                    (await answers.FindAsync(secret)).ToResult(found => Results.Ok(answers.Show(found)))
            )
            .WithName("readClaim")
            .Produces<ClaimOfferView>()
            .LimitedBy(Limits.SigningIn);
        links
            .MapPost("/code", SendCodeAsync)
            .WithName("sendClaimCode")
            .Produces<ClaimOfferView>()
            .LimitedBy(Limits.Codes);
        links
            .MapPost("/answer", AnswerAsync)
            .WithName("answerClaim")
            .Produces<ClaimOfferView>()
            .LimitedBy(Limits.SigningIn);
        return api;
    }

    private static async Task<IResult> SendCodeAsync(
        string secret,
        ClaimCodeRequest request,
        HttpContext http,
        ClaimAnswers answers
    ) =>
        (await answers.FindAsync(secret)).Try(out var found, out var refusal)
            ? (await answers.SendCodeAsync(found, request.Address, Visitors.Via(http))).ToResult()
            : refusal.ToResult();

    private static async Task<IResult> AnswerAsync(
        string secret,
        ClaimAnswerRequest request,
        HttpContext http,
        ClaimAnswers answers
    )
    {
        if (!(await answers.FindAsync(secret)).Try(out var found, out var refusal))
            return refusal.ToResult();
        var via = Visitors.Via(http);
        // Whoever is signed in with the account in this browser has shown it; everybody else shows it here.
        var answered =
            http.Features.Get<Proof>() is { } proof && http.User.AccountId() == found.Account.Id
                ? await answers.AnswerAsync(found, request, proof, via)
                : await answers.AnswerAsync(found, request, Asking.Of(http), via);
        return answered.ToResult();
    }
}
