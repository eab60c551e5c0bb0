using System.Data.Common;
using System.Runtime.CompilerServices;
using Microsoft.Data.Sqlite;

namespace ComeAboard.Storage;

/// <summary>
/// How many pages of the file a connection keeps in memory. Many rows put in at once touch so many that with few of them kept they would
/// be written and read several times before they are committed; one connection does that at a time, mostly the same. All others stay small: there are
/// as many as callers at once, and the system keeps the file's pages for all of them.
/// </summary>
internal static class FileCache
{
    private const string Small = "PRAGMA cache_size=-8192";

    private const string Large = "PRAGMA cache_size=-32768";

    private static readonly ConditionalWeakTable<object, object> Grown = [];

    /// <summary>For a new connection.</summary>
    public static void Begin(DbConnection connection) => Set(connection, Small);

    /// <summary>For many rows, and from then on: those of one list go on where the last of them ended, and what was let go of would be read again. Other engines know no such thing.</summary>
    public static void Grow(DbConnection connection)
    {
        if (connection is SqliteConnection { Handle: { } handle } && Grown.TryAdd(handle, handle))
            Set(connection, Large);
    }

    private static void Set(DbConnection connection, string size)
    {
        using var command = connection.CreateCommand();
        command.CommandText = size;
        command.ExecuteNonQuery();
    }
}
