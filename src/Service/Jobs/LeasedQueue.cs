using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Jobs;

/// <summary>
/// Which piece of some work is done next, and by whom: leased by the database's clock, taken by turns, put off when it fails.
/// </summary>
/// <param name="database">Where.</param>
/// <param name="gate">The turn of those who write.</param>
/// <param name="clock">The clock of this process; a lease is measured by the database's.</param>
/// <param name="table">The name of the table.</param>
/// <param name="works">The states in which there is something to do, as they are stored.</param>
public abstract class LeasedQueue<TRow>(
    Database database,
    WriteGate gate,
    TimeProvider clock,
    string table,
    IReadOnlyList<string> works
)
    where TRow : class, ILeasedRow
{
    // What fails so often, over about an hour, fails for a reason that waiting does not mend.
    private const int MostTries = 8;
    private static readonly TimeSpan FirstWait = TimeSpan.FromSeconds(2);

    private readonly string _working = string.Join(", ", works.Select(state => $"'{state}'"));

    /// <summary>What else must be so for a piece to be taken up, as SQL; <c>{1}</c> is now, by the clock of this process.</summary>
    protected virtual string IsReady => "";

    /// <summary>Those in whose state there is something to do.</summary>
    protected abstract IQueryable<TRow> Working(IQueryable<TRow> rows);

    /// <summary>Leases the piece whose turn it is; null when none waits.</summary>
    public async Task<TRow?> LeaseAsync(Lease lease, CancellationToken stop)
    {
        await using var rows = database.Open();
        if (!await Working(rows.Set<TRow>().IgnoreQueryFilters()).AnyAsync(stop))
            return null;
        using var pass = await gate.EnterAsync();
        var now = clock.Now();
        var leased = await rows.Set<TRow>()
            .FromSqlRaw(
                LeaseSql,
                lease.Id,
                database.Engine == Engine.Postgres ? now : (object)now.ToUnixTimeMilliseconds()
            )
            .IgnoreQueryFilters()
            .AsNoTracking()
            .ToListAsync(stop);
        if (leased is not [var due])
            return null;
        await rows.Set<TRow>()
            .IgnoreQueryFilters()
            .Where(b => b.WorkspaceId == due.WorkspaceId && b.Id == due.Id && b.Lease == lease.Id)
            .ExecuteUpdateAsync(
                set =>
                    set.SetProperty(b => b.StartedAt, now).SetProperty(b => b.DoneAtStart, b => b.Position),
                stop
            );
        return due;
    }

    // The workspace whose work was taken up longest ago goes first: one piece each, by turns.
    private string LeaseSql =>
        database.Engine == Engine.Postgres
            ? $$"""
                UPDATE {{table}} SET lease = {0}, leased_until = {{Until(
                    Lease.Length
                )}} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM {{table}} WHERE state IN ({{_working}})
                   AND (leased_until IS NULL OR leased_until < {{Now}}) {{IsReady}} ORDER BY started_at NULLS FIRST, id LIMIT 1 FOR UPDATE SKIP LOCKED) RETURNING *
                """
            : $$"""
                UPDATE {{table}} SET lease = {0}, leased_until = {{Until(
                    Lease.Length
                )}} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM {{table}} WHERE state IN ({{_working}})
                   AND (leased_until IS NULL OR leased_until < {{Now}}) {{IsReady}} ORDER BY started_at NULLS FIRST, id LIMIT 1) RETURNING *
                """;

    private string Now =>
        database.Engine == Engine.Postgres
            ? "clock_timestamp()"
            : "CAST(unixepoch('subsec') * 1000 AS INTEGER)";

    private string Until(TimeSpan wait) =>
        database.Engine == Engine.Postgres
            ? $"{Now} + interval '{(long)wait.TotalMilliseconds} milliseconds'"
            : $"{Now} + {(long)wait.TotalMilliseconds}";

    private string Sql(string set) => $"UPDATE {table} SET {set} WHERE id = {{0}} AND lease = {{1}}";

    /// <summary>Renews a lease; false when it is another's.</summary>
    public async Task<bool> RenewAsync(Lease lease, TRow row, CancellationToken stop)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows.Database.ExecuteSqlRawAsync(
                Sql($"leased_until = {Until(Lease.Length)}"),
                [row.Id, lease.Id],
                stop
            ) > 0;
    }

    /// <summary>Gives back what is not worked on any further here: others may have it at once.</summary>
    public async Task LetGoAsync(Lease lease, TRow row)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows.Set<TRow>()
            .IgnoreQueryFilters()
            .Where(b => b.Id == row.Id && b.Lease == lease.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(b => b.LeasedUntil, (DateTimeOffset?)null));
    }

    /// <summary>
    /// Puts off what could not be worked on: the next try waits, longer each time. True while there is one; the last is for
    /// whoever asks to stop it.
    /// </summary>
    public async Task<bool> PutOffAsync(Lease lease, TRow row)
    {
        var wait = RetryTimes.Wait(row.Tries + 1, FirstWait, Random.Shared.NextDouble());
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows.Database.ExecuteSqlRawAsync(
            Sql($"tries = tries + 1, leased_until = {Until(wait)}"),
            row.Id,
            lease.Id
        );
        return row.Tries + 1 < MostTries;
    }
}
