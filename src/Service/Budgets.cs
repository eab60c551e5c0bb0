using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service;

/// <summary>
/// How often something may be done in a window of time, counted by one statement in the database: the same for all
/// processes, and for however many who come at once. What is counted is kept as a hash.
/// </summary>
public sealed class Budgets(Database database, WriteGate gate, TimeProvider clock)
{
    private const int MostKept = 10_000;

    private readonly ConcurrentDictionary<string, Allowance> _taken = new(StringComparer.Ordinal);

    /// <summary>What this process has taken of a budget and not used yet.</summary>
    private sealed class Allowance
    {
        private int _left;
        private long _endsAt;

        public bool Spend(long now)
        {
            lock (this)
                return now < _endsAt && _left-- > 0;
        }

        public void Add(int more, long endsAt)
        {
            lock (this)
                (_left, _endsAt) = (endsAt == _endsAt ? Math.Max(0, _left) + more : more, endsAt);
        }
    }

    /// <summary>Takes one from a budget; how long to wait when it is used up, else null.</summary>
    /// <param name="what">Which budget: the entry point.</param>
    /// <param name="whose">Whose: a network, an address, an account, a secret.</param>
    /// <param name="most">How many times.</param>
    /// <param name="window">In how long.</param>
    /// <param name="count">How many at once, all or none; one when left out.</param>
    public async Task<TimeSpan?> TakeAsync(
        string what,
        string whose,
        int most,
        TimeSpan window,
        int count = 1
    )
    {
        var now = clock.GetUtcNow().ToUnixTimeMilliseconds();
        var ends = now + (long)window.TotalMilliseconds;
        // Of a large budget some are taken at once, so that not every request has to write.
        var step = count > 1 ? count : Math.Max(1, most / 100);
        var key = KeyOf(what, whose);
        if (count == 1 && step > 1 && _taken.TryGetValue(key, out var held) && held.Spend(now))
            return null;
        using var pass = await gate.EnterAsync();
        // Whoever waited here meanwhile may have taken enough for all.
        if (count == 1 && step > 1 && _taken.TryGetValue(key, out var own) && own.Spend(now))
            return null;
        await using var rows = database.Open();
        var taken = await rows
            .Budgets.FromSql(
                $"""
                INSERT INTO budgets (key, ends_at, count) VALUES ({key}, {ends}, {step})
                ON CONFLICT (key) DO UPDATE SET
                  count = CASE WHEN budgets.ends_at <= {now} THEN {step} ELSE budgets.count + {step} END,
                  ends_at = CASE WHEN budgets.ends_at <= {now} THEN excluded.ends_at ELSE budgets.ends_at END
                RETURNING *
                """
            )
            .AsNoTracking()
            .ToListAsync();
        var row = taken[0];
        // The last step may reach beyond the budget: only what is within it counts.
        var granted = Math.Min(step, most - (row.Count - step));
        if (granted <= 0 && count == 1 && _taken.TryGetValue(key, out own) && own.Spend(now))
            return null;
        if (count > 1 && granted < count)
        {
            // All or none: what does not fit is given back.
            await GiveBackAsync(rows, key, count);
            granted = 0;
        }
        if (granted <= 0)
            // Whoever came a moment later may have begun it first: nobody waits longer than it lasts.
            return TimeSpan.FromMilliseconds(Math.Max(1_000, Math.Min(row.EndsAt - now, ends - now)));
        if (_taken.Count > MostKept)
            _taken.Clear();
        if (count == 1 && granted > 1)
            _taken.GetOrAdd(key, _ => new Allowance()).Add(granted - 1, row.EndsAt);
        return null;
    }

    /// <summary>Gives back what was taken for something that then was not done.</summary>
    public async Task GiveBackAsync(string what, string whose, int count)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await GiveBackAsync(rows, KeyOf(what, whose), count);
    }

    private static Task GiveBackAsync(ComeAboardContext rows, string key, int count) =>
        rows
            .Budgets.Where(b => b.Key == key && b.Count >= count)
            .ExecuteUpdateAsync(set => set.SetProperty(b => b.Count, b => b.Count - count));

    private static string KeyOf(string what, string whose) =>
        $"{what}:{Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(whose)))}";
}
