using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;

namespace ComeAboard.Service.Workspaces;

/// <summary>The workspace itself over HTTP: what it is, its rules and looks, what waits in it, and its API tokens.</summary>
public static class WorkspaceEndpoints
{
    public static RouteGroupBuilder MapWorkspace(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGet("", (Visitor visitor, Overview overview) => overview.ShowWorkspace(visitor))
            .WithName("showWorkspace")
            .Produces<WorkspaceView>();
        workspace
            .MapGet("/overview", (Visitor visitor, Overview overview) => overview.ShowAsync(visitor))
            .ForMembers(Duties.All)
            .WithName("overview")
            .Produces<OverviewView>();
        workspace
            .MapPost(
                "/readiness",
                async (Visitor visitor, ReadinessRequest request, ReadinessCheck check) =>
                    (await check.CheckAsync(visitor, request)).ToResult()
            )
            .WithName("checkReadiness")
            .Produces<ReadinessView>();
        return workspace;
    }

    /// <summary>The rules of the house, and how it looks.</summary>
    public static RouteGroupBuilder MapRules(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGet("/rules", ShowRules)
            .ForMembers(Duties.Invite)
            .WithName("showRules")
            .Produces<RulesView>();
        workspace
            .MapPut("/rules", ChangeRulesAsync)
            .ForMembers(Duties.Settings)
            .WithName("changeRules")
            .OrTried()
            .Produces<RulesView>();
        workspace
            .MapPut("/appearance", ChangeAppearanceAsync)
            .ForMembers(Duties.Settings)
            .WithName("changeAppearance")
            .OrTried()
            .Produces<AppearanceView>();
        return workspace;
    }

    /// <summary>What programs sign in with.</summary>
    public static RouteGroupBuilder MapTokens(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGet("/tokens", (Visitor visitor, ApiTokens tokens) => tokens.ListAsync(visitor))
            .WithName("listTokens")
            .OrCsv("tokens")
            .Produces<Page<TokenView>>();
        workspace
            .MapPost("/tokens", AddTokenAsync)
            .ForMembers(Duties.Settings)
            .WithName("addToken")
            .WithFreshProof()
            .OrTried()
            .Produces<NewToken>()
            .Produces<NewToken>(201);
        workspace
            .MapDelete("/tokens/{id:guid}", RevokeTokenAsync)
            .WithName("revokeToken")
            .OrTried()
            .Produces(204);
        return workspace;
    }

    private static IResult ShowRules(Visitor visitor, HttpContext http)
    {
        var rules = WorkspaceRules.ViewOf(visitor.Workspace, visitor.World);
        return http.Versioned(rules, rules.Version);
    }

    private static async Task<IResult> ChangeRulesAsync(
        Visitor visitor,
        RulesView request,
        HouseSettings settings,
        HttpContext http
    ) =>
        (await settings.ChangeRulesAsync(visitor, request, http.Request.ExpectedVersion())).ToResult(rules =>
            http.Versioned(rules, rules.Version)
        );

    private static async Task<IResult> ChangeAppearanceAsync(
        Visitor visitor,
        AppearanceView request,
        HouseSettings settings,
        HttpContext http
    ) => (await settings.ChangeAppearanceAsync(visitor, request, http.Request.ExpectedVersion())).ToResult();

    private static async Task<IResult> AddTokenAsync(
        Visitor visitor,
        TokenRequest request,
        ApiTokens tokens
    ) =>
        (
            await tokens.AddAsync(
                visitor.WorkspaceId,
                visitor.Workspace.ShortName,
                visitor.Member,
                request.Label,
                request.Days,
                visitor.Caller
            )
        ).ToResult(token =>
            visitor.Caller.Rehearses
                ? Results.Ok(token with { Token = "" })
                : Results.Created((string?)null, token)
        );

    private static async Task<IResult> RevokeTokenAsync(Visitor visitor, Guid id, ApiTokens tokens) =>
        (
            await tokens.RevokeAsync(
                visitor.WorkspaceId,
                id,
                visitor.Caller,
                visitor.Duties.HasFlag(Duties.Settings) ? null : visitor.Member.Id
            )
        ).ToResult(_ => Results.NoContent());
}
