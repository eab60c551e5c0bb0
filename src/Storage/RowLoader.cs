using System.Collections.Concurrent;
using System.Reflection;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;
using Microsoft.EntityFrameworkCore.Storage;
using Npgsql;

namespace ComeAboard.Storage;

/// <summary>
/// Puts new rows in by the engine's fastest way – prepared inserts on SQLite, COPY or one round trip of inserts on
/// PostgreSQL – and writes changed ones anew by prepared updates, within the transaction of a context and by its own mapping.
/// Such rows are not tracked.
/// </summary>
public static class RowLoader
{
    // Below so many, COPY costs more in conversation than it saves.
    private const int WorthCopying = 40;

    // Fewer than these touch few pages of a file.
    private const int Many = 100;

    private static readonly ConcurrentDictionary<(Type Context, Type Row), Table> Tables = new();
    private static readonly ConcurrentDictionary<
        (Type Context, Type Row, string Properties),
        Statement
    > Updates = new();

    /// <summary>Puts rows of one type in.</summary>
    /// <exception cref="InvalidOperationException">A row belongs to another workspace than the entered one.</exception>
    public static async Task LoadAsync(ComeAboardContext context, Type type, IReadOnlyList<object> rows)
    {
        RequireOwn(context, rows);
        await LoadOfAllAsync(context, type, rows);
    }

    /// <summary>Writes some properties of rows of one type that are there already.</summary>
    /// <param name="context">The context, with the transaction.</param>
    /// <param name="type">The type of the rows.</param>
    /// <param name="rows">The rows as they are to be.</param>
    /// <param name="properties">The names of the properties that are written; all others stay.</param>
    /// <exception cref="InvalidOperationException">A row belongs to another workspace than the entered one.</exception>
    public static async Task UpdateAsync(
        ComeAboardContext context,
        Type type,
        IReadOnlyList<object> rows,
        IReadOnlyList<string> properties
    )
    {
        RequireOwn(context, rows);
        if (rows.Count == 0)
            return;
        var update = Updates.GetOrAdd(
            (context.GetType(), type, string.Join(',', properties)),
            _ => Table.Of(context.Model.FindEntityType(type)!).Update(properties)
        );
        context.HasWritten = true;
        if (context.Database.GetDbConnection() is NpgsqlConnection postgres)
            await RunTogetherAsync(context, postgres, update, rows);
        else
            await RunEachAsync(context, update, rows);
    }

    private static void RequireOwn(ComeAboardContext context, IReadOnlyList<object> rows)
    {
        if (rows.OfType<ITenantRow>().Any(row => row.WorkspaceId != context.Workspace))
            throw new InvalidOperationException("A row of another workspace cannot be saved here.");
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
            await RunEachAsync(context, table.Insert, rows);
        else if (rows.Count < WorthCopying)
            await RunTogetherAsync(context, postgres, table.Insert, rows);
        else
            await CopyAsync(context, postgres, table, rows);
    }

    private static async Task RunEachAsync(
        ComeAboardContext context,
        Statement statement,
        IReadOnlyList<object> rows
    )
    {
        if (rows.Count >= Many)
            FileCache.Grow(context.Database.GetDbConnection());
        await using var command = context.Database.GetDbConnection().CreateCommand();
        command.CommandText = statement.Sql;
        command.Transaction = context.Database.CurrentTransaction?.GetDbTransaction();
        foreach (var column in statement.Columns)
        {
            var parameter = command.CreateParameter();
            parameter.ParameterName = column.Parameter;
            command.Parameters.Add(parameter);
        }
        await command.PrepareAsync();
        foreach (var row in rows)
        {
            for (var i = 0; i < statement.Columns.Count; i++)
                command.Parameters[i].Value = statement.Columns[i].ValueOf(row) ?? DBNull.Value;
            // Microsoft.Data.Sqlite does its work at once either way.
            command.ExecuteNonQuery();
        }
    }

