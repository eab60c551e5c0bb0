using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using CsvHelper;

namespace ComeAboard.Service.Invitations;

/// <summary>The rows of what was handed in for a batch, one after another; how many there are makes no difference to the memory it takes.</summary>
public sealed class BatchSheet : IAsyncDisposable
{
    private readonly CsvReader _rows;

    private BatchSheet(CsvReader rows, Sheet sheet) => (_rows, Sheet) = (rows, sheet);

    /// <summary>The headings.</summary>
    public Sheet Sheet { get; }

    /// <summary>Opens what was handed in; null when it is no longer there.</summary>
    public static async Task<BatchSheet?> OpenAsync(
        Database database,
        Guid workspace,
        Guid batch,
        CancellationToken stop
    )
    {
        var first = new byte[Tables.LongestRow];
        await using (var csv = new BatchParts(database, workspace, batch))
            first = first[..await csv.ReadAtLeastAsync(first, first.Length, throwOnEndOfStream: false, stop)];
        if (first.Length == 0)
            return null;
        var rows = Tables.Open(new BatchParts(database, workspace, batch), SheetHeadings.SeparatorOf(first));
        await rows.ReadHeaderAsync(stop);
        if (Sheet.Read([.. rows.Headers ?? []]).Try(out var sheet, out _))
            return new BatchSheet(rows, sheet);
        await rows.DisposeAsync();
        return null;
    }

    /// <summary>The cells of the next row that is not blank; null after the last.</summary>
    public async ValueTask<IReadOnlyList<string>?> NextAsync(CancellationToken stop)
    {
        while (await _rows.ReadAsync(stop))
        {
            var cells = Tables.CellsOf(_rows);
            if (!Tables.IsBlank(cells))
                return cells;
        }
        return null;
    }

    /// <inheritdoc/>
    public ValueTask DisposeAsync() => _rows.DisposeAsync();
}
