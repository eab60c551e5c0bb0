using System.Data.Common;
using System.Diagnostics;
using System.Runtime.CompilerServices;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Diagnostics;
using Microsoft.EntityFrameworkCore.Infrastructure;
using Microsoft.EntityFrameworkCore.Migrations;
using Microsoft.EntityFrameworkCore.Storage;
using Microsoft.Extensions.Caching.Memory;
using Npgsql;

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
    // The mapper's own room holds some five hundred questions, fewer than there are: it would forget some and compile them again when they are
    // asked next. This one holds five thousand.
    private static readonly MemoryCache Questions = new(new MemoryCacheOptions { SizeLimit = 100_000 });

    // Fewer rows than these are walked as quickly as they are looked up.
    private const int Grown = 500;

    private readonly Func<ComeAboardContext> _open;

    private readonly string? _file;

    private readonly string? _server;

    private Database(
        Engine engine,
        Func<ComeAboardContext> open,
        string? file = null,
        string? server = null
    ) => (Engine, _open, _file, _server) = (engine, open, file, server);

    public Engine Engine { get; }

    /// <summary>One SQLite file.</summary>
    /// <param name="path">Its path; made when missing.</param>
    /// <param name="busySeconds">How long to wait for another process that is writing, before it counts as locked.</param>
    public static Database Sqlite(string path, int busySeconds = 5)
    {
        var place = new FilePlace(path);
        var options = new DbContextOptionsBuilder<SqliteContext>()
            .UseSqlite(SqliteConnectionOf(path, busySeconds))
            .AddInterceptors(new SqliteOpening(place), new SqliteCommitted(place), new WritingSeen())
            .ReplaceService<IMigrationsSqlGenerator, WholeMigrations>()
            .ReadConstantsOnce()
            .UseMemoryCache(Questions)
            .UseSnakeCaseNamingConvention()
            .Options;
        var pool = new PooledDbContextFactory<SqliteContext>(options);
        return new Database(Engine.Sqlite, pool.CreateDbContext, path);
    }

    /// <summary>How the file is opened; connections of the same words are pooled together.</summary>
    internal static string SqliteConnectionOf(string path, int busySeconds) =>
        new SqliteConnectionStringBuilder
        {
            DataSource = path,
            DefaultTimeout = busySeconds,
            ForeignKeys = true,
        }.ConnectionString;

    /// <summary>A PostgreSQL database.</summary>
    /// <param name="connectionString">In Npgsql's form: <c>Host=…;Database=…;Username=…</c>.</param>
    public static Database Postgres(string connectionString)
    {
        var guarded = Guarded(connectionString);
        var waitsAsTold = new NpgsqlConnectionStringBuilder(connectionString).ShouldSerialize(
            "Command Timeout"
        );
        var options = new DbContextOptionsBuilder<PostgresContext>()
            .UseNpgsql(guarded)
            .AddInterceptors(
                new WritingSeen(),
                new PatientOpening(),
                new PatientCommands(),
                new PatientEnds()
            )
            .ReplaceService<IRelationalTransactionFactory, PatientTransactions>()
            .ReadConstantsOnce()
            .UseMemoryCache(Questions)
            .UseSnakeCaseNamingConvention()
            .Options;
        var pool = new PooledDbContextFactory<PostgresContext>(options);
        return new Database(
            Engine.Postgres,
            () =>
            {
                var rows = pool.CreateDbContext();
                rows.WaitsAsTold = waitsAsTold;
                return rows;
            },
            server: guarded
        );
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

    /// <summary>
    /// Hears what processes on the same PostgreSQL database call out on a channel, over a connection of its own, until that breaks or
    /// is stopped. A file has nobody who calls.
    /// </summary>
    /// <param name="channel">The channel, an SQL name.</param>
    /// <param name="heard">Told the words of each call.</param>
    /// <param name="stop">Stops listening.</param>
    public async Task ListenAsync(string channel, Action<string> heard, CancellationToken stop)
    {
        if (_server is null)
            return;
        await using var connection = new NpgsqlConnection(
            new NpgsqlConnectionStringBuilder(_server) { Pooling = false }.ConnectionString
        );
        connection.Notification += (_, call) => heard(call.Payload);
        await connection.OpenAsync(stop);
        await using (var command = connection.CreateCommand())
        {
            command.CommandText = $"LISTEN {channel}";
            await command.ExecuteNonQueryAsync(stop);
        }
        while (true)
            await connection.WaitAsync(stop);
    }

    /// <summary>
    /// Has a server count the rows of tables that have grown and that it has never counted. Until it has, it takes every
    /// workspace for small, and walks all of one's rows where it could look a few up; by itself it counts once a minute. A file
    /// knows from the start what grows.
    /// </summary>
    /// <returns>The tables that were counted, here or by whoever else was at it; none that another role owns.</returns>
    public async Task<IReadOnlyList<string>> CountNewTablesAsync(CancellationToken cancellation = default)
    {
        if (Engine != Engine.Postgres)
            return [];
        await using var rows = Open();
        var grown = await rows
            .Database.SqlQueryRaw<string>(
                """
                SELECT t.relname AS "Value" FROM pg_stat_user_tables t JOIN pg_class c ON c.oid = t.relid
                WHERE t.schemaname = current_schema() AND c.reltuples < 0 AND t.n_live_tup >= {0}
                AND pg_has_role(c.relowner, 'USAGE')
                """,
                Grown
            )
            .ToListAsync(cancellation);
        foreach (var table in grown)
        {
            // Whoever else is at it does it for all.
            var count = new StringBuilder("ANALYZE (SKIP_LOCKED) \"").Append(table).Append('"').ToString();
            await rows.Database.ExecuteSqlRawAsync(count, cancellation);
        }
        return grown;
    }

    /// <summary>
    /// Has a server put in their places what its indexes of three-letter pieces were told lately. It keeps that in a heap beside them, up
    /// to four megabytes, and every search goes through all of the heap. A file has none.
    /// </summary>
    /// <returns>How many pages of such heaps were put away; none of indexes that another role owns.</returns>
    public async Task<long> TidyIndexesAsync(CancellationToken cancellation = default)
    {
        if (Engine != Engine.Postgres)
            return 0;
        await using var rows = Open();
        return await rows
            .Database.SqlQueryRaw<long>(
                """
                SELECT coalesce(sum(gin_clean_pending_list(c.oid::regclass)), 0)::bigint AS "Value"
                FROM pg_class c JOIN pg_am a ON a.oid = c.relam
                WHERE a.amname = 'gin' AND c.relnamespace = current_schema()::regnamespace
                AND pg_has_role(c.relowner, 'USAGE')
                """
            )
            .SingleAsync(cancellation);
    }

    /// <summary>Brings the schema up to this version; safe when several processes do it at once.</summary>
    /// <param name="makes">Whether an empty database is made where there is none.</param>
    /// <param name="waits">Told, once, for what it waits when another process is at it.</param>
    /// <param name="cancellation">Stops waiting.</param>
    /// <exception cref="UnusableDatabaseException">There is none, or its schema is newer than this program.</exception>
    public Task MigrateAsync(
        bool makes = true,
        Action<string>? waits = null,
        CancellationToken cancellation = default
    ) => new Schema(this, _file).MigrateAsync(makes, waits, cancellation);

    /// <summary>Sees that the schema is this version's, and changes nothing.</summary>
    /// <exception cref="UnusableDatabaseException">There is none, or its schema is another's.</exception>
    public Task RequireCurrentAsync(CancellationToken cancellation = default) =>
        new Schema(this, _file).RequireCurrentAsync(cancellation);

    /// <summary>Whether nothing was ever kept there: no file, or no table of ours.</summary>
    public Task<bool> IsNewAsync(CancellationToken cancellation = default) =>
        new Schema(this, _file).IsNewAsync(cancellation);

    /// <summary>
    /// A connection that holds nobody up for long. What the operator says themselves about any of this wins.
    /// </summary>
    private static string Guarded(string connectionString)
    {
        var guarded = new NpgsqlConnectionStringBuilder(connectionString);
        // For one try of those who stand in line. Whatever is given up is called off over a connection of its own, which a server that
        // hangs holds up for as long again.
        Unless("Timeout", 1);
        Unless("Internal Command Timeout", 3);
        Unless("Cancellation Timeout", 500);
        // One more such conversation before each connection, which few servers know.
        Unless("GSS Encryption Mode", "Disable");
        Unless("Tcp Keepalive", true);
        // What is asked often is planned once for each connection, and none leaves behind what the next would have to clear first.
        Unless("Max Auto Prepare", 200);
        Unless("No Reset On Close", true);
        // The server lets go of what a process holds that has vanished, and nobody waits long for a lock.
        guarded.Options = (
            "-c lock_timeout=2500 -c idle_in_transaction_session_timeout=8000"
            + " -c tcp_keepalives_idle=5 -c tcp_keepalives_interval=2 -c tcp_keepalives_count=2 -c tcp_user_timeout=9000 "
            + guarded.Options
        ).Trim();
        return guarded.ConnectionString;

        void Unless(string key, object value)
        {
            if (!guarded.ShouldSerialize(key))
                guarded[key] = value;
        }
    }

    /// <summary>
    /// Has those who want a connection stand in line, as long as a request may wait for one statement, a few of them at a time before the
    /// pool: where all connections are in use whoever comes last waits longest, and a server is not asked for a hundred new ones in the
    /// same moment, which takes it longer than anybody waits for one. A try that takes too long is made again.
    /// </summary>
    private sealed class PatientOpening : DbConnectionInterceptor
    {
        private const int AtOnce = 8;

        private SemaphoreSlim Turns { get; } = new(AtOnce);

        public override async ValueTask<InterceptionResult> ConnectionOpeningAsync(
            DbConnection connection,
            ConnectionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        )
        {
            var begun = Stopwatch.GetTimestamp();
            if (!await Turns.WaitAsync(Longest(connection.ConnectionTimeout), cancellationToken))
                throw new TimeoutException("No connection to the database became free.");
            try
            {
                while (true)
                {
                    try
                    {
                        await connection.OpenAsync(cancellationToken);
                        return InterceptionResult.Suppress();
                    }
                    // Clocks differ a little: what ends just before the time is over was the last try.
                    catch (NpgsqlException fault)
                        when (fault.InnerException is TimeoutException
                            && Stopwatch.GetElapsedTime(begun) < Patience.OfRequest * 0.9
                        ) { }
                }
            }
            finally
            {
                Turns.Release();
            }
        }

        // Where one try may take longer, by the operator's own word, so may the wait for it; none at all is no bound.
        private static TimeSpan Longest(int seconds) =>
            seconds == 0 ? Timeout.InfiniteTimeSpan
            : seconds > Patience.OfRequest.TotalSeconds ? TimeSpan.FromSeconds(seconds)
            : Patience.OfRequest;
    }

    /// <summary>Gives each statement the patience of whoever waits for it.</summary>
    private sealed class PatientCommands : DbCommandInterceptor
    {
        public override DbCommand CommandInitialized(CommandEndEventData eventData, DbCommand result)
        {
            if (Patience.For(eventData.Context) is { } longest)
                result.CommandTimeout = Patience.Seconds(longest);
            return result;
        }
    }

    /// <summary>Does the same for what ends a transaction.</summary>
    private sealed class PatientEnds : DbTransactionInterceptor
    {
        public override ValueTask<InterceptionResult> TransactionCommittingAsync(
            DbTransaction transaction,
            TransactionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        ) => EndAsync(transaction.CommitAsync, eventData, cancellationToken);

        public override ValueTask<InterceptionResult> TransactionRollingBackAsync(
            DbTransaction transaction,
            TransactionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        ) => EndAsync(transaction.RollbackAsync, eventData, cancellationToken);

        private static async ValueTask<InterceptionResult> EndAsync(
            Func<CancellationToken, Task> end,
            TransactionEventData eventData,
            CancellationToken stop
        )
        {
            await Patience.BoundAsync(eventData.Context, end, stop);
            return InterceptionResult.Suppress();
        }
    }

    /// <summary>Notes on a context that a statement wrote by it, where rows are changed without being tracked.</summary>
    private sealed class WritingSeen : DbCommandInterceptor
    {
        public override ValueTask<InterceptionResult<int>> NonQueryExecutingAsync(
            DbCommand command,
            CommandEventData eventData,
            InterceptionResult<int> result,
            CancellationToken cancellationToken = default
        )
        {
            if (eventData.Context is ComeAboardContext rows)
                rows.HasWritten = true;
            return ValueTask.FromResult(result);
        }
    }

    /// <summary>WAL lets readers go on while one writes; FULL keeps an answered request over a power cut.</summary>
    private sealed class SqliteOpening(FilePlace place) : DbConnectionInterceptor
    {
        private const string Pragmas =
            "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA temp_store=MEMORY;";

        // Connections are pooled, and one that comes back has its settings already.
        private readonly ConditionalWeakTable<object, object> _set = [];

        // Before as well: whoever opens another file in its place takes the log of this one for that one's, and away with it.
        public override InterceptionResult ConnectionOpening(
            DbConnection connection,
            ConnectionEventData eventData,
            InterceptionResult result
        )
        {
            place.Require();
            return result;
        }

        public override ValueTask<InterceptionResult> ConnectionOpeningAsync(
            DbConnection connection,
            ConnectionEventData eventData,
            InterceptionResult result,
            CancellationToken cancellationToken = default
        ) => ValueTask.FromResult(ConnectionOpening(connection, eventData, result));

        public override void ConnectionOpened(DbConnection connection, ConnectionEndEventData eventData)
        {
            place.Require();
            if (connection is SqliteConnection { Handle: { } handle } && !_set.TryAdd(handle, handle))
                return;
            using var command = connection.CreateCommand();
            command.CommandText = Pragmas;
            command.ExecuteNonQuery();
            FileCache.Begin(connection);
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

    /// <summary>What went into a file that is no longer in its place is not kept, and must not be said to be.</summary>
    private sealed class SqliteCommitted(FilePlace place) : DbTransactionInterceptor
    {
        public override Task TransactionCommittedAsync(
            DbTransaction transaction,
            TransactionEndEventData eventData,
            CancellationToken cancellationToken = default
        )
        {
            place.Require();
            return Task.CompletedTask;
        }
    }
}
