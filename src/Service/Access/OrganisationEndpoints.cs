using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Organisations over HTTP.</summary>
public static class OrganisationEndpoints
{
    public static RouteGroupBuilder MapOrganisations(this RouteGroupBuilder workspace)
    {
        var organisations = workspace
            .MapGroup("/organisations")
            .ForMembers(Duties.Access | Duties.Invite | Duties.People);
        organisations
            .MapGet(
                "",
                (Visitor visitor, string? search, string? kind, Organisations all) =>
                    all.ListAsync(visitor, search, kind)
            )
            .OrCsv("organisations")
            .WithName("listOrganisations")
            .Produces<Page<OrganisationView>>();
        organisations
            .MapShown<Organisations, OrganisationView>(
                "Organisation",
                (all, who, name) => all.ShowAsync(who, name),
                o => o.Version
            )
            .MapNamed<Organisations, OrganisationRequest, OrganisationView>(
                Organisations.Sort,
                "Organisation"
            );
        return workspace;
    }
}
