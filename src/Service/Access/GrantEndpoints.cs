using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Grants over HTTP.</summary>
public static class GrantEndpoints
{
    public static RouteGroupBuilder MapGrants(this RouteGroupBuilder workspace)
    {
        var grants = workspace.MapGroup("/grants");
        grants
            .MapGet(
                "",
                (Visitor visitor, string? role, string? resource, GrantEdits edits) =>
                    edits.ListAsync(visitor, role, resource)
            )
            .OrCsv("grants")
            .ForMembers(Duties.Access)
            .WithName("listGrants")
            .Produces<Page<GrantView>>();
        grants
            .MapPost("", GiveAsync)
            .WithName("giveGrant")
            .Produces<GrantAnswer>(201)
            .Produces<GrantAnswer>();
        grants.MapPut("/{id:guid}", ChangeAsync).WithName("changeGrant").Produces<GrantAnswer>();
        grants.MapDelete("/{id:guid}", TakeAsync).WithName("takeGrant").Produces<GrantAnswer>();
        return workspace;
    }

    private static async Task<IResult> GiveAsync(
        Visitor visitor,
        GrantRequest request,
        HttpContext http,
        GrantEdits edits,
        bool dryRun = false
    ) =>
        (await edits.GiveAsync(visitor, request, dryRun)).ToResult(given =>
            dryRun ? Results.Ok(given) : Results.Created($"{http.Request.Path}/{given.Grant.Id}", given)
        );

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        Guid id,
        GrantChangeRequest request,
        HttpContext http,
        GrantEdits edits,
        bool dryRun = false
    ) => (await edits.ChangeAsync(visitor, id, request, http.Wanted(dryRun, request.Tell))).ToResult();

    private static async Task<IResult> TakeAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        GrantEdits edits,
        bool dryRun = false,
        bool tell = false
    ) => (await edits.TakeAsync(visitor, id, http.Wanted(dryRun, tell))).ToResult();
}
