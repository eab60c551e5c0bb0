using System.Globalization;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service;

/// <summary>Which page of a list is asked for.</summary>
/// <param name="Cursor">The cursor of the page before; absent for the first.</param>
/// <param name="Limit">At most so many, 1 to 200; 50 when absent.</param>
public readonly record struct Paging(
    [property: FromQuery(Name = "cursor")] string? Cursor,
    [property: FromQuery(Name = "limit")] int? Limit
)
{
    /// <summary>The largest page of a list.</summary>
    public const int Largest = 200;

    /// <summary>How many are answered at most.</summary>
    public int Size => Math.Clamp(Limit ?? 50, 1, Largest);

    /// <summary>The place in the list after which the page begins; refuses with <c>cursor.malformed</c>.</summary>
    /// <param name="start">The place before the first.</param>
    public Outcome<T> After<T>(T start)
        where T : IParsable<T> =>
        Cursor is not { Length: > 0 } ? start
        : T.TryParse(Cursor, CultureInfo.InvariantCulture, out var place) ? place
        : Keysets.BadCursor;
}

/// <summary>Pages of lists by keyset: a page costs the same wherever it is, and nobody is listed twice or left out.</summary>
public static class Keysets
{
    /// <summary>For a cursor that no page of the list gave out.</summary>
    public static Refusal BadCursor { get; } =
        new(
            "cursor.malformed",
            "The cursor is not one of this list.",
            "Start from the first page.",
            Field: "cursor"
        );

    /// <summary>A page of rows, newest first.</summary>
    public static async Task<Outcome<Page<TView>>> PageAsync<TRow, TView>(
        this IQueryable<TRow> rows,
        Paging paging,
        Func<IReadOnlyList<TRow>, Task<IReadOnlyList<TView>>> views
    )
        where TRow : class, IListedRow
    {
        if (paging.Cursor is { Length: > 0 })
        {
            if (!paging.After(Guid.Empty).Try(out var after, out var refusal))
                return refusal;
            rows = rows.Where(row => row.Id.CompareTo(after) < 0);
        }
        var found = await rows.OrderByDescending(row => row.Id).Take(paging.Size + 1).ToListAsync();
        return await found.PageAsync(paging, row => row.Id.ToString("N"), views);
    }

    /// <summary>All rows newest first, lot by lot: however many, only a lot of them is held.</summary>
    public static async IAsyncEnumerable<IReadOnlyList<TRow>> LotsAsync<TRow>(this IQueryable<TRow> rows)
        where TRow : class, IListedRow
    {
        const int lot = 500;
        var found = await rows.OrderByDescending(row => row.Id).Take(lot).ToListAsync();
        while (found.Count > 0)
        {
            yield return found;
            var last = found[^1].Id;
            found = await rows.Where(row => row.Id.CompareTo(last) < 0)
                .OrderByDescending(row => row.Id)
                .Take(lot)
                .ToListAsync();
        }
    }

    /// <summary>A page of what was read in any other order, up to one more than the page holds.</summary>
    /// <param name="found">What was read after the cursor.</param>
    /// <param name="paging">Which page.</param>
    /// <param name="cursorOf">The place of one in the list.</param>
    /// <param name="views">What is answered of some.</param>
    public static async Task<Page<TView>> PageAsync<TRow, TView>(
        this IReadOnlyList<TRow> found,
        Paging paging,
        Func<TRow, string> cursorOf,
        Func<IReadOnlyList<TRow>, Task<IReadOnlyList<TView>>> views
    )
    {
        var isLast = found.Count <= paging.Size;
        IReadOnlyList<TRow> page = isLast ? found : [.. found.Take(paging.Size)];
        return new Page<TView>(await views(page), isLast ? null : cursorOf(page[^1]));
    }
}
