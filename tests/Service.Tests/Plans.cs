using System.Collections.Concurrent;
using System.Data.Common;
using System.Text;
using ComeAboard.Client.Access;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.Extensions.Caching.Memory;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using Patience = ComeAboard.Service.Tests.World.Patience;

namespace ComeAboard.Service.Tests;

/// <summary>
/// Every statement of the work people wait for finds its rows by an index, whatever the engine has counted of the rows so
/// far: a plan that walks a table, or all pending invitations, is slow one day.
/// </summary>
public abstract class Plans(Harbour harbour)
{
    // What grows without end; the rest of the tables stay small.
    private static readonly string[] Large =
    [
        "invitations",
        "members",
        "deliveries",
        "record",
        "batch_entries",
        "grants",
        "group_members",
        "idempotency_keys",
        "sessions",
        "account_addresses",
        "opt_outs",
        "seats",
        "seat_reservations",
    ];

    [Fact]
    public async Task No_statement_of_the_work_people_wait_for_walks_a_table_that_grows()
    {
        var ship = await harbour.NewShipAsync();
        await FillAsync(ship);
        using var seen = new Statements(harbour.Database);
        await ship.InviteAsync(ship.Address("one"));
        var two = await ship.InviteAsync(ship.Address("two"));
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("one")), "One");
        await ship.Client.ResendInvitationAsync(two.Id);
        await ship.Client.RevokeInvitationAsync(two.Id);
        foreach (var sort in (string?[])[null, "oldest", "deadline", "last-step"])
            await ship.Client.InvitationsAsync(state: "pending", sort: sort);
        await ship.Client.InvitationsAsync(search: "lor42@");
        await ship.Client.PeopleAsync();
        await ship.Client.OverviewAsync();
        await ship.Client.RecordAsync();
        await ship.Client.ReadinessAsync(new("guest", "view", Address: ship.Address("three")));
        var person = await ship.Client.PersonAsync(ship.Address("one"));
        await ship.Client.PersonHistoryAsync(person.Id);
        await ship.Client.GrantAsync(new GrantRequest("edit", ship.Address("one")));
        await ship.Client.EndAsync(ship.Address("one"));
        var few = await ship.Client.AddBatchAsync(
            new MemoryStream(Encoding.UTF8.GetBytes($"Address\n{ship.Address("x")}\n{ship.Address("y")}\n")),
            "few.csv",
            new BatchDefaults("guest", "view"),
            true
        );
        await foreach (var _ in ship.Client.WatchBatchAsync(few.Id)) { }
        // What a process has taken upon itself is kept, and given back.
        var queues = harbour.Node.Services.GetRequiredService<MailQueues>();
        Assert.False(await queues.RenewAsync(Guid.NewGuid(), CancellationToken.None));
        await using (var mails = harbour.Database.Open(ship.Id))
            foreach (
                var some in (IReadOnlyList<DeliveryRow>?[])
                    [
                        [await mails.Deliveries.FirstAsync()],
                        null,
                    ]
            )
                await queues.PutBackAsync(Guid.NewGuid(), some, DateTimeOffset.UtcNow, null);
        Assert.InRange(seen.All.Count, 30, 2000);
        var slow = new List<string>();
        await using var rows = harbour.Database.Open(ship.Id);
        foreach (var (sql, parameters) in seen.All)
        {
            var plan = await ExplainAsync(rows, sql, parameters);
            if (Large.FirstOrDefault(table => IsOf(sql, table) && Walks(plan, table)) is { } walked)
                slow.Add($"{walked}: {sql}\n{plan}");
            // A few addresses are looked up by themselves, not by going through everything that is pending.
            if (LooksUpInvited(sql) && !plan.Contains("address", StringComparison.Ordinal))
                slow.Add($"addresses: {sql}\n{plan}");
        }
        Assert.True(slow.Count == 0, string.Join("\n\n", slow));
    }

    /// <summary>
    /// Each question is compiled when it is asked first, which takes a processor tens of milliseconds, and is known from then on,
    /// however many others there are. So many there are of ours, by far.
    /// </summary>
    [Fact]
    public async Task What_was_compiled_once_is_not_forgotten()
    {
        await using var rows = harbour.Database.Open();
        var known = rows.GetService<IMemoryCache>();
        var keys = Enumerable.Range(0, 3_000).Select(_ => new object()).ToList();
        foreach (var key in keys)
            known.Set(key, key, new MemoryCacheEntryOptions { Size = 10 });
        Assert.All(keys, key => Assert.True(known.TryGetValue(key, out _)));
        keys.ForEach(known.Remove);
    }

    /// <summary>Whether a plan reads a table from its beginning to its end, or a large part of an index for a few addresses.</summary>
    protected abstract bool Walks(string plan, string table);

    private static bool IsOf(string sql, string table) =>
        sql.Contains($"\"{table}\"", StringComparison.Ordinal)
        || sql.Contains($" {table} ", StringComparison.Ordinal);

    private static bool LooksUpInvited(string sql) =>
        sql.IndexOf("WHERE", StringComparison.Ordinal) is > 0 and var where
        && IsOf(sql[..where], "invitations")
        && sql[where..].Contains("address_key", StringComparison.Ordinal)
        && (
            sql.Contains("json_each", StringComparison.Ordinal)
            || sql.Contains("= ANY (", StringComparison.Ordinal)
        );

    /// <summary>Has the engine count its rows, or sees to it that it has not.</summary>
    protected abstract Task CountAsync(ComeAboardContext rows);

    private async Task FillAsync(Ship ship)
    {
        var csv = new StringBuilder("Address,Name\n");
        for (var n = 0; n < 3_000; n++)
            csv.Append($"lor{n}@{ship.Name}-guests.example,Lor {n}\n");
        var list = await ship.Client.AddBatchAsync(
            new MemoryStream(Encoding.UTF8.GetBytes(csv.ToString())),
            "many.csv",
            new BatchDefaults("guest", "view"),
            true
        );
        await foreach (var _ in ship.Client.WatchBatchAsync(list.Id)) { }
        await using var rows = harbour.Database.Open(ship.Id);
        await CountAsync(rows);
    }

    private static async Task<string> ExplainAsync(
        ComeAboardContext rows,
        string sql,
        IReadOnlyList<(string Name, object? Value)> parameters
    )
    {
        await rows.Database.OpenConnectionAsync();
        await using var transaction = await rows.Database.BeginTransactionAsync();
        // Small as they are here, tables are rightly read whole; what matters is that there is another way.
        if (rows.Database.IsNpgsql())
            await rows.Database.ExecuteSqlRawAsync("SET LOCAL enable_seqscan = off");
        await using var command = rows.Database.GetDbConnection().CreateCommand();
        command.Transaction = rows.Database.CurrentTransaction!.GetDbTransactionOf();
#pragma warning disable CA2100 // A statement of the service's own.
        command.CommandText = (rows.Database.IsNpgsql() ? "EXPLAIN " : "EXPLAIN QUERY PLAN ") + sql;
#pragma warning restore CA2100
        foreach (var (name, value) in parameters)
        {
            var parameter = command.CreateParameter();
            (parameter.ParameterName, parameter.Value) = (name, value ?? DBNull.Value);
            command.Parameters.Add(parameter);
        }
        var plan = new StringBuilder();
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
            plan.AppendLine(reader.GetValue(reader.FieldCount - 1).ToString());
        return plan.ToString();
    }

    /// <summary>Notes every statement that the service has run through the mapper since it was made.</summary>
    private sealed class Statements(Database database) : StatementWatch(database)
    {
        public ConcurrentDictionary<string, IReadOnlyList<(string, object?)>> All { get; } = new();

        protected override void Ran(DbCommand command)
        {
            if (IsLookedAt(command.CommandText))
                All[command.CommandText] =
                [
                    .. command
                        .Parameters.Cast<DbParameter>()
                        .Select(parameter => (parameter.ParameterName, parameter.Value)),
                ];
        }

        // What puts rows in finds none, and what asks for nothing reads nothing.
        private static bool IsLookedAt(string sql) =>
            sql.TrimStart() is var text
            && (
                text.StartsWith("SELECT", StringComparison.OrdinalIgnoreCase)
                || text.StartsWith("UPDATE", StringComparison.OrdinalIgnoreCase)
                || text.StartsWith("DELETE", StringComparison.OrdinalIgnoreCase)
            )
            && !text.Contains("WHERE 0", StringComparison.Ordinal)
            && !text.Contains("sqlite_master", StringComparison.Ordinal)
            && !text.Contains("pg_catalog", StringComparison.Ordinal);
    }
}

