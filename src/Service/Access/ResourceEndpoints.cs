using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Resources over HTTP.</summary>
public static class ResourceEndpoints
{
    public static RouteGroupBuilder MapResources(this RouteGroupBuilder workspace)
    {
        var resources = workspace.MapGroup("/resources");
        resources
            .MapGet(
                "",
                async (Visitor visitor, string? area, string? search, string? owner, Resources all) =>
                    (await all.ListAsync(visitor, area, search, owner)).ToResult()
            )
            .OrCsv("resources")
            .WithName("listResources")
            .Produces<Page<ResourceView>>();
        resources
            .MapShown<Resources, ResourceView>(
                "Resource",
                (all, who, name) => all.ShowAsync(who, name),
                r => r.Version
            )
            .MapNamed<Resources, ResourceRequest, ResourceView>(Resources.Sort, "Resource");
        resources
            .MapPost(
                "/handover",
                async (Visitor visitor, HandoverRequest request, Handover handover, bool dryRun = false) =>
                    (await handover.HandOverAsync(visitor, request, dryRun)).ToResult()
            )
            .WithName("handOverResources")
            .Produces<HandoverAnswer>();
        return workspace;
    }

    /// <summary>Who has access to one resource, and who is switched off for it.</summary>
    public static RouteGroupBuilder MapResourceAccess(this RouteGroupBuilder workspace)
    {
        var resource = workspace.MapGroup("/resources/{name}");
        resource
            .MapGet("/access", ListAccessAsync)
            .WithName("resourceAccess")
            .Produces<AccessPage>()
            .SaidAsCsv();
        resource
            .MapPost(
                "/off",
                async (
                    Visitor visitor,
                    string name,
                    SwitchRequest request,
                    Switching switching,
                    bool dryRun = false
                ) => (await switching.OffAsync(visitor, name, request, dryRun)).ToResult()
            )
            .WithName("switchOff")
            .Produces<EditAnswer>();
        resource
            .MapDelete(
                "/off/{holder:guid}",
                async (Visitor visitor, string name, Guid holder, Switching switching, bool dryRun = false) =>
                    (await switching.OnAsync(visitor, name, holder, dryRun)).ToResult()
            )
            .WithName("switchOn")
            .Produces<EditAnswer>();
        return workspace;
    }

    private static async Task<IResult> ListAccessAsync(
        Visitor visitor,
        string name,
        string? search,
        string? kind,
        string? level,
        [AsParameters] Paging paging,
        HttpContext http,
        AccessLists lists
    )
    {
        var query = new AccessQuery(search, kind, level);
        return http.AsksForCsv()
            ? lists.Table(visitor, name, query).ToResult(table => Lists.Csv(table, "access"))
            : (await lists.PageAsync(visitor, name, query, paging)).ToResult();
    }
}
