using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Storage;

namespace ComeAboard.Storage;

/// <summary>A database that this program cannot work with; the message says why, and what to do.</summary>
public sealed class UnusableDatabaseException(string message, bool isNewer = false) : Exception(message)
{
    /// <summary>Whether a newer program made it.</summary>
    public bool IsNewer => isNewer;
}

/// <summary>Brings the schema of a database up to this version.</summary>
internal sealed class Schema(Database database, string? file)
{
    // Any number, as long as it stays the same.
    private const long MigrationLock = 0x61626F617264;
    private const UnixFileMode Own = UnixFileMode.UserRead | UnixFileMode.UserWrite;
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(200);

    public async Task MigrateAsync(bool makes, Action<string>? waits, CancellationToken cancellation)
    {
        if (file is not null)
        {
            if (!makes && !File.Exists(file))
                throw Missing($"There is no database file {file}.");
            KeepPrivate(file);
        }
        await using var context = database.Open();
        // Migrating takes a lock and compares whole models; mostly there is nothing to do, and seeing so is quick.
        if (!await IsOldAsync(context, makes, cancellation))
            return;
        await using var alone = await AloneAsync(waits, cancellation);
        if (!await IsOldAsync(context, makes, cancellation))
            return;
        // The migrations' own lock on SQLite is a row, which outlives a process that was killed; ours does not.
        await context.Database.OpenConnectionAsync(cancellation);
        if (file is not null)
        {
            await context.Database.ExecuteSqlRawAsync(
                "DROP TABLE IF EXISTS \"__EFMigrationsLock\"",
                cancellation
            );
            // It counts for this connection, and only outside a transaction: see WholeMigrations.
            await context.Database.ExecuteSqlRawAsync("PRAGMA foreign_keys = OFF", cancellation);
        }
        else
        {
            // The locks of an upgrade may take their time.
            await context.Database.ExecuteSqlRawAsync("SET lock_timeout = 0", cancellation);
        }
        context.Database.SetCommandTimeout(TimeSpan.FromHours(1));
        if (!(await context.Database.GetAppliedMigrationsAsync(cancellation)).Any())
            await MakeWholeAsync(context, cancellation);
        if (await IsOldAsync(context, makes, cancellation))
            await context.Database.MigrateAsync(cancellation);
        await context.Database.ExecuteSqlRawAsync(
            file is not null ? "PRAGMA foreign_keys = ON" : "RESET lock_timeout",
            cancellation
        );
    }

    public async Task RequireCurrentAsync(CancellationToken cancellation)
    {
        if (file is not null)
        {
            if (!File.Exists(file))
                throw Missing($"There is no database file {file}.");
            KeepPrivate(file);
        }
        await using var context = database.Open();
        if (await IsOldAsync(context, false, cancellation))
            throw new UnusableDatabaseException(
                "The schema of the database is older than this program. Start the service once with it, or use the program the service runs."
            );
    }

    public async Task<bool> IsNewAsync(CancellationToken cancellation)
    {
        if (file is not null)
            return !File.Exists(file);
        await using var context = database.Open();
        return !(await context.Database.GetAppliedMigrationsAsync(cancellation)).Any();
    }

    /// <summary>
    /// Makes an empty database by the words that all migrations come to, in one transaction. Run one by one, each of them is put into
    /// words first and committed by itself, which takes a third longer where all of it has run before.
    /// </summary>
    private async Task MakeWholeAsync(ComeAboardContext context, CancellationToken cancellation)
    {
        await using var stream = typeof(Schema).Assembly.GetManifestResourceStream(
            $"{database.Engine}.Whole.sql"
        )!;
        using var words = new StreamReader(stream);
        await using var transaction = await context.Database.BeginTransactionAsync(cancellation);
        await using var command = context.Database.GetDbConnection().CreateCommand();
        command.CommandText = await words.ReadToEndAsync(cancellation);
        command.CommandTimeout = (int)context.Database.GetCommandTimeout()!;
        command.Transaction = transaction.GetDbTransaction();
        await command.ExecuteNonQueryAsync(cancellation);
        await transaction.CommitAsync(cancellation);
    }

