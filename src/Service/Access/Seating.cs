using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Seats given, taken, reserved and passed on, within a change of the workspace.</summary>
public static class Seating
{
    /// <summary>A pool, tracked; changes of one transaction see what those before them did.</summary>
    public static Task<SeatPoolRow> PoolAsync(WorkspaceWrite write, Guid pool) =>
        write.Rows.SeatPools.FirstAsync(p => p.Id == pool);

    /// <summary>Reserves the seats a pending invitation carries; refuses where none is free.</summary>
    public static async Task<Refusal?> ReserveAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        foreach (var id in invitation.Bundle.Pools)
        {
            if (await write.Rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id) is not { } pool)
                return Gone;
            if (!pool.AccountOn(write.Today).Reserve(out var isChange).Try(out var account, out var refusal))
                return refusal with { Sentence = $"{pool.Name}: {refusal.Sentence}" };
            Put(pool, account);
            write.Rows.SeatReservations.Add(
                new SeatReservationRow
                {
                    WorkspaceId = write.Workspace.Id,
                    InvitationId = invitation.Id,
                    PoolId = id,
                    IsChange = isChange,
                }
            );
        }
        return null;
    }

    /// <summary>Lets the reservations of an invitation lapse that is pending no more.</summary>
    public static async Task LapseAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (invitation.Bundle.Pools.Count == 0)
            return;
        foreach (
            var reservation in await write
                .Rows.SeatReservations.Where(r => r.InvitationId == invitation.Id)
                .ToListAsync()
        )
        {
            if (write.Rows.Entry(reservation).State == EntityState.Deleted)
                continue;
            var pool = await PoolAsync(write, reservation.PoolId);
            Put(pool, pool.AccountOn(write.Today).Lapse(reservation.IsChange));
            write.Rows.SeatReservations.Remove(reservation);
        }
    }

    /// <summary>Gives a new member the seats their invitation had reserved.</summary>
    public static async Task SettleAsync(WorkspaceWrite write, InvitationRow invitation, Guid member)
    {
        foreach (
            var reservation in await write
                .Rows.SeatReservations.Where(r => r.InvitationId == invitation.Id)
                .ToListAsync()
        )
        {
            var pool = await PoolAsync(write, reservation.PoolId);
            Put(pool, pool.AccountOn(write.Today).Settle(reservation.IsChange));
            write.Rows.SeatReservations.Remove(reservation);
            AddSeat(write, pool.Id, member);
            write.Record("seat.given", member, ("pool", pool.Name), ("name", invitation.Name));
        }
    }

    /// <summary>Gives a member a seat.</summary>
    /// <param name="write">The change.</param>
    /// <param name="pool">Of which pool.</param>
    /// <param name="member">Whom.</param>
    /// <param name="name">Their name.</param>
    /// <param name="forCustody">Whether they hold it as long as the workspace holds their account.</param>
    public static Refusal? Give(
        WorkspaceWrite write,
        SeatPoolRow pool,
        Guid member,
        string name,
        bool forCustody = false
    )
    {
        if (!pool.AccountOn(write.Today).Give().Try(out var account, out var refusal))
            return refusal;
        Put(pool, account);
        AddSeat(write, pool.Id, member, forCustody);
        write.Record("seat.given", member, ("pool", pool.Name), ("name", name));
        return null;
    }

    /// <summary>Gives a member a seat back that was taken from them, as if it had not been.</summary>
    public static Refusal? GiveBack(
        WorkspaceWrite write,
        SeatPoolRow pool,
        Guid member,
        string name,
        DateTimeOffset since,
        bool forCustody
    )
    {
        if (!pool.AccountOn(write.Today).GiveBack().Try(out var account, out var refusal))
            return refusal;
        Put(pool, account);
        AddSeat(write, pool.Id, member, forCustody, since);
        write.Record("seat.given", member, ("pool", pool.Name), ("name", name));
        return null;
    }

    /// <summary>Takes every seat of a member; the names of the pools.</summary>
    public static async Task<IReadOnlyList<string>> TakeAllAsync(
        WorkspaceWrite write,
        Guid member,
        string name
    )
    {
        var taken = new List<string>();
        foreach (var seat in await write.Rows.Seats.Where(s => s.MemberId == member).ToListAsync())
        {
            var pool = await PoolAsync(write, seat.PoolId);
            Take(write, pool, seat, name);
            taken.Add(pool.Name);
        }
        return taken;
    }

    /// <summary>Takes one seat.</summary>
    public static void Take(WorkspaceWrite write, SeatPoolRow pool, SeatRow seat, string name)
    {
        Put(pool, pool.AccountOn(write.Today).Take());
        write.Rows.Seats.Remove(seat);
        write.Record("seat.taken", seat.MemberId, ("pool", pool.Name), ("name", name));
    }

    /// <summary>Passes a seat from one member to another.</summary>
    public static Refusal? Pass(
        WorkspaceWrite write,
        SeatPoolRow pool,
        SeatRow seat,
        string from,
        Guid to,
        string name
    )
    {
        if (!pool.AccountOn(write.Today).Pass().Try(out var account, out var refusal))
            return refusal;
        Put(pool, account);
        write.Rows.Seats.Remove(seat);
        AddSeat(write, pool.Id, to);
        write.Record("seat.passed", to, ("pool", pool.Name), ("before", from), ("after", name));
        return null;
    }

    private static void AddSeat(
        WorkspaceWrite write,
        Guid pool,
        Guid member,
        bool forCustody = false,
        DateTimeOffset? since = null
    ) =>
        write.Rows.Seats.Add(
            new SeatRow
            {
                WorkspaceId = write.Workspace.Id,
                PoolId = pool,
                MemberId = member,
                Since = since ?? write.Now,
                ForCustody = forCustody,
            }
        );

    private static void Put(SeatPoolRow pool, SeatAccount account)
    {
        pool.Account = account;
        pool.Version++;
    }

    private static Refusal Gone { get; } =
        new(
            "pool.gone",
            "A seat pool the invitation wants a seat of is not there any more.",
            "Leave it out, and invite again.",
            RefusalSort.Conflict,
            "seats"
        );
}
