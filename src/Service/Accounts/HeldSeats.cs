using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// Seats of members whose accounts the workspace holds, where its rules say that they take one. Whoever is no member holds
/// no seat.
/// </summary>
public static class HeldSeats
{
    /// <summary>Gives a seat to each member of an account that comes into custody; refuses with <c>claim.no-seat</c>.</summary>
    public static async Task<Refusal?> GiveAsync(WorkspaceWrite write, Guid account)
    {
        if (await PoolAsync(write.Rows, write.Workspace) is not { } pool)
            return null;
        foreach (
            var member in await write
                .Rows.Members.Where(m => m.AccountId == account && m.EndedAt == null)
                .Select(m => new { m.Id, m.Name })
                .ToListAsync()
        )
        {
            if (await write.Rows.Seats.AnyAsync(s => s.PoolId == pool.Id && s.MemberId == member.Id))
                continue;
            if (Seating.Give(write, pool, member.Id, member.Name, forCustody: true) is not null)
                return Claim.NoSeat;
        }
        return null;
    }

    /// <summary>Frees what an account held because it was in custody.</summary>
    public static async Task TakeBackAsync(WorkspaceWrite write, Guid account)
    {
        var held = await (
            from seat in write.Rows.Seats
            join member in write.Rows.Members on seat.MemberId equals member.Id
            where member.AccountId == account && seat.ForCustody
            select new { seat, member.Name }
        ).ToListAsync();
        foreach (var one in held)
            Seating.Take(write, await Seating.PoolAsync(write, one.seat.PoolId), one.seat, one.Name);
    }

    /// <summary>Of some accounts those for which there is no seat: none is free, and they have none.</summary>
    public static async Task<IReadOnlySet<Guid>> WithoutAsync(
        ComeAboardContext rows,
        Guid workspace,
        IReadOnlyCollection<Guid> accounts,
        DateTimeOffset now
    )
    {
        var row = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == workspace);
        if (
            await PoolAsync(rows, row) is not { } pool
            || pool.AccountOn(Days.Of(now, row.Zone)).Give().Succeeded
        )
            return new HashSet<Guid>();
        return (
            await rows
                .Members.Where(m =>
                    m.WorkspaceId == workspace
                    && accounts.Contains(m.AccountId)
                    && m.EndedAt == null
                    && !rows.Seats.Any(s =>
                        s.WorkspaceId == workspace && s.PoolId == pool.Id && s.MemberId == m.Id
                    )
                )
                .Select(m => m.AccountId)
                .ToListAsync()
        ).ToHashSet();
    }

    /// <summary>What custody of an account takes of the seats, in a sentence; null where none are counted, or its holder is no member.</summary>
    public static async Task<string?> SentenceAsync(
        ComeAboardContext rows,
        WorkspaceRow workspace,
        Guid account,
        DateTimeOffset now
    )
    {
        if (await PoolAsync(rows, workspace) is not { } pool)
            return null;
        var members = await rows
            .Members.Where(m => m.AccountId == account && m.EndedAt == null)
            .Select(m => m.Id)
            .ToListAsync();
        if (members.Count == 0)
            return null;
        return await rows.Seats.AnyAsync(s => s.PoolId == pool.Id && members.Contains(s.MemberId))
            ? $"Its holder has a seat of {pool.Name} already."
            : $"It takes a seat of {pool.Name}, of which {pool.AccountOn(Days.Of(now, workspace.Zone)).Free} are free.";
    }

    private static async Task<SeatPoolRow?> PoolAsync(ComeAboardContext rows, WorkspaceRow workspace) =>
        WorkspaceRules.Of(workspace).HeldSeats is { } id
            ? await rows.SeatPools.FirstOrDefaultAsync(p => p.WorkspaceId == workspace.Id && p.Id == id)
            : null;
}
