using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Mvc;

namespace ComeAboard.Service.Access;

/// <summary>Roles and areas over HTTP.</summary>
public static class RoleEndpoints
{
    private const Duties Readers = Duties.Access | Duties.Invite | Duties.People;

    public static RouteGroupBuilder MapRoles(this RouteGroupBuilder workspace)
    {
        var roles = workspace.MapGroup("/roles").ForMembers(Readers);
        roles
            .MapGet(
                "/compare",
                async (Visitor visitor, Roles all, [FromQuery] string[]? role = null) =>
                    (await all.CompareAsync(visitor, role)).ToResult()
            )
            .WithName("compareRoles")
            .Produces<MatrixView>();
        roles
            .MapListed<Roles, RoleDetail>("Roles", (all, visitor) => all.ListAsync(visitor))
            .MapShown<Roles, RoleDetail>("Role", (all, who, name) => all.ShowAsync(who, name), r => r.Version)
            .MapNamed<Roles, RoleRequest, RoleChange>(Roles.Sort, "Role");
        return workspace;
    }

    public static RouteGroupBuilder MapAreas(this RouteGroupBuilder workspace)
    {
        workspace
            .MapGroup("/areas")
            .ForMembers(Readers)
            .MapListed<Areas, AreaView>("Areas", (all, visitor) => all.ListAsync(visitor))
            .MapNamed<Areas, AreaRequest, AreaView>(Areas.Sort, "Area");
        return workspace;
    }
}
