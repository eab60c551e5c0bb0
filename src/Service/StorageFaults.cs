using System.Data.Common;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using Microsoft.Data.Sqlite;
using Npgsql;

namespace ComeAboard.Service;

/// <summary>What is wrong when a database does not do what is asked of it.</summary>
public static class StorageFaults
{
    private const int SqliteBusy = 5;
    private const int SqliteLocked = 6;
    private const int SqliteReadOnly = 8;
    private const int SqliteIo = 10;
    private const int SqliteCorrupt = 11;
    private const int SqliteFull = 13;
    private const int SqliteCannotOpen = 14;
    private const int SqliteNoDatabase = 26;

    /// <summary>The refusal for a database that cannot take the work just now, or null for any other fault.</summary>
    public static Refusal? Explain(Exception fault)
    {
        if (Find<UnknownFateException>(fault) is not null)
            return new Refusal(
                "storage.unknown",
                "The database went away while this was being kept; whether it was is not known.",
                "Look whether it is there before you repeat it. With the same Idempotency-Key it can be repeated at once.",
                RefusalSort.Unavailable
            );
        if (Find<Storage.MovedDatabaseException>(fault) is not null)
            return Storage(
                "moved",
                "The database file was deleted or replaced while the service ran.",
                "Tell the operator to put it back, or to start the service again."
            );
        if (Find<SqliteException>(fault) is { } sqlite)
            return sqlite.SqliteErrorCode switch
            {
                SqliteBusy or SqliteLocked => Storage(
                    "busy",
                    "The database is locked by another program.",
                    "Try again in a moment."
                ),
                SqliteFull => Storage(
                    "full",
                    "The disk of the database is full.",
                    "Tell the operator to make room; then try again."
                ),
                SqliteCorrupt or SqliteNoDatabase => Storage(
                    "damaged",
                    "The database file is damaged, or is no database.",
                    "Tell the operator to check it, and to restore a back-up if it is."
                ),
                SqliteReadOnly or SqliteIo or SqliteCannotOpen => Storage(
                    "unwritable",
                    "The database file cannot be written.",
                    "Tell the operator to check the disk and the file's rights."
                ),
                _ => null,
            };
        if (Find<PostgresException>(fault) is { } postgres)
            return postgres.SqlState switch
            {
                PostgresErrorCodes.DiskFull => Storage(
                    "full",
                    "The disk of the database is full.",
                    "Tell the operator to make room; then try again."
                ),
                PostgresErrorCodes.LockNotAvailable or PostgresErrorCodes.QueryCanceled => Storage(
                    "busy",
                    "The database is busy.",
                    "Try again in a moment."
                ),
                var state
                    when state.StartsWith("57P", StringComparison.Ordinal)
                        || state.StartsWith("53", StringComparison.Ordinal) => Away(),
                _ => null,
            };
        return
            Find<DbException>(fault) is { IsTransient: true }
            || Find<NpgsqlException>(fault) is not null
            || Find<TimeoutException>(fault) is not null
            ? Away()
            : null;
    }

    private static Refusal Away() =>
        Storage(
            "away",
            "The database cannot be reached.",
            "Try again in a moment; tell the operator if it lasts."
        );

    private static Refusal Storage(string code, string sentence, string remedy) =>
        new("storage." + code, sentence + " Nothing was written.", remedy, RefusalSort.Unavailable);

    /// <summary>The fault of a sort that is at the bottom of another; null for none.</summary>
    public static T? Find<T>(Exception? fault)
        where T : Exception
    {
        for (; fault is not null; fault = fault.InnerException)
        {
            if (fault is T found)
                return found;
        }
        return null;
    }
}
