using ComeAboard.Core;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Which list is worked on next, and by whom: leased by the database's clock, taken by turns, put off when it fails.</summary>
public sealed class BatchQueue(Database database, WriteGate gate, TimeProvider clock)
{
    // What fails so often, over about an hour, fails for a reason that waiting does not mend.
    private const int MostTries = 8;
    private static readonly TimeSpan FirstWait = TimeSpan.FromSeconds(2);

    /// <summary>Leases the list whose turn it is; null when none waits.</summary>
    public async Task<BatchRow?> LeaseAsync(Lease lease, CancellationToken stop)
    {
        await using var rows = database.Open();
        var free = rows
            .Batches.IgnoreQueryFilters()
            .Where(b => b.State == BatchState.Reading || b.State == BatchState.Sending);
        if (!await free.AnyAsync(stop))
            return null;
        using var pass = await gate.EnterAsync();
        var now = clock.Now();
        var leased = await rows
            .Batches.FromSql(LeaseSql(lease.Id))
            .IgnoreQueryFilters()
            .AsNoTracking()
            .ToListAsync(stop);
        if (leased is not [var due])
            return null;
        await rows
            .Batches.IgnoreQueryFilters()
            .Where(b => b.WorkspaceId == due.WorkspaceId && b.Id == due.Id && b.Lease == lease.Id)
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(b => b.StartedAt, now).SetProperty(b => b.DoneAtStart, b => b.Position),
                stop
            );
        return due;
    }

    // The workspace whose list was worked on longest ago goes first: one lot each, by turns.
    private FormattableString LeaseSql(Guid lease) =>
        database.Engine == Engine.Postgres
            ? (FormattableString)
                $"""
                    UPDATE batches SET lease = {lease}, leased_until = clock_timestamp() + {Lease.Length} WHERE (workspace_id, id) IN
                      (SELECT workspace_id, id FROM batches WHERE state IN ('reading', 'sending')
                       AND (leased_until IS NULL OR leased_until < clock_timestamp()) ORDER BY started_at NULLS FIRST, id LIMIT 1 FOR UPDATE SKIP LOCKED) RETURNING *
                    """
            : $"""
                UPDATE batches SET lease = {lease}, leased_until = CAST(unixepoch('subsec') * 1000 AS INTEGER) + {(long)
                    Lease.Length.TotalMilliseconds} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM batches WHERE state IN ('reading', 'sending')
                   AND (leased_until IS NULL OR leased_until < CAST(unixepoch('subsec') * 1000 AS INTEGER)) ORDER BY started_at NULLS FIRST, id LIMIT 1) RETURNING *
                """;

    /// <summary>Renews a lease; false when it is another's.</summary>
    public async Task<bool> RenewAsync(Lease lease, BatchRow batch, CancellationToken stop)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows.Database.ExecuteSqlAsync(
                database.Engine == Engine.Postgres
                    ? (FormattableString)
                        $"UPDATE batches SET leased_until = clock_timestamp() + {Lease.Length} WHERE id = {batch.Id} AND lease = {lease.Id}"
                    : $"UPDATE batches SET leased_until = CAST(unixepoch('subsec') * 1000 AS INTEGER) + {(long)Lease.Length.TotalMilliseconds} WHERE id = {batch.Id} AND lease = {lease.Id}",
                stop
            ) > 0;
    }

    /// <summary>Gives back a list that is not worked on any further here: others may have it at once.</summary>
    public async Task LetGoAsync(Lease lease, BatchRow batch)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Batches.IgnoreQueryFilters()
            .Where(b => b.Id == batch.Id && b.Lease == lease.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(b => b.LeasedUntil, (DateTimeOffset?)null));
    }

    /// <summary>
    /// Puts off a list that could not be worked on: the next try waits, longer each time. True while there is one; the last
    /// is for whoever asks to stop it.
    /// </summary>
    public async Task<bool> PutOffAsync(Lease lease, BatchRow batch)
    {
        var wait = RetryTimes.Wait(batch.Tries + 1, FirstWait, Random.Shared.NextDouble());
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows.Database.ExecuteSqlAsync(
            database.Engine == Engine.Postgres
                ? (FormattableString)
                    $"UPDATE batches SET tries = tries + 1, leased_until = clock_timestamp() + {wait} WHERE id = {batch.Id} AND lease = {lease.Id}"
                : $"UPDATE batches SET tries = tries + 1, leased_until = CAST(unixepoch('subsec') * 1000 AS INTEGER) + {(long)wait.TotalMilliseconds} WHERE id = {batch.Id} AND lease = {lease.Id}"
        );
        return batch.Tries + 1 < MostTries;
    }
}