file static class Transactions
{
    public static DbTransaction GetDbTransactionOf(
        this Microsoft.EntityFrameworkCore.Storage.IDbContextTransaction transaction
    ) => Microsoft.EntityFrameworkCore.Storage.DbContextTransactionExtensions.GetDbTransaction(transaction);
}

public sealed class Plans_on_SQLite(SqliteHarbour harbour) : Plans(harbour), IClassFixture<SqliteHarbour>
{
    [Fact]
    public async Task Every_index_has_its_fixed_counts()
    {
        await using var rows = Storage(out var connection);
        await rows.Database.OpenConnectionAsync();
        await using var command = connection.CreateCommand();
        command.CommandText = """
            SELECT tbl_name || '.' || name FROM sqlite_master m
            WHERE type = 'index' AND tbl_name NOT LIKE 'invitation_search%' AND tbl_name NOT LIKE '%__EF%'
            AND NOT EXISTS (SELECT 1 FROM sqlite_stat1 s WHERE s.idx = m.name)
            """;
        var lacking = new List<string>();
        await using var reader = await command.ExecuteReaderAsync();
        while (await reader.ReadAsync())
            lacking.Add(reader.GetString(0));
        Assert.DoesNotContain(lacking, index => !index.Contains("_search", StringComparison.Ordinal));
    }

