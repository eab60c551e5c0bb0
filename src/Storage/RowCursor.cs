using System.Buffers.Text;
using System.Data.Common;
using System.Globalization;
using System.Text;
using Microsoft.Data.Sqlite;
using Microsoft.EntityFrameworkCore;
using Npgsql;
using SQLitePCL;

namespace ComeAboard.Storage;

/// <summary>
/// The rows of a question one after another, their values by position: without the mapper in between, for what is read whole and may be a
/// million rows. The question selects its columns one by one, in the order in which they are asked for here.
/// </summary>
internal abstract class RowCursor : IAsyncDisposable
{
    private readonly ComeAboardContext _context;
    private readonly DbCommand _command;
    private readonly DbDataReader _reader;

    private RowCursor(ComeAboardContext context, DbCommand command, DbDataReader reader) =>
        (_context, _command, _reader) = (context, command, reader);

    /// <summary>Asks, within the transaction of a context where there is one.</summary>
    public static async Task<RowCursor> OpenAsync(ComeAboardContext context, IQueryable question)
    {
        await context.Database.OpenConnectionAsync();
        DbCommand? command = null;
        try
        {
            command = question.CreateDbCommand();
            if (command is NpgsqlCommand && Patience.For(context) is { } longest)
                command.CommandTimeout = Patience.Seconds(longest);
            var reader = await command.ExecuteReaderAsync();
            return reader is SqliteDataReader file
                ? new OfFile(context, command, file)
                : new OfServer(context, command, reader);
        }
        catch
        {
            if (command is not null)
                await command.DisposeAsync();
            await context.Database.CloseConnectionAsync();
            throw;
        }
    }

    /// <summary>Goes to the next row; false after the last.</summary>
    public virtual Task<bool> NextAsync() => _reader.ReadAsync();

    public abstract bool IsNull(int column);
    public abstract Guid Id(int column);
    public abstract DateOnly Day(int column);
    public abstract int Number(int column);
    public abstract bool Flag(int column);
    public abstract string Text(int column);

    /// <summary>A value that is kept as its name in lower case.</summary>
    public abstract T Word<T>(int column)
        where T : struct, Enum;

    public virtual Guid? IdOrNull(int column) => IsNull(column) ? null : Id(column);

    public virtual DateOnly? DayOrNull(int column) => IsNull(column) ? null : Day(column);

    public async ValueTask DisposeAsync()
    {
        await _reader.DisposeAsync();
        await _command.DisposeAsync();
        await _context.Database.CloseConnectionAsync();
    }

    private sealed class OfServer(ComeAboardContext context, DbCommand command, DbDataReader reader)
        : RowCursor(context, command, reader)
    {
        public override bool IsNull(int column) => _reader.IsDBNull(column);

        public override Guid Id(int column) => _reader.GetGuid(column);

        public override DateOnly Day(int column) => _reader.GetFieldValue<DateOnly>(column);

        public override int Number(int column) => _reader.GetInt32(column);

        public override bool Flag(int column) => _reader.GetBoolean(column);

        public override string Text(int column) => _reader.GetString(column);

        public override T Word<T>(int column) => WordConverter<T>.ValueOf(_reader.GetString(column));
    }

    /// <summary>Takes the bytes as they are in the file: the library's reader makes a text of each, and asks twice what it is.</summary>
    private sealed class OfFile(ComeAboardContext context, DbCommand command, SqliteDataReader reader)
        : RowCursor(context, command, reader)
    {
        private readonly sqlite3_stmt _statement = reader.Handle!;

        // The library does its work at once either way.
        public override Task<bool> NextAsync() => Task.FromResult(reader.Read());

        public override bool IsNull(int column) =>
            raw.sqlite3_column_type(_statement, column) == raw.SQLITE_NULL;

        public override Guid Id(int column) => IdOrNull(column) ?? throw Other(column);

        public override DateOnly Day(int column) => DayOrNull(column) ?? throw Other(column);

        // Where there is nothing there are no bytes.
        public override Guid? IdOrNull(int column)
        {
            var bytes = Bytes(column);
            return Utf8Parser.TryParse(bytes, out Guid id, out var read) && read == bytes.Length ? id
                : bytes.IsEmpty ? null
                : throw Other(column);
        }

        public override DateOnly? DayOrNull(int column)
        {
            var bytes = Bytes(column);
            return bytes.IsEmpty ? null
                : DateOnly.TryParseExact(
                    Encoding.ASCII.GetString(bytes),
                    "yyyy-MM-dd",
                    CultureInfo.InvariantCulture,
                    DateTimeStyles.None,
                    out var day
                )
                    ? day
                : throw Other(column);
        }

        public override int Number(int column) => raw.sqlite3_column_int(_statement, column);

        public override bool Flag(int column) => Number(column) != 0;

        public override string Text(int column) => Encoding.UTF8.GetString(Bytes(column));

        public override T Word<T>(int column) => WordConverter<T>.ValueOf(Bytes(column));

        private ReadOnlySpan<byte> Bytes(int column) => raw.sqlite3_column_blob(_statement, column);

        private InvalidDataException Other(int column) =>
            new($"{reader.GetName(column)} holds something of another kind.");
    }
}
