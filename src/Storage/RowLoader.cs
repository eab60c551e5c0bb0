using System.Collections.Concurrent;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace ComeAboard.Storage;

/// <summary>
/// Puts new rows in by the engine's fastest way – prepared inserts on SQLite, COPY or one round trip of inserts on
/// PostgreSQL – within the transaction of a context and by its own mapping. Rows put in so are not tracked.
/// </summary>
public static class RowLoader
{
    // Below so many, COPY costs more in conversation than it saves.
    private const int WorthCopying = 40;

    private static readonly ConcurrentDictionary<(Type Context, Type Row), Table> Tables = new();

    /// <summary>Puts rows of one type in.</summary>
    /// <exception cref="InvalidOperationException">A row belongs to another workspace than the entered one.</exception>
    public static async Task LoadAsync(ComeAboardContext context, Type type, IReadOnlyList<object> rows)
    {
        if (rows.OfType<ITenantRow>().Any(row => row.WorkspaceId != context.Workspace))
            throw new InvalidOperationException("A row of another workspace cannot be saved here.");
        await LoadOfAllAsync(context, type, rows);
    }

    /// <summary>The same for rows of whichever workspace, where everything is copied.</summary>
    internal static async Task LoadOfAllAsync(
        ComeAboardContext context,
        Type type,
        IReadOnlyList<object> rows
    )
    {
        if (rows.Count == 0)
            return;
        var table = Tables.GetOrAdd(
            (context.GetType(), type),
            _ => Table.Of(context.Model.FindEntityType(type)!)
        );
        context.HasWritten = true;
        var connection = context.Database.GetDbConnection();
        if (connection is not NpgsqlConnection postgres)
            await InsertAsync(context, table, rows);
        else if (rows.Count < WorthCopying)
            await InsertTogetherAsync(context, postgres, table, rows);
        else
            await CopyAsync(postgres, table, rows);
    }

    private static async Task InsertAsync(ComeAboardContext context, Table table, IReadOnlyList<object> rows)
    {
        await using var command = context.Database.GetDbConnection().CreateCommand();
        command.CommandText = table.Insert;
        command.Transaction = context.Database.CurrentTransaction?.GetDbTransaction();
        foreach (var column in table.Columns)
        {
            var parameter = command.CreateParameter();
            parameter.ParameterName = column.Parameter;
            command.Parameters.Add(parameter);
        }
        await command.PrepareAsync();
        foreach (var row in rows)
        {
            for (var i = 0; i < table.Columns.Count; i++)
                command.Parameters[i].Value = table.Columns[i].ValueOf(row) ?? DBNull.Value;
            // Microsoft.Data.Sqlite does its work at once either way.
            command.ExecuteNonQuery();
        }
    }

    private static async Task InsertTogetherAsync(
        ComeAboardContext context,
        NpgsqlConnection connection,
        Table table,
        IReadOnlyList<object> rows
    )
    {
        await using var batch = new NpgsqlBatch(
            connection,
            (NpgsqlTransaction?)context.Database.CurrentTransaction?.GetDbTransaction()
        );
        foreach (var row in rows)
        {
            var command = new NpgsqlBatchCommand(table.Insert);
            foreach (var column in table.Columns)
                command.Parameters.Add(
                    new NpgsqlParameter(column.Parameter, column.ValueOf(row) ?? DBNull.Value)
                    {
                        DataTypeName = column.Type,
                    }
                );
            batch.BatchCommands.Add(command);
        }
        await batch.ExecuteNonQueryAsync();
    }

    private static async Task CopyAsync(NpgsqlConnection connection, Table table, IReadOnlyList<object> rows)
    {
        await using var copy = await connection.BeginBinaryImportAsync(table.Copy);
        foreach (var row in rows)
        {
            await copy.StartRowAsync();
            foreach (var column in table.Columns)
            {
                if (column.ValueOf(row) is { } value)
                    await copy.WriteAsync(value, column.Type);
                else
                    await copy.WriteNullAsync();
            }
        }
        await copy.CompleteAsync();
    }

    private sealed record Column(string Name, string Parameter, string Type, Func<object, object?> ValueOf);

    private sealed record Table(string Insert, string Copy, IReadOnlyList<Column> Columns)
    {
        public static Table Of(IEntityType type)
        {
            var store = StoreObjectIdentifier.Create(type, StoreObjectType.Table)!.Value;
            var columns = type.GetProperties().Select((property, i) => ColumnOf(property, store, i)).ToList();
            var names = string.Join(", ", columns.Select(c => c.Name));
            var parameters = string.Join(", ", columns.Select(c => c.Parameter));
            return new Table(
                $"INSERT INTO {store.Name} ({names}) VALUES ({parameters})",
                $"COPY {store.Name} ({names}) FROM STDIN (FORMAT BINARY)",
                columns
            );
        }

        private static Column ColumnOf(IProperty property, in StoreObjectIdentifier store, int index)
        {
            var mapping = property.GetRelationalTypeMapping();
            var getter = property.GetGetter();
            var converter = mapping.Converter;
            Func<object, object?> valueOf = converter is null
                ? row => getter.GetClrValue(row)
                : row => getter.GetClrValue(row) is { } value ? converter.ConvertToProvider(value) : null;
            return new Column(
                $"\"{property.GetColumnName(store)}\"",
                $"@p{index}",
                mapping.StoreTypeNameBase,
                valueOf
            );
        }
    }
}
