using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Groups over HTTP.</summary>
public static class GroupEndpoints
{
    public static RouteGroupBuilder MapGroups(this RouteGroupBuilder workspace)
    {
        var groups = workspace.MapGroup("/groups").ForMembers(Duties.Access | Duties.Invite | Duties.People);
        groups
            .MapListed<Groups, GroupView>("Groups", (all, visitor) => all.ListAsync(visitor))
            .MapShown<Groups, GroupView>(
                "Group",
                (all, who, name) => all.ShowAsync(who, name),
                g => g.Version
            )
            .MapNamed<Groups, GroupRequest, GroupView>(Groups.Sort, "Group");
        groups
            .MapGet(
                "/{name}/members",
                async (
                    Visitor visitor,
                    string name,
                    [AsParameters] Paging paging,
                    Groups all,
                    HttpContext http
                ) => (await all.MembersAsync(visitor, name, paging)).ToPage(http)
            )
            .WithName("groupMembers")
            .Produces<Page<PersonView>>();
        groups
            .MapPost(
                "/{name}/members",
                async (
                    Visitor visitor,
                    string name,
                    PeopleRequest request,
                    Groups all,
                    bool dryRun = false
                ) => (await all.PutInAsync(visitor, name, request, dryRun)).ToResult()
            )
            .ForMembers(Groups.Sort.Duty)
            .WithName("addToGroup")
            .Produces<EditAnswer>();
        groups
            .MapDelete(
                "/{name}/members/{person}",
                async (Visitor visitor, string name, string person, Groups all, bool dryRun = false) =>
                    (await all.TakeOutAsync(visitor, name, person, dryRun)).ToResult()
            )
            .ForMembers(Groups.Sort.Duty)
            .WithName("takeFromGroup")
            .Produces<EditAnswer>();
        groups
            .MapPost(
                "/{name}/move-in",
                async (
                    Visitor visitor,
                    string name,
                    MoveInRequest request,
                    MoveIns moves,
                    bool dryRun = false
                ) => (await moves.MoveAsync(visitor, name, request, dryRun)).ToResult()
            )
            .ForMembers(Groups.Sort.Duty)
            .WithName("moveIntoGroup")
            .Produces<MoveInAnswer>();
        groups
            .MapPost(
                "/{name}/move-in/undo",
                async (Visitor visitor, string name, MoveIns moves, bool dryRun = false) =>
                    (await moves.UndoAsync(visitor, name, dryRun)).ToResult()
            )
            .ForMembers(Groups.Sort.Duty)
            .WithName("undoMoveIntoGroup")
            .Produces<MoveInAnswer>();
        return workspace;
    }
}
