using System.Globalization;
using System.IO.Compression;
using System.Xml;
using System.Xml.Linq;
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
            if (IsWide(content, cancellation))
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
    /// Whether a row of the first sheet would have more cells than are read. Each row is made as wide as the sheet says it is, or
    /// as its farthest cell is, and one of all possible columns takes seconds to make.
    /// </summary>
    private static bool IsWide(byte[] content, CancellationToken cancellation)
    {
        using var archive = new ZipArchive(new MemoryStream(content, writable: false));
        var end = FirstSheetOf(archive);
        List<ZipArchiveEntry> sheets =
        [
            .. archive.Entries.Where(part =>
                part.FullName.StartsWith("xl/worksheets/", StringComparison.OrdinalIgnoreCase)
                && part.FullName.EndsWith(".xml", StringComparison.OrdinalIgnoreCase)
            ),
        ];
        var first = sheets.FindAll(part => part.FullName.EndsWith(end, StringComparison.OrdinalIgnoreCase));
        // Where the workbook leads to none of them, whichever is read must not be wide.
        foreach (var part in first.Count > 0 ? first : sheets)
        {
            using var unpacked = part.Open();
            using var sheet = XmlReader.Create(unpacked, Plain);
            while (sheet.Read())
            {
                if (sheet.NodeType != XmlNodeType.Element)
                    continue;
                cancellation.ThrowIfCancellationRequested();
                var cell = sheet.LocalName switch
                {
                    "c" => sheet.GetAttribute("r"),
                    "dimension" => sheet.GetAttribute("ref")?.Split(':')[^1],
                    _ => null,
                };
                if (ColumnOf(cell) > Tables.MostColumns)
                    return true;
            }
        }
        return false;
    }

    /// <summary>How the name of the first sheet's part ends; where the workbook does not say, as that of every sheet does.</summary>
    private static string FirstSheetOf(ZipArchive archive)
    {
        var id = PartOf("xl/workbook.xml")
            ?.Descendants()
            .FirstOrDefault(element => element.Name.LocalName == "sheet")
            ?.Attributes()
            .FirstOrDefault(attribute => attribute.Name.LocalName == "id")
            ?.Value;
        var target = PartOf("xl/_rels/workbook.xml.rels")
            ?.Descendants()
            .FirstOrDefault(element => id is not null && (string?)element.Attribute("Id") == id)
            ?.Attribute("Target")
            ?.Value;
        return target is null ? ".xml" : "/" + target.Split('/')[^1];

        XDocument? PartOf(string name)
        {
            if (archive.GetEntry(name) is not { } part)
                return null;
            using var unpacked = part.Open();
            using var reader = XmlReader.Create(unpacked, Plain);
            return XDocument.Load(reader);
        }
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
