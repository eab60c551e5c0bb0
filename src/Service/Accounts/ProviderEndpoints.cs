using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>Providers (OpenID Connect) over HTTP.</summary>
public static class ProviderEndpoints
{
    public static RouteGroupBuilder MapProviders(this RouteGroupBuilder workspace)
    {
        var providers = workspace.MapGroup("/providers").ForMembers(Duties.Settings);
        providers
            .MapGet("", (Visitor visitor, Providers all) => all.ListAsync(visitor))
            .OrCsv("providers")
            .WithName("listProviders")
            .Produces<Page<ProviderView>>();
        providers
            .MapPost(
                "",
                async (Visitor visitor, ProviderRequest request, Providers all) =>
                    (await all.AddAsync(visitor, request)).ToResult(view =>
                        Results.Created((string?)null, view)
                    )
            )
            .WithName("addProvider")
            .WithFreshProof()
            .OrTried()
            .Produces<ProviderView>(201)
            .LimitedBy(Limits.Codes);
        providers
            .MapPut(
                "/{provider}",
                async (Visitor visitor, string provider, ProviderRequest request, Providers all) =>
                    (await all.ChangeAsync(visitor, provider, request)).ToResult()
            )
            .WithName("changeProvider")
            .WithFreshProof()
            .OrTried()
            .Produces<ProviderView>();
        providers
            .MapDelete(
                "/{provider}",
                async (Visitor visitor, string provider, Providers all) =>
                    (await all.RemoveAsync(visitor, provider)).ToResult()
            )
            .WithName("removeProvider")
            .WithFreshProof()
            .OrTried()
            .Produces<ProviderView>();
        return workspace;
    }
}
