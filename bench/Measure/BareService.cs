using Microsoft.Data.Sqlite;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>The reference of V4: an endpoint that does one bare insert and commit, prepared, in the same database.</summary>
public static class BareService
{
    private const string Table =
        "CREATE TABLE IF NOT EXISTS bare (id TEXT PRIMARY KEY, address TEXT NOT NULL, kind TEXT NOT NULL, state TEXT NOT NULL, made BIGINT NOT NULL)";

    private const string Insert =
        "INSERT INTO bare (id, address, kind, state, made) VALUES (@id, @address, 'guest', 'queued', @made)";

    /// <param name="args">bare, sqlite or postgres, the path or connection, the address to listen on.</param>
    public static async Task RunAsync(string[] args)
    {
        var builder = WebApplication.CreateSlimBuilder();
        builder.Logging.ClearProviders();
        builder.WebHost.UseUrls(args[3]);
        await using var app = builder.Build();
        Func<string, Task> insert = args[1] == "postgres" ? OnPostgres(args[2]) : OnSqlite(args[2]);
        app.MapGet("/health/ready", () => "ready");
        app.MapPost(
            "/insert",
            async (Wish wish) =>
            {
                await insert(wish.Address);
                return Results.Created("/insert", wish);
            }
        );
        await app.RunAsync();
    }

    private static Func<string, Task> OnSqlite(string path)
    {
        var connection = new SqliteConnection($"Data Source={path}");
        connection.Open();
        using (var pragmas = connection.CreateCommand())
        {
            pragmas.CommandText =
                $"PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA cache_size=-65536; {Table}";
            pragmas.ExecuteNonQuery();
        }
        var command = connection.CreateCommand();
        command.CommandText = Insert;
        command.Parameters.Add("@id", SqliteType.Text);
        command.Parameters.Add("@address", SqliteType.Text);
        command.Parameters.Add("@made", SqliteType.Integer);
        command.Prepare();
        // SQLite takes one writer at a time; a line in the process is its fastest way.
        var gate = new SemaphoreSlim(1, 1);
        return async address =>
        {
            await gate.WaitAsync();
            try
            {
                command.Parameters["@id"].Value = Guid.CreateVersion7().ToString();
                command.Parameters["@address"].Value = address;
                command.Parameters["@made"].Value = DateTimeOffset.UtcNow.ToUnixTimeMilliseconds();
                command.ExecuteNonQuery();
            }
            finally
            {
                gate.Release();
            }
        };
    }

    private static Func<string, Task> OnPostgres(string connectionString)
    {
        var source = NpgsqlDataSource.Create(
            connectionString + ";Max Auto Prepare=10;Auto Prepare Min Usages=1"
        );
        using (var make = source.CreateCommand(Table))
            make.ExecuteNonQuery();
        return async address =>
        {
            await using var command = source.CreateCommand(Insert);
            command.Parameters.AddWithValue("id", Guid.CreateVersion7().ToString());
            command.Parameters.AddWithValue("address", address);
            command.Parameters.AddWithValue("made", DateTimeOffset.UtcNow.ToUnixTimeMilliseconds());
            await command.ExecuteNonQueryAsync();
        };
    }

    private sealed record Wish(string Address, string Kind);
}
