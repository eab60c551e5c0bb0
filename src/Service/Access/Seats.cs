using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Who holds a seat: given, taken, passed on.</summary>
public sealed class Seats(Editing editing, Database database)
{
    /// <summary>Who holds a seat of a pool, then for whom one is reserved.</summary>
    public async Task<Outcome<Page<SeatView>>> HoldersAsync(Visitor visitor, string pool)
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        var held = await (
            from seat in rows.Seats
            join member in rows.Members on seat.MemberId equals member.Id
            where seat.PoolId == id
            orderby member.Name
            select new SeatView(member.Id, member.Name, member.Address, false, seat.Since)
        ).ToListAsync();
        var reserved = await (
            from reservation in rows.SeatReservations
            join invitation in rows.Invitations on reservation.InvitationId equals invitation.Id
            where reservation.PoolId == id
            orderby invitation.Address
            select new SeatView(invitation.Id, invitation.Name, invitation.Address, true, null)
        ).ToListAsync();
        return new Page<SeatView>([.. held, .. reserved], null);
    }

    /// <summary>Gives people seats.</summary>
    public Task<Outcome<SeatAnswer>> GiveAsync(
        Visitor visitor,
        string pool,
        PeopleRequest request,
        bool dryRun
    ) =>
        ChangeHoldersAsync(
            visitor,
            pool,
            dryRun,
            async (write, row) =>
            {
                if (!People.ReadSeveral(request).Try(out var people, out var refusal))
                    return refusal;
                var names = new List<string>();
                foreach (var person in people)
                {
                    if (!(await People.HereAsync(write.Rows, person)).Try(out var member, out refusal))
                        return refusal;
                    if (await write.Rows.Seats.FindAsync(write.Workspace.Id, row.Id, member.Id) is not null)
                        return IsHeld(member.Name, row, "Leave them out.", "people");
                    if (Seating.Give(write, row, member.Id, member.Name) is { } full)
                        return full;
                    names.Add(member.Name);
                }
                return names;
            }
        );

    /// <summary>Takes somebody's seat.</summary>
    public Task<Outcome<SeatAnswer>> TakeAsync(Visitor visitor, string pool, string person, bool dryRun) =>
        ChangeHoldersAsync(
            visitor,
            pool,
            dryRun,
            async (write, row) =>
            {
                if (!(await HeldAsync(write, row, person)).Try(out var found, out var refusal))
                    return refusal;
                Seating.Take(write, row, found.Seat, found.Name);
                return new List<string> { found.Name };
            }
        );

    /// <summary>Passes a seat from one to another.</summary>
    public Task<Outcome<SeatAnswer>> PassAsync(
        Visitor visitor,
        string pool,
        PassRequest request,
        bool dryRun
    ) =>
        ChangeHoldersAsync(
            visitor,
            pool,
            dryRun,
            async (write, row) =>
            {
                if (!(await HeldAsync(write, row, request.From)).Try(out var found, out var refusal))
                    return refusal;
                if (!(await People.HereAsync(write.Rows, request.To)).Try(out var to, out refusal))
                    return refusal with { Field = "to" };
                if (await write.Rows.Seats.FindAsync(write.Workspace.Id, row.Id, to.Id) is not null)
                    return IsHeld(to.Name, row, "Take the seat instead of passing it on.", "to");
                if (Seating.Pass(write, row, found.Seat, found.Name, to.Id, to.Name) is { } no)
                    return no;
                return new List<string> { found.Name, to.Name };
            }
        );

    private static Refusal IsHeld(string name, SeatPoolRow pool, string remedy, string field) =>
        new("seat.held", $"{name} holds a seat of {pool.Name} already.", remedy, RefusalSort.Conflict, field);

    private static async Task<Outcome<(SeatRow Seat, string Name)>> HeldAsync(
        WorkspaceWrite write,
        SeatPoolRow pool,
        string person
    )
    {
        if (await People.FindAsync(write.Rows, person) is not { } member)
            return People.NotFound;
        return
            await write.Rows.Seats.FirstOrDefaultAsync(s => s.PoolId == pool.Id && s.MemberId == member.Id)
                is { } seat
            ? (seat, member.Name)
            : new Refusal(
                "seat.not-held",
                $"{member.Name} holds no seat of {pool.Name}.",
                "Look at the list of its holders.",
                RefusalSort.NotFound
            );
    }

    private async Task<Outcome<SeatAnswer>> ChangeHoldersAsync(
        Visitor visitor,
        string pool,
        bool dryRun,
        Func<WorkspaceWrite, SeatPoolRow, Task<Outcome<List<string>>>> change
    )
    {
        if (!visitor.World.FindPool(pool).Try(out var id, out var refusal))
            return refusal;
        var edited = await editing.EditAsync<SeatAnswer>(
            visitor,
            new EditMode(SeatPools.Sort.Duty, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                var before = SeatPools.ViewOf(row, write.Today);
                return (await change(write, row)).Try(out var names, out var no)
                    ? new SeatAnswer(before, SeatPools.ViewOf(row, write.Today), names)
                    : no;
            }
        );
        return edited.Then(done => done.Value);
    }
}
