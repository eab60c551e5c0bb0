using System.Diagnostics;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Storage;
using Microsoft.Data.Sqlite;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>
/// V1: 100,000 people from a CSV file – read, judged, stored, queued, recorded – against the engine's own bulk load of the
/// very same rows into the same tables with the same indexes; both databases.
/// </summary>
public static class Importing
{
    private const int Rows = 100_000;
    private static readonly int Runs = Places.Runs;
    private static readonly string[] Tables = ["batch_entries", "invitations", "deliveries", "record"];

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        var file = FileOf(Rows);
        foreach (var engine in Places.Engines)
        {
            var (times, references, memory) = (new List<double>(), new List<double>(), new List<double>());
            for (var run = 0; run < Runs; run++)
            {
                using var cluster = PostgresCluster.On(engine);
                using var place = new ServicePlace(cluster?.Connection);
                var (seconds, megabytes) = await ImportAsync(place, file, Rows);
                times.Add(seconds);
                memory.Add(megabytes);
                references.Add(
                    cluster is null
                        ? await LoadSqliteAsync(place.DatabasePath)
                        : await LoadPostgresAsync(cluster.Connection)
                );
            }
            figures.AddRange(Of(engine, times, references, memory));
        }
        return figures;
    }

    private static IEnumerable<Figure> Of(
        string engine,
        List<double> times,
        List<double> references,
        List<double> memory
    ) =>
        [
            new("V1", $"importing {Rows} rows on {engine}", "s", times, references, "≤ 2.5", r => r <= 2.5),
            new(
                "V1",
                $"most anonymous memory while importing, {engine}",
                "MB",
                memory,
                [],
                "≤ 300",
                m => m <= 300
            ),
        ];

    internal static byte[] FileOf(int rows)
    {
        var csv = new StringBuilder("Address,Given name,Family name,Kind,Organisation,Title,End,Role\n");
        for (var n = 0; n < rows; n++)
            csv.Append(
                $"sailor{n}@harbour{n % 500}.example,Given{n},Family{n % 1000},guest,Harbour {n % 500},Deck watch,2030-01-31,view\n"
            );
        return Encoding.UTF8.GetBytes(csv.ToString());
    }

    /// <summary>How long a file takes from being handed in until its batch rests, and the most memory the service held meanwhile.</summary>
    internal static async Task<(double Seconds, double Megabytes)> ImportAsync(
        ServicePlace place,
        byte[] file,
        int rows
    )
    {
        var (service, token) = await place.OpenAsync();
        using var client = new AboardClient(place.Url, "the-lantern-tide", token);
        await using var memory = AnonymousMemory.Of(service);
        var watch = Stopwatch.StartNew();
        await InAsync(client, file, rows);
        var seconds = watch.Elapsed.TotalSeconds;
        Places.End(service);
        return (seconds, memory.Peak);
    }

    /// <summary>Imports a file of so many people, until its batch rests.</summary>
    internal static async Task InAsync(AboardClient client, byte[] file, int rows)
    {
        var batch = await client.AddBatchAsync(
            new MemoryStream(file),
            "sailors.csv",
            new BatchDefaults(),
            true
        );
        while (batch.State == "reading")
        {
            await Task.Delay(50);
            batch = await client.BatchAsync(batch.Id);
        }
        if (batch.Counts["sent"] != rows)
            throw new InvalidOperationException($"Only {batch.Counts["sent"]} were sent.");
    }

    /// <summary>Prepared inserts in one transaction, with a large cache.</summary>
    private static async Task<double> LoadSqliteAsync(string from)
    {
        var to = from + ".reference";
        await Database.Sqlite(to).MigrateAsync();
        SqliteConnection.ClearAllPools();
        await using var source = new SqliteConnection($"Data Source={from};Pooling=False");
        await using var target = new SqliteConnection($"Data Source={to};Pooling=False");
        await source.OpenAsync();
        await target.OpenAsync();
        Run(
            target,
            "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA cache_size=-65536; PRAGMA temp_store=MEMORY"
        );
        var rows = Tables.Select(table => (Table: table, Rows: ReadAll(source, table))).ToList();
        var watch = Stopwatch.StartNew();
        Run(target, "BEGIN IMMEDIATE");
        foreach (var (table, all) in rows)
        {
            if (all.Count == 0)
                continue;
            using var insert = target.CreateCommand();
            var names = Enumerable.Range(0, all[0].Length).Select(n => "@p" + n).ToList();
            insert.CommandText = $"INSERT INTO {table} VALUES ({string.Join(", ", names)})";
            foreach (var name in names)
                insert.Parameters.Add(new SqliteParameter { ParameterName = name });
            insert.Prepare();
            foreach (var row in all)
            {
                for (var n = 0; n < row.Length; n++)
                    insert.Parameters[n].Value = row[n];
                insert.ExecuteNonQuery();
            }
        }
        Run(target, "COMMIT");
        return watch.Elapsed.TotalSeconds;
    }

    private static List<object[]> ReadAll(SqliteConnection source, string table)
    {
        using var select = source.CreateCommand();
        select.CommandText = $"SELECT * FROM {table}";
        using var reader = select.ExecuteReader();
        var all = new List<object[]>();
        while (reader.Read())
        {
            var row = new object[reader.FieldCount];
            reader.GetValues(row);
            all.Add(row);
        }
        return all;
    }

    private static void Run(SqliteConnection connection, string sql)
    {
        using var command = connection.CreateCommand();
        command.CommandText = sql;
        command.ExecuteNonQuery();
    }

    /// <summary>Binary COPY of what binary COPY gave out.</summary>
    private static async Task<double> LoadPostgresAsync(string from)
    {
        await using (var maker = new NpgsqlConnection(from))
        {
            await maker.OpenAsync();
            await using var create = new NpgsqlCommand("CREATE DATABASE reference", maker);
            await create.ExecuteNonQueryAsync();
        }
        var to = new NpgsqlConnectionStringBuilder(from) { Database = "reference" }.ConnectionString;
        await Database.Postgres(to).MigrateAsync();
        await using var source = new NpgsqlConnection(from);
        await using var target = new NpgsqlConnection(to);
        await source.OpenAsync();
        await target.OpenAsync();
        var dumps = new List<(string Table, MemoryStream Rows)>();
        foreach (var table in Tables)
        {
            var rows = new MemoryStream();
            await using var copy = await source.BeginRawBinaryCopyAsync(
                $"COPY {table} TO STDOUT (FORMAT BINARY)"
            );
            await copy.CopyToAsync(rows);
            rows.Position = 0;
            dumps.Add((table, rows));
        }
        var watch = Stopwatch.StartNew();
        await using var transaction = await target.BeginTransactionAsync();
        foreach (var (table, rows) in dumps)
        {
            await using var copy = await target.BeginRawBinaryCopyAsync(
                $"COPY {table} FROM STDIN (FORMAT BINARY)"
            );
            await rows.CopyToAsync(copy);
        }
        await transaction.CommitAsync();
        return watch.Elapsed.TotalSeconds;
    }
}