    private static async Task<bool> IsOldAsync(
        ComeAboardContext context,
        bool makes,
        CancellationToken cancellation
    )
    {
        var applied = (await context.Database.GetAppliedMigrationsAsync(cancellation)).ToList();
        var known = context.Database.GetMigrations().ToList();
        if (applied.FirstOrDefault(one => !known.Contains(one)) is { } newer)
            throw new UnusableDatabaseException(
                $"The schema of the database is newer than this program: it has {newer}, and the program knows nothing after {known[^1]}. Use the newer program.",
                isNewer: true
            );
        if (applied.Count == 0 && !makes)
            throw Missing("The database is empty.");
        return applied.Count < known.Count;
    }

    private static UnusableDatabaseException Missing(string why) =>
        new($"{why} Make one with a workspace in it: come-aboard init --name NAME.");

    /// <summary>Waits until no other process migrates. The lock ends with the process that holds it.</summary>
    private async Task<IAsyncDisposable> AloneAsync(Action<string>? waits, CancellationToken cancellation)
    {
        for (var isFirst = true; ; isFirst = false)
        {
            if (
                (file is null ? await ServerLock.TryAsync(database, cancellation) : TryFile(file)) is { } held
            )
                return held;
            if (isFirst)
                waits?.Invoke("Waiting for another process that brings the database up to date.");
            await Task.Delay(Pause, cancellation);
        }
    }

    private static FileStream? TryFile(string file)
    {
        try
        {
            return new FileStream(
                file + ".migrating",
                new FileStreamOptions
                {
                    Mode = FileMode.OpenOrCreate,
                    Access = FileAccess.ReadWrite,
                    Share = FileShare.None,
                    Options = FileOptions.DeleteOnClose,
                    UnixCreateMode = Own,
                }
            );
        }
        catch (IOException) when (File.Exists(file + ".migrating"))
        {
            return null;
        }
    }

    /// <summary>Only the operator's own user reads the file; SQLite's files beside it get the same rights.</summary>
    private static void KeepPrivate(string file)
    {
        try
        {
            if (!File.Exists(file))
            {
                new FileStream(
                    file,
                    new FileStreamOptions
                    {
                        Mode = FileMode.OpenOrCreate,
                        Access = FileAccess.Write,
                        UnixCreateMode = Own,
                    }
                ).Dispose();
            }
            else if ((File.GetUnixFileMode(file) & ~Own) != 0)
                File.SetUnixFileMode(file, Own);
            // An empty file is no database yet, and a copy that stands alone writes no log ahead: whoever looks whether
            // there is one opens it for reading only, and could not change that.
            using var connection = new SqliteConnection($"Data Source={file};Pooling=False");
            connection.Open();
            using var command = connection.CreateCommand();
            command.CommandText = "PRAGMA journal_mode=WAL";
            command.ExecuteNonQuery();
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException or SqliteException)
        {
            // Opening it says better what is wrong.
        }
    }

    /// <summary>The lock of the migrations themselves ends with each transaction, so one is held around all of them.</summary>
    private sealed class ServerLock(ComeAboardContext holder) : IAsyncDisposable
    {
        public static async Task<IAsyncDisposable?> TryAsync(
            Database database,
            CancellationToken cancellation
        )
        {
            var holder = database.Open();
            await holder.Database.OpenConnectionAsync(cancellation);
            var taken = await holder
                .Database.SqlQuery<bool>($"SELECT pg_try_advisory_lock({MigrationLock}) AS \"Value\"")
                .ToListAsync(cancellation);
            if (taken[0])
                return new ServerLock(holder);
            await holder.DisposeAsync();
            return null;
        }

        public async ValueTask DisposeAsync()
        {
            await holder.Database.ExecuteSqlAsync($"SELECT pg_advisory_unlock({MigrationLock})");
            await holder.DisposeAsync();
        }
    }
}
