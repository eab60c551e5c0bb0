using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>Join links, for those who invite and for those who use one from a program.</summary>
public static class JoinLinkEndpoints
{
    public static RouteGroupBuilder MapJoinLinks(this RouteGroupBuilder workspace)
    {
        var links = workspace.MapGroup("/links").ForMembers(Duties.Invite);
        links
            .MapGet(
                "",
                async (Visitor visitor, [AsParameters] Paging paging, JoinLinks all, HttpContext http) =>
                    (await all.ListAsync(visitor, paging)).ToPage(http)
            )
            .WithName("listLinks")
            .Produces<Page<JoinLinkView>>()
            .OrCsv("links");
        links.MapPost("", AddAsync).WithName("addLink").Produces<NewJoinLink>(201).Produces<NewJoinLink>();
        links.MapGet("/{id:guid}", ShowAsync).WithName("showLink").Produces<JoinLinkView>();
        links.MapPost("/{id:guid}/renew", RenewAsync).WithName("renewLink").Produces<NewJoinLink>();
        links.MapPost("/{id:guid}/close", CloseAsync).WithName("closeLink").Produces<JoinLinkView>();
        links
            .MapPost("/{id:guid}/end", EndAllAsync)
            .ForMembers(Duties.People)
            .WithName("endLinkPeople")
            .Produces<LinkDeparture>();
        return workspace;
    }

    /// <summary>The paths of somebody who holds a link; its secret travels in the body.</summary>
    public static RouteGroupBuilder MapJoining(this RouteGroupBuilder api)
    {
        var links = api.MapGroup("/join-links");
        links
            .MapPost(
                "/read",
                async (LinkRequest request, HeldLinks all) =>
                    (await all.OpenAsync(request.Secret)).Try(out var found, out var refusal)
                        ? Results.Ok(await all.OfferOfAsync(found))
                        : refusal.ToResult()
            )
            .WithName("readJoinLink")
            .Produces<JoinOfferView>()
            .LimitedBy(Limits.SigningIn);
        links
            .MapPost(
                "/ask",
                async (JoinRequest request, HeldLinks all) =>
                    (await all.AskAsync(request.Secret, request.Address, request.Name, "http")).ToResult(_ =>
                        Results.Accepted()
                    )
            )
            .WithName("askByLink")
            .Produces(202)
            .LimitedBy(Limits.Codes);
        return api;
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        JoinLinkRequest request,
        bool? dryRun,
        HttpContext http,
        JoinLinks all
    ) =>
        (await all.AddAsync(visitor, request, dryRun ?? false)).ToResult(made =>
            dryRun == true ? Results.Ok(made) : Results.Created($"{http.Request.Path}/{made.Link.Id}", made)
        );

    private static async Task<IResult> ShowAsync(Visitor visitor, Guid id, JoinLinks all) =>
        await all.FindAsync(visitor, id) is { } view ? Results.Ok(view) : CommonRefusals.NotFound.ToResult();

    private static async Task<IResult> RenewAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        JoinLinks all
    ) => (await all.RenewAsync(visitor, id, http.Request.ExpectedVersion())).ToResult();

    private static async Task<IResult> CloseAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        JoinLinks all
    ) => (await all.CloseAsync(visitor, id, http.Request.ExpectedVersion())).ToResult();

    private static async Task<IResult> EndAllAsync(Visitor visitor, Guid id, bool? dryRun, JoinLinks all) =>
        (await all.EndAllAsync(visitor, id, dryRun ?? false)).ToResult();
}
