using System.Data.Common;
using System.Runtime.CompilerServices;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;

namespace ComeAboard.Storage;

/// <summary>Which database engine the rows are in.</summary>
public enum Engine
{
    /// <summary>One file beside the service.</summary>
    Sqlite,

    /// <summary>A server that several service processes share.</summary>
    Postgres,
}

/// <summary>Opens contexts on the configured engine.</summary>
public sealed class Database
{
    private readonly Func<ComeAboardContext> _open;

    private Database(Engine engine, Func<ComeAboardContext> open)
    {
        Engine = engine;
        _open = open;
    }

    public Engine Engine { get; }

    /// <summary>One SQLite file.</summary>
    /// <param name="path">Its path; made when missing.</param>
    /// <param name="busySeconds">How long to wait for another process that is writing, before it counts as locked.</param>
    public static Database Sqlite(string path, int busySeconds = 5)
    {
        var connection = new SqliteConnectionStringBuilder
        {
            DataSource = path,
            DefaultTimeout = busySeconds,
            ForeignKeys = true,
        };
        var options = new DbContextOptionsBuilder<SqliteContext>()
            .UseSqlite(connection.ConnectionString)
            .AddInterceptors(new SqliteOpening())
            .UseSnakeCaseNamingConvention()
            .Options;
        var pool = new PooledDbContextFactory<SqliteContext>(options);
        return new Database(Engine.Sqlite, pool.CreateDbContext);
    }

    /// <summary>A PostgreSQL database.</summary>
    /// <param name="connectionString">In Npgsql's form: <c>Host=…;Database=…;Username=…</c>.</param>
    public static Database Postgres(string connectionString)
    {
        var options = new DbContextOptionsBuilder<PostgresContext>()
            .UseNpgsql(connectionString)
            .UseSnakeCaseNamingConvention()
            .Options;
        var pool = new PooledDbContextFactory<PostgresContext>(options);
        return new Database(Engine.Postgres, pool.CreateDbContext);
    }

    /// <summary>A context that sees no workspace yet.</summary>
    public ComeAboardContext Open() => _open().Leave();

    /// <summary>A context that sees one workspace.</summary>
    public ComeAboardContext Open(Guid workspace) => Open().Enter(workspace);

    /// <summary>
    /// Begins to read so that all of it is of one moment, without holding anybody who writes. The context has to be
    /// disposed of with what comes back.
    /// </summary>
    public async Task<IAsyncDisposable> MomentAsync(ComeAboardContext rows)
    {
        if (Engine == Engine.Postgres)
            return await rows.Database.BeginTransactionAsync(System.Data.IsolationLevel.RepeatableRead);
        await rows.Database.OpenConnectionAsync();
        // Deferred: a transaction that only reads takes no lock.
        var transaction = ((SqliteConnection)rows.Database.GetDbConnection()).BeginTransaction(
            deferred: true
        );
        await rows.Database.UseTransactionAsync(transaction);
        return transaction;
    }

    /// <summary>Brings the schema up to this version; safe when several processes do it at once.</summary>
    public async Task MigrateAsync(CancellationToken cancellation = default)
    {
        await using var context = Open();
        // Migrating takes a lock and compares whole models; mostly there is nothing to do, and seeing so is quick.
        if (!(await context.Database.GetPendingMigrationsAsync(cancellation)).Any())
            return;
        if (Engine == Engine.Sqlite)
        {
            await context.Database.MigrateAsync(cancellation);
            return;
        }
        // The lock of the migrations themselves ends with each transaction, so one is held around all of them.
        await using var holder = Open();
        await holder.Database.OpenConnectionAsync(cancellation);
        await holder.Database.ExecuteSqlAsync($"SELECT pg_advisory_lock({MigrationLock})", cancellation);
        try
        {
            await context.Database.MigrateAsync(cancellation);
        }
        finally
        {
            await holder.Database.ExecuteSqlAsync(
                $"SELECT pg_advisory_unlock({MigrationLock})",
                CancellationToken.None
            );
            await holder.Database.CloseConnectionAsync();
        }
    }

    // Any number, as long as it stays the same.
    private const long MigrationLock = 0x61626F617264;

    /// <summary>WAL lets readers go on while one writes; FULL keeps an answered request over a power cut.</summary>
    private sealed class SqliteOpening : DbConnectionInterceptor
    {
        private const string Pragmas =
            "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA cache_size=-32768; PRAGMA temp_store=MEMORY;";

        // Connections are pooled, and one that comes back has its settings already.
        private readonly ConditionalWeakTable<object, object> _set = [];

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            if (connection is SqliteConnection { Handle: { } handle } && !_set.TryAdd(handle, handle))
                return;
            using var command = connection.CreateCommand();
            command.CommandText = Pragmas;
            command.ExecuteNonQuery();
        }

        public override Task ConnectionOpenedAsync(
            DbConnection connection,
            ConnectionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            ConnectionOpened(connection, eventData);
            return Task.CompletedTask;
        }
    }
}
