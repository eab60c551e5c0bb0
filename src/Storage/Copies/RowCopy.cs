using System.Reflection;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata;

namespace ComeAboard.Storage.Copies;

/// <summary>Copies every row of one database into another of the same schema, from either engine to either.</summary>
internal static class RowCopy
{
    private const int Lot = 2000;

    private static readonly MethodInfo OneTable = typeof(RowCopy).GetMethod(
        nameof(CopyTableAsync),
        BindingFlags.NonPublic | BindingFlags.Static
    )!;

    /// <summary>Copies within the transactions of both contexts.</summary>
    /// <param name="from">Read from, of one moment.</param>
    /// <param name="to">Written to; its tables are empty.</param>
    /// <param name="progress">Told how many rows are copied so far.</param>
    /// <param name="cancellation">Breaks it off.</param>
    public static async Task CopyAsync(
        ComeAboardContext from,
        ComeAboardContext to,
        Action<long>? progress,
        CancellationToken cancellation
    )
    {
        long copied = 0;
        foreach (var type in InOrder(from.Model))
        {
            var table =
                (Task<long>)
                    OneTable
                        .MakeGenericMethod(type.ClrType)
                        .Invoke(
                            null,
                            [from, to, (long rows) => progress?.Invoke(copied + rows), cancellation]
                        )!;
            copied += await table;
        }
        if (to.Database.IsNpgsql())
            await GoOnNumberingAsync(to, cancellation);
    }

    private static async Task<long> CopyTableAsync<T>(
        ComeAboardContext from,
        ComeAboardContext to,
        Action<long> progress,
        CancellationToken cancellation
    )
        where T : class
    {
        long copied = 0;
        await foreach (
            var lot in from.Set<T>()
                .AsNoTracking()
                .IgnoreQueryFilters()
                .AsAsyncEnumerable()
                .Chunk(Lot)
                .WithCancellation(cancellation)
        )
        {
            await RowLoader.LoadOfAllAsync(to, typeof(T), lot);
            progress(copied += lot.Length);
        }
        return copied;
    }

    // What refers to a table comes after it.
    private static List<IEntityType> InOrder(IModel model)
    {
        var ordered = new List<IEntityType>();
        foreach (var type in model.GetEntityTypes())
            Add(type);
        return ordered;

        void Add(IEntityType type)
        {
            if (ordered.Contains(type))
                return;
            foreach (var key in type.GetForeignKeys().Where(key => key.PrincipalEntityType != type))
                Add(key.PrincipalEntityType);
            ordered.Add(type);
        }
    }

    private static async Task GoOnNumberingAsync(ComeAboardContext to, CancellationToken cancellation) =>
        await to.Database.ExecuteSqlRawAsync(
            """
            SELECT setval(pg_get_serial_sequence('protection_keys', 'id'), (SELECT max(id) FROM protection_keys))
            WHERE EXISTS (SELECT 1 FROM protection_keys)
            """,
            cancellation
        );
}
