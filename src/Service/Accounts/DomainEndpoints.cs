using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>Proved mail domains over HTTP.</summary>
public static class DomainEndpoints
{
    public static RouteGroupBuilder MapDomains(this RouteGroupBuilder workspace)
    {
        var domains = workspace.MapGroup("/domains");
        domains
            .MapGet("", (Visitor visitor, Domains all) => all.ListAsync(visitor))
            .ForMembers(Duties.Settings | Duties.Claims | Duties.People)
            .OrCsv("domains")
            .WithName("listDomains")
            .Produces<Page<DomainView>>();
        domains
            .MapPost(
                "",
                async (Visitor visitor, DomainRequest request, Domains all) =>
                    (await all.AddAsync(visitor, request.Domain)).ToResult(view =>
                        Results.Created((string?)null, view)
                    )
            )
            .ForMembers(Duties.Settings)
            .WithName("addDomain")
            .OrTried()
            .Produces<DomainView>(201)
            .LimitedBy(Limits.Codes);
        domains
            .MapPost(
                "/{domain}/check",
                async (Visitor visitor, string domain, Domains all) =>
                    (await all.CheckAsync(visitor, domain)).ToResult()
            )
            .ForMembers(Duties.Settings | Duties.Claims)
            .WithName("checkDomain")
            .Produces<DomainView>()
            .LimitedBy(Limits.SigningIn);
        domains
            .MapDelete(
                "/{domain}",
                async (Visitor visitor, string domain, Domains all) =>
                    (await all.RemoveAsync(visitor, domain)).ToResult()
            )
            .ForMembers(Duties.Settings)
            .WithName("removeDomain")
            .OrTried()
            .Produces<DomainView>();
        return workspace;
    }
}
