using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Access;

/// <summary>Seat pools, and who holds a seat, over HTTP.</summary>
public static class SeatEndpoints
{
    public static RouteGroupBuilder MapSeats(this RouteGroupBuilder workspace)
    {
        var seats = workspace.MapGroup("/seats").ForMembers(Duties.Seats | Duties.Invite | Duties.People);
        seats
            .MapListed<SeatPools, PoolView>("Pools", (all, visitor) => all.ListAsync(visitor))
            .MapShown<SeatPools, PoolView>(
                "Pool",
                (all, who, name) => all.ShowAsync(who, name),
                p => p.Version
            )
            .MapNamed<SeatPools, PoolRequest, PoolView>(SeatPools.Sort, "Pool");
        seats
            .MapGet(
                "/{name}/holders",
                async (Visitor visitor, string name, Seats all) =>
                    (await all.HoldersAsync(visitor, name)).ToResult()
            )
            .OrCsv("holders")
            .WithName("seatHolders")
            .Produces<Page<SeatView>>();
        seats
            .MapPost(
                "/{name}/holders",
                async (Visitor visitor, string name, PeopleRequest request, Seats all, bool dryRun = false) =>
                    (await all.GiveAsync(visitor, name, request, dryRun)).ToResult()
            )
            .ForMembers(Duties.Seats)
            .WithName("giveSeats")
            .Produces<SeatAnswer>();
        seats
            .MapDelete(
                "/{name}/holders/{person}",
                async (Visitor visitor, string name, string person, Seats all, bool dryRun = false) =>
                    (await all.TakeAsync(visitor, name, person, dryRun)).ToResult()
            )
            .ForMembers(Duties.Seats)
            .WithName("takeSeat")
            .Produces<SeatAnswer>();
        seats
            .MapPost(
                "/{name}/pass",
                async (Visitor visitor, string name, PassRequest request, Seats all, bool dryRun = false) =>
                    (await all.PassAsync(visitor, name, request, dryRun)).ToResult()
            )
            .ForMembers(Duties.Seats)
            .WithName("passSeat")
            .Produces<SeatAnswer>();
        return workspace;
    }
}