    private static async Task RunTogetherAsync(
        ComeAboardContext context,
        NpgsqlConnection connection,
        Statement statement,
        IReadOnlyList<object> rows
    )
    {
        await using var batch = new NpgsqlBatch(
            connection,
            (NpgsqlTransaction?)context.Database.CurrentTransaction?.GetDbTransaction()
        );
        if (Patience.For(context) is { } longest)
            batch.Timeout = Patience.Seconds(longest);
        foreach (var row in rows)
        {
            var command = new NpgsqlBatchCommand(statement.Sql);
            foreach (var column in statement.Columns)
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

    private static async Task CopyAsync(
        ComeAboardContext context,
        NpgsqlConnection connection,
        Table table,
        IReadOnlyList<object> rows
    )
    {
        NpgsqlBinaryImporter? began = null;
        await Patience.BoundAsync(
            context,
            async stop => began = await connection.BeginBinaryImportAsync(table.Copy, stop)
        );
        await using var copy = began!;
        if (Patience.For(context) is { } longest)
            copy.Timeout = longest;
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

    private sealed record Column(
        string Property,
        string Name,
        string Parameter,
        string Type,
        bool IsKey,
        Func<object, object?> ValueOf
    );

    /// <summary>What is run for each row, and the columns whose values it takes.</summary>
    private sealed record Statement(string Sql, IReadOnlyList<Column> Columns);

    private sealed record Table(string Name, Statement Insert, string Copy, IReadOnlyList<Column> Columns)
    {
        public Statement Update(IReadOnlyList<string> properties)
        {
            var (set, keys) = (
                properties.Select(name => Columns.Single(column => column.Property == name)).ToList(),
                Columns.Where(column => column.IsKey).ToList()
            );
            return new Statement(
                $"UPDATE {Name} SET {Pairs(set, ", ")} WHERE {Pairs(keys, " AND ")}",
                [.. set, .. keys]
            );

            static string Pairs(List<Column> columns, string between) =>
                string.Join(between, columns.Select(column => $"{column.Name} = {column.Parameter}"));
        }

        public static Table Of(IEntityType type)
        {
            var store = StoreObjectIdentifier.Create(type, StoreObjectType.Table)!.Value;
            var columns = type.GetProperties().Select((property, i) => ColumnOf(property, store, i)).ToList();
            var names = string.Join(", ", columns.Select(c => c.Name));
            var parameters = string.Join(", ", columns.Select(c => c.Parameter));
            return new Table(
                store.Name,
                new Statement($"INSERT INTO {store.Name} ({names}) VALUES ({parameters})", columns),
                $"COPY {store.Name} ({names}) FROM STDIN (FORMAT BINARY)",
                columns
            );
        }

        private static Column ColumnOf(IProperty property, in StoreObjectIdentifier store, int index)
        {
            var mapping = property.GetRelationalTypeMapping();
            var read = Reading.Of(property.PropertyInfo!);
            var converter = mapping.Converter;
            Func<object, object?> valueOf = converter is null
                ? read
                : row => read(row) is { } value ? converter.ConvertToProvider(value) : null;
            return new Column(
                property.Name,
                $"\"{property.GetColumnName(store)}\"",
                $"@p{index}",
                mapping.StoreTypeNameBase,
                property.IsPrimaryKey(),
                valueOf
            );
        }
    }

    /// <summary>Reads a property of rows. The mapper's own way compiles four pieces of code for each; this one none.</summary>
    private static class Reading
    {
        private static readonly MethodInfo Typed = typeof(Reading).GetMethod(
            nameof(OfTyped),
            BindingFlags.NonPublic | BindingFlags.Static
        )!;

        public static Func<object, object?> Of(PropertyInfo property) =>
            Typed
                .MakeGenericMethod(property.DeclaringType!, property.PropertyType)
                .CreateDelegate<Func<MethodInfo, Func<object, object?>>>()(property.GetMethod!);

        private static Func<object, object?> OfTyped<TRow, TValue>(MethodInfo get)
            where TRow : class
        {
            var read = get.CreateDelegate<Func<TRow, TValue>>();
            return row => read((TRow)row);
        }
    }
}
