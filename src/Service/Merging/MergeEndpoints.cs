using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Merging;

/// <summary>Merging accounts, over HTTP.</summary>
public static class MergeEndpoints
{
    public static RouteGroupBuilder MapMerges(this RouteGroupBuilder workspace)
    {
        var merges = workspace.MapGroup("/merges").ForMembers(Duties.Claims);
        merges
            .MapGet(
                "",
                async (Visitor visitor, [AsParameters] Paging paging, HttpContext http, Merges all) =>
                    (await all.ListAsync(visitor, paging)).ToPage(http)
            )
            .WithName("listMerges")
            .OrCsv("merges")
            .Produces<Page<MergeView>>();
        merges
            .MapPost(
                "",
                async (Visitor visitor, MergeRequest request, Merges all) =>
                    (await all.MergeAsync(visitor, request)).ToResult()
            )
            .WithName("merge")
            .OrTried()
            .WithFreshProof()
            .Produces<MergeView>();
        merges
            .MapPost(
                "/undo",
                async (Visitor visitor, UnmergeRequest request, Partings all) =>
                    (await all.UndoAsync(visitor, request)).ToResult()
            )
            .WithName("unmerge")
            .OrTried()
            .WithFreshProof()
            .Produces<MergeView>();
        return workspace;
    }
}
