using ComeAboard.Core.Invitations;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Mail that waits, in queues by urgency and workspace. Whatever is more urgent goes first; among equals the workspaces
/// are served by turns, so that one workspace's heap delays another by no more than a lot.
/// </summary>
public sealed class MailQueues(Database database, WriteGate gate, TimeProvider clock)
{
    private int _turn;

    /// <summary>Leases mails that are due, at most so many.</summary>
    public async Task<IReadOnlyList<DeliveryRow>> LeaseAsync(Lease lease, int most, CancellationToken stop)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        // A look costs less than a write, and most looks find nothing.
        var waiting = rows.Deliveries.IgnoreQueryFilters().Where(d => d.SettledAt == null && d.DueAt <= now);
        if (!await waiting.AnyAsync(stop))
            return [];
        var lanes = await rows.Database.SqlQueryRaw<string>(Lanes).ToListAsync(stop);
        var leased = new List<DeliveryRow>();
        foreach (var alike in lanes.GroupBy(lane => lane[0]).OrderBy(group => group.Key))
        {
            // By turns: each begins with the next one.
            var inTurn = alike.ToList();
            var first = (Interlocked.Increment(ref _turn) & int.MaxValue) % inTurn.Count;
            for (var i = 0; i < inTurn.Count && leased.Count < most; i++)
            {
                var share = Math.Max(1, (most - leased.Count) / (inTurn.Count - i));
                var lane = inTurn[(first + i) % inTurn.Count];
                using var pass = await gate.EnterAsync();
                // What was leased comes back with the leasing: looking for it would mean walking all that waits.
                leased.AddRange(
                    await rows
                        .Deliveries.FromSql(LeaseSql(lane, lease.Id, now, share))
                        .IgnoreQueryFilters()
                        .AsNoTracking()
                        .ToListAsync(stop)
                );
            }
        }
        return leased;
    }

    /// <summary>Lengthens a lease; false when none of its mails is ours any more.</summary>
    public async Task<bool> RenewAsync(Guid lease, CancellationToken stop)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        return await rows.Database.ExecuteSqlAsync(
                database.Engine == Engine.Postgres
                    ? (FormattableString)
                        $"UPDATE deliveries SET leased_until = clock_timestamp() + {Lease.Length} WHERE settled_at IS NULL AND lease = {lease}"
                    : $"UPDATE deliveries SET leased_until = CAST(unixepoch('subsec') * 1000 AS INTEGER) + {(long)Lease.Length.TotalMilliseconds} WHERE settled_at IS NULL AND lease = {lease}",
                stop
            ) > 0;
    }

    /// <summary>Gives mails back that are to be tried later.</summary>
    /// <param name="lease">Under which they were leased; what another has leased since stays that one's.</param>
    /// <param name="mails">Which of them; null for all that are not settled.</param>
    /// <param name="due">When they are due again.</param>
    /// <param name="why">The reason, which counts as a try; null for none of theirs.</param>
    public async Task PutBackAsync(
        Guid lease,
        IReadOnlyList<DeliveryRow>? mails,
        DateTimeOffset due,
        string? why
    )
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        var those = rows.Deliveries.IgnoreQueryFilters().Where(d => d.SettledAt == null && d.Lease == lease);
        if (mails is not null)
        {
            var ids = mails.Select(d => d.Id).ToList();
            those = those.Where(d => ids.Contains(d.Id));
        }
        await those.ExecuteUpdateAsync(set =>
            set.SetProperty(d => d.DueAt, due)
                .SetProperty(d => d.Tries, d => why == null ? d.Tries : d.Tries + 1)
                .SetProperty(d => d.Answer, d => why ?? d.Answer)
                .SetProperty(d => d.Lease, (Guid?)null)
                .SetProperty(d => d.LeasedUntil, (DateTimeOffset?)null)
        );
    }

    // Each step looks up the next queue in the index, however many mails wait in one.
    private const string Lanes = """
        WITH RECURSIVE lanes(lane) AS (
          SELECT min(lane) FROM deliveries WHERE settled_at IS NULL
          UNION ALL
          SELECT (SELECT min(d.lane) FROM deliveries d WHERE d.settled_at IS NULL AND d.lane > lanes.lane)
          FROM lanes WHERE lanes.lane IS NOT NULL
        )
        SELECT lane AS "Value" FROM lanes WHERE lane IS NOT NULL
        """;

    // Leases begin and end by the database's clock, which all processes share.
    private FormattableString LeaseSql(string lane, Guid lease, DateTimeOffset now, int most) =>
        database.Engine == Engine.Postgres
            ? (FormattableString)
                $"""
                    UPDATE deliveries SET lease = {lease}, leased_until = clock_timestamp() + {Lease.Length} WHERE (workspace_id, id) IN
                      (SELECT workspace_id, id FROM deliveries WHERE settled_at IS NULL AND lane = {lane} AND due_at <= {now}
                       AND (leased_until IS NULL OR leased_until < clock_timestamp()) ORDER BY due_at LIMIT {most} FOR UPDATE SKIP LOCKED) RETURNING *
                    """
            : $"""
                UPDATE deliveries SET lease = {lease}, leased_until = CAST(unixepoch('subsec') * 1000 AS INTEGER) + {(long)
                    Lease.Length.TotalMilliseconds} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM deliveries WHERE settled_at IS NULL AND lane = {lane} AND due_at <= {now.ToUnixTimeMilliseconds()}
                   AND (leased_until IS NULL OR leased_until < CAST(unixepoch('subsec') * 1000 AS INTEGER)) ORDER BY due_at LIMIT {most}) RETURNING *
                """;
}
