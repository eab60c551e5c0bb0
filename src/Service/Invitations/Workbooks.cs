using System.Globalization;
using System.IO.Compression;
using System.Xml;
using ComeAboard.Core;
using CsvHelper;
using MiniExcelLibs;

namespace ComeAboard.Service.Invitations;

/// <summary>Workbooks (XLSX), read as the table of their first sheet and bounded before they are unpacked.</summary>
internal static class Workbooks
{
    private const long LargestUnpacked = 256L * 1024 * 1024;

    // A list of people packs to a tenth; what packs to less than a two-hundredth is none.
    private const long LargestRatio = 200;
    private const long AlwaysBearable = 4L * 1024 * 1024;
    private const long MostCells = 25_000_000;
    private const int MostBlankRows = 10_000;
    private const int LongestCell = 4_000;
    private const int MostParts = 2_000;
    private static readonly XmlReaderSettings Plain = new()
    {
        DtdProcessing = DtdProcessing.Prohibit,
        XmlResolver = null,
    };

    /// <summary>
    /// The first sheet as CSV. A packed file can hold far more than its size says, so it is unpacked once into nothing,
    /// counting, before anything reads it.
    /// </summary>
    public static Outcome<byte[]> Unpack(byte[] content, CancellationToken cancellation)
    {
        try
        {
            if (!IsBearable(content))
                return Tables.Refuse(
                    "too-large",
                    "The spreadsheet unpacks to far more than a list of people needs.",
                    "Save the list alone as a new file, or as CSV."
                );
            if (IsWide(content))
                return Tables.TooWide;
            using var file = new MemoryStream(content, writable: false);
            return Tables.Write(RowsOf(file, cancellation), CsvInjection.None);
        }
        catch (Exception fault)
            when (fault
                    is InvalidDataException
                        or XmlException
                        or ArgumentException
                        or FormatException
                        or InvalidOperationException
                        or KeyNotFoundException
                        or NullReferenceException
                        or IndexOutOfRangeException
                        or OverflowException
                        or NotSupportedException
            )
        {
            return Tables.Refuse(
                "not-readable",
                "The file is not a spreadsheet that can be read.",
                "Save it again as XLSX or CSV."
            );
        }
    }

    /// <summary>The rows of the first sheet. Each is looked at before the next is made, and far below the last entry it ends.</summary>
    private static IEnumerable<IReadOnlyList<string>> RowsOf(Stream file, CancellationToken cancellation)
    {
        var (count, cells, blank) = (0, 0L, 0);
        foreach (IDictionary<string, object?> row in MiniExcel.Query(file))
        {
            cancellation.ThrowIfCancellationRequested();
            if (row.Count > Tables.MostColumns)
                throw new InvalidDataException($"It has more than {Tables.MostColumns} columns.");
            if ((cells += row.Count) > MostCells || ++count > Tables.MostRows + MostBlankRows)
                throw new InvalidDataException("It has too many cells.");
            string[] texts = [.. row.Values.Select(TextOf)];
            blank = Tables.IsBlank(texts) ? blank + 1 : 0;
            if (blank > MostBlankRows)
                yield break;
            yield return texts;
        }
    }

    /// <summary>
    /// Whether a row would have more cells than are read. Each row is made as wide as the sheet says it is, or as its farthest
    /// cell is, and one of all possible columns takes a second to make.
    /// </summary>
    private static bool IsWide(byte[] content)
    {
        try
        {
            using var file = new MemoryStream(content, writable: false);
            return MiniExcel.GetSheetDimensions(file)[0].Columns.EndIndex > Tables.MostColumns;
        }
        catch (ArgumentException)
        {
            // It does not say.
        }
        using var archive = new ZipArchive(new MemoryStream(content, writable: false));
        foreach (var part in archive.Entries)
        {
            if (!part.FullName.StartsWith("xl/worksheets/", StringComparison.OrdinalIgnoreCase))
                continue;
            using var unpacked = part.Open();
            using var cells = XmlReader.Create(unpacked, Plain);
            while (cells.Read())
            {
                if (
                    cells is { NodeType: XmlNodeType.Element, LocalName: "c" }
                    && ColumnOf(cells.GetAttribute("r")) > Tables.MostColumns
                )
                    return true;
            }
        }
        return false;
    }

    /// <summary>The number of the column of a cell such as <c>AB7</c>, from 1; 0 for what is none.</summary>
    private static int ColumnOf(string? cell) =>
        (cell ?? "")
            .TakeWhile(char.IsAsciiLetter)
            .Take(4)
            .Aggregate(0, (column, letter) => column * 26 + char.ToUpperInvariant(letter) - 'A' + 1);

    private static string TextOf(object? value) =>
        value switch
        {
            null => "",
            DateTime at => at.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
            _ => value.ToString() is { Length: > LongestCell } text
                ? text[..LongestCell]
                : value.ToString() ?? "",
        };

    private static bool IsBearable(byte[] content)
    {
        using var archive = new ZipArchive(new MemoryStream(content, writable: false));
        if (archive.Entries.Count > MostParts)
            return false;
        var sink = new byte[81_920];
        var left = Math.Min(LargestUnpacked, content.Length * LargestRatio + AlwaysBearable);
        foreach (var part in archive.Entries)
        {
            using var unpacked = part.Open();
            for (int read; (read = unpacked.Read(sink)) > 0; )
            {
                left -= read;
                if (left < 0)
                    return false;
            }
        }
        return true;
    }
}
