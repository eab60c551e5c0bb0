using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>Who is here twice, over HTTP.</summary>
public static class DuplicateEndpoints
{
    public static RouteGroupBuilder MapDuplicates(this RouteGroupBuilder workspace)
    {
        var duplicates = workspace.MapGroup("/duplicates").ForMembers(Duties.Claims);
        duplicates
            .MapGet(
                "",
                async (
                    Visitor visitor,
                    string? least,
                    string? said,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    Duplicates all
                ) => (await all.ListAsync(visitor, least, said, paging)).ToPage(http)
            )
            .WithName("listDuplicates")
            .OrCsv("duplicates")
            .Produces<Page<DuplicateView>>();
        duplicates
            .MapPost(
                "/distinct",
                async (Visitor visitor, DistinctRequest request, Duplicates all) =>
                    (await all.DistinguishAsync(visitor, request)).ToResult()
            )
            .WithName("distinguish")
            .OrTried()
            .Produces<DuplicateView>();
        return workspace;
    }
}
