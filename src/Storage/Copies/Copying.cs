using ComeAboard.Storage.Record;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Storage.Copies;

/// <summary>Whole copies of a database. A copy that is kept is always one SQLite file, whichever engine it is of.</summary>
public static class Copying
{
    private const UnixFileMode Own = UnixFileMode.UserRead | UnixFileMode.UserWrite;

    /// <summary>Copies everything, as of one moment, into a new file, while others go on reading and writing.</summary>
    /// <param name="from">What is copied.</param>
    /// <param name="file">The path of the new file; nothing stands there yet.</param>
    /// <param name="progress">Told how many rows are copied so far, where rows are copied one by one.</param>
    /// <param name="cancellation">Breaks it off.</param>
    public static async Task SaveAsync(
        Database from,
        string file,
        Action<long>? progress = null,
        CancellationToken cancellation = default
    )
    {
        if (from.Engine == Engine.Sqlite)
        {
            new FileStream(
                file,
                new FileStreamOptions
                {
                    Mode = FileMode.CreateNew,
                    Access = FileAccess.Write,
                    UnixCreateMode = Own,
                }
            ).Dispose();
            await using var rows = from.Open();
            await rows.Database.OpenConnectionAsync(cancellation);
            await using var copy = new SqliteConnection($"Data Source={file};Pooling=False");
            await copy.OpenAsync(cancellation);
            // All in one step, so that it is of one moment.
            ((SqliteConnection)rows.Database.GetDbConnection()).BackupDatabase(copy);
        }
        else
        {
            var to = Database.Sqlite(file);
            await to.MigrateAsync(cancellation: cancellation);
            await CopyAsync(from, to, _ => Task.CompletedTask, progress, cancellation);
        }
    }

    /// <summary>Copies every row, as of one moment, into a database of the same schema that has none; all or nothing.</summary>
    /// <param name="from">What is copied.</param>
    /// <param name="to">Into what.</param>
    /// <param name="finish">What is done besides before it is kept; what it throws undoes all.</param>
    /// <param name="progress">Told how many rows are copied so far.</param>
    /// <param name="cancellation">Breaks it off.</param>
    public static async Task CopyAsync(
        Database from,
        Database to,
        Func<ComeAboardContext, Task> finish,
        Action<long>? progress = null,
        CancellationToken cancellation = default
    )
    {
        await using var source = from.Open();
        await using var moment = await MomentAsync(from, source);
        await using var target = to.Open();
        await using var transaction = await target.Database.BeginTransactionAsync(cancellation);
        await UnhurriedAsync(target);
        await RowCopy.CopyAsync(source, target, progress, cancellation);
        await finish(target);
        await transaction.CommitAsync(cancellation);
    }

    /// <summary>Begins to read everything of one moment, however long that takes.</summary>
    public static async Task<IAsyncDisposable> MomentAsync(Database database, ComeAboardContext rows)
    {
        var moment = await database.MomentAsync(rows);
        await UnhurriedAsync(rows);
        return moment;
    }

    /// <summary>Makes a file that was written to one that stands alone, safe on the disk.</summary>
    public static void Seal(string file)
    {
        LetGo(file);
        using (var alone = new SqliteConnection($"Data Source={file};Pooling=False"))
        {
            alone.Open();
            using var command = alone.CreateCommand();
            command.CommandText = "PRAGMA journal_mode=DELETE";
            command.ExecuteNonQuery();
        }
        using var written = File.OpenHandle(file, FileMode.Open, FileAccess.ReadWrite);
        RandomAccess.FlushToDisk(written);
    }

    /// <summary>What the engine itself finds wrong with its file; nothing for a server, which sees to that by itself.</summary>
    public static async Task<IReadOnlyList<string>> DamagesAsync(ComeAboardContext rows)
    {
        if (rows.Database.IsNpgsql())
            return [];
        var damages = new List<string>();
        // A connection that was used before remembers how its search index lay then, and takes what others changed since for
        // damage.
        await using var connection = new SqliteConnection(
            $"Data Source={rows.Database.GetDbConnection().DataSource};Pooling=False"
        );
        await connection.OpenAsync();
        await using var moment = connection.BeginTransaction(deferred: true);
        await using var command = connection.CreateCommand();
        command.Transaction = moment;
        command.CommandText = "PRAGMA integrity_check(20)";
        await using (var read = await command.ExecuteReaderAsync())
        {
            while (await read.ReadAsync())
            {
                if (read.GetString(0) is not "ok" and var damage)
                    damages.Add(damage);
            }
        }
        command.CommandText =
            "SELECT \"table\", parent, count(*) FROM pragma_foreign_key_check GROUP BY 1, 2";
        await using (var read = await command.ExecuteReaderAsync())
        {
            while (await read.ReadAsync())
                damages.Add(
                    $"{read.GetInt64(2)} of {read.GetString(0)} refer to {read.GetString(1)} that are not there"
                );
        }
        return damages;
    }

    /// <summary>Closes what is kept open of a file, and with it the files beside it.</summary>
    public static void LetGo(string file)
    {
        using var pooled = new SqliteConnection(Database.SqliteConnectionOf(file, 5));
        SqliteConnection.ClearPool(pooled);
    }

    /// <summary>Adds an entry to the record of whichever workspace it is of.</summary>
    public static Task AppendAsync(ComeAboardContext rows, RecordRow entry) =>
        RowLoader.LoadOfAllAsync(rows, typeof(RecordRow), [entry]);

    // A look at everything takes the time it takes, and waits for a slow disk on the other side.
    private static async Task UnhurriedAsync(ComeAboardContext rows)
    {
        rows.Database.SetCommandTimeout(TimeSpan.FromHours(12));
        if (rows.Database.IsNpgsql())
            await rows.Database.ExecuteSqlRawAsync(
                "SET LOCAL idle_in_transaction_session_timeout = 0; SET LOCAL lock_timeout = 0"
            );
    }
}