    private ComeAboardContext Storage(out DbConnection connection)
    {
        var rows = harbour.Database.Open();
        connection = rows.Database.GetDbConnection();
        return rows;
    }

    // Nothing is counted: the plans come of the fixed statistics alone.
    protected override Task CountAsync(ComeAboardContext rows) => Task.CompletedTask;

    protected override bool Walks(string plan, string table) =>
        plan.Split('\n')
            .Any(line =>
                line.StartsWith("SCAN ", StringComparison.Ordinal)
                && line.Contains($" {table[0]}", StringComparison.Ordinal)
                && IsAbout(line, table)
            );

    // The mapper calls a table by the first letter of its name.
    private static bool IsAbout(string line, string table) =>
        line.Split(' ')[1].Trim() is var alias && (alias == table || alias == table[..1]);
}

public sealed class Plans_on_PostgreSQL(PostgresHarbour harbour, PostgresCluster cluster)
    : Plans(harbour),
        IClassFixture<PostgresHarbour>
{
    [Fact]
    public async Task A_table_that_has_grown_is_counted_once_and_a_small_one_is_left_to_the_server()
    {
        var database = Database.Postgres(await cluster.NewDatabaseAsync());
        await database.MigrateAsync();
        await using var rows = database.Open();
        foreach (var (table, many) in new[] { ("opt_outs", 5_000), ("budgets", 20) })
            await FillAsync(rows, table, many);
        var counted = await Patience.UntilAsync(
            () => database.CountNewTablesAsync(),
            tables => tables.Count > 0
        );
        Assert.Equal(["opt_outs"], counted);
        Assert.Equal(5_000, await TuplesAsync(rows, "opt_outs"));
        Assert.Equal(-1, await TuplesAsync(rows, "budgets"));
        Assert.Empty(await database.CountNewTablesAsync());
    }

    [Fact]
    public async Task What_was_written_lately_is_put_in_its_place_in_the_index_by_the_clock()
    {
        // A table that nobody else writes to.
        await Sql.RunGlobalAsync(
            harbour,
            "CREATE TABLE lately (word text); CREATE INDEX ix_lately ON lately USING gin (word gin_trgm_ops); INSERT INTO lately VALUES ('lantern')"
        );
        await harbour.LetPassAsync(TimeSpan.Zero);
        await using var rows = harbour.Database.Open();
        Assert.Equal(
            0,
            await rows
                .Database.SqlQuery<long>($"""SELECT gin_clean_pending_list('ix_lately') AS "Value" """)
                .SingleAsync()
        );
        await Sql.RunGlobalAsync(harbour, "DROP TABLE lately");
    }

    private static Task FillAsync(ComeAboardContext rows, string table, int many) =>
        rows.Database.ExecuteSqlRawAsync(
            new StringBuilder("ALTER TABLE ")
                .Append(table)
                .Append(" SET (autovacuum_enabled = off); INSERT INTO ")
                .Append(table)
                .Append(
                    table == "budgets"
                        ? " (key, ends_at, count) SELECT 'key' || n, 0, 0 FROM generate_series(1, {0}) n"
                        : " (address_hash, at) SELECT 'hash' || n, now() FROM generate_series(1, {0}) n"
                )
                .ToString(),
            many
        );

    private static Task<float> TuplesAsync(ComeAboardContext rows, string table) =>
        rows
            .Database.SqlQuery<float>(
                $"""SELECT reltuples AS "Value" FROM pg_class WHERE oid = {table}::regclass"""
            )
            .SingleAsync();

    protected override async Task CountAsync(ComeAboardContext rows) =>
        await rows.Database.ExecuteSqlRawAsync("ANALYZE");

    protected override bool Walks(string plan, string table) =>
        plan.Contains($"Seq Scan on {table} ", StringComparison.Ordinal);
}
