using System.Globalization;
using System.IO.Compression;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using CsvHelper;
using MiniExcelLibs;

namespace ComeAboard.Service.Invitations;

/// <summary>A list of people as it was handed in: its headings understood, its rows to be read one after another.</summary>
/// <param name="Sheet">The headings.</param>
/// <param name="Csv">The rows, headings included, as CSV in UTF-8.</param>
/// <param name="Count">How many rows there are below the headings.</param>
public sealed record Table(Sheet Sheet, byte[] Csv, int Count)
{
    /// <summary>The rows below the headings, in order.</summary>
    public IEnumerable<IReadOnlyList<string>> Rows()
    {
        using var reader = Tables.Open(Csv);
        reader.ReadHeader();
        while (reader.Read())
        {
            var cells = Tables.CellsOf(reader);
            if (!Tables.IsBlank(cells))
                yield return cells;
        }
    }
}

/// <summary>Reading CSV (RFC 4180) and XLSX (ISO/IEC 29500) into one form, and writing them.</summary>
public static class Tables
{
    /// <summary>Largest file taken, in bytes, inclusive.</summary>
    public const int LargestFile = 64 * 1024 * 1024;

    /// <summary>Most rows taken, inclusive.</summary>
    public const int MostRows = 1_000_000;

    private const long LargestUnpacked = 512L * 1024 * 1024;
    private const int MostParts = 2_000;
    private const int LongestRow = 64 * 1024;

    /// <summary>Reads a file that was handed in; what it is, is seen from its first bytes.</summary>
    /// <returns>The table, or <c>file.empty</c>, <c>file.not-readable</c>, <c>file.too-large</c>, <c>sheet.…</c>.</returns>
    public static Outcome<Table> Read(byte[] content)
    {
        if (content.Length == 0)
            return Refuse("empty", "The file is empty.", "Choose another file.");
        if (content.Length > LargestFile)
            return Refuse(
                "too-large",
                $"The file is larger than {LargestFile / 1024 / 1024} MB.",
                "Split it."
            );
        if (!IsXlsx(content))
            return ReadCsv(ToUtf8(content));
        return Unpack(content).Try(out var csv, out var refusal) ? ReadCsv(csv) : refusal;
    }

    /// <summary>Whether the bytes are those of a packed spreadsheet.</summary>
    public static bool IsXlsx(byte[] content) => content is [(byte)'P', (byte)'K', 3, 4, ..];

    /// <summary>A pasted list in the same form.</summary>
    public static Outcome<Table> ReadPasted(string text)
    {
        if (!PastedList.Read(text).Try(out var entries, out var refusal))
            return refusal;
        if (entries.Count == 0)
            return Refuse("empty", "Nothing was pasted.", "Paste mail addresses, with or without names.");
        return ReadCsv(
            Write(
                [
                    ["Address"],
                    .. entries.Select(entry => (IReadOnlyList<string>)[entry.ToString()]),
                ],
                CsvInjection.None
            )
        );
    }

    /// <summary>Writes rows as CSV for people: what a spreadsheet would take for a formula is made plain text.</summary>
    public static byte[] Export(IEnumerable<IReadOnlyList<string>> rows) =>
        [.. Encoding.UTF8.Preamble, .. Write(rows, CsvInjection.Escape)];

    /// <summary>An empty list with all headings, as CSV.</summary>
    public static byte[] TemplateCsv(string language) => Export([HeadingsIn(language)]);

    /// <summary>An empty list with all headings, as XLSX.</summary>
    public static byte[] TemplateXlsx(string language)
    {
        using var file = new MemoryStream();
        MiniExcel.SaveAs(
            file,
            new[] { HeadingsIn(language).ToDictionary(heading => heading, _ => (object)"") },
            sheetName: language == "de" ? "Einladungen" : "Invitations"
        );
        return file.ToArray();
    }

    internal static CsvReader Open(byte[] csv) =>
        CsvReader.Create(
            csv,
            new CsvReaderOptions
            {
                Separator = SeparatorOf(csv),
                HasHeader = true,
                SkipEmptyLines = true,
                MaxRecordSize = LongestRow,
            }
        );

    internal static string[] CellsOf(CsvReader reader)
    {
        var cells = new string[reader.FieldCount];
        for (var i = 0; i < cells.Length; i++)
            cells[i] = reader.GetString(i);
        return cells;
    }

    /// <summary>Whether nothing stands in a row, as below the last entry of many a spreadsheet.</summary>
    internal static bool IsBlank(string[] cells) => cells.All(string.IsNullOrWhiteSpace);

    private static List<string> HeadingsIn(string language) =>
        // The full name and its two parts are three ways to say one thing; a template asks for it once.
        [
            .. Sheet
                .Headings.Where(h => h.Key is not SheetColumn.Name)
                .Select(h => language == "de" ? h.Value.German : h.Value.English),
        ];

    private static Outcome<Table> ReadCsv(byte[] csv)
    {
        try
        {
            using var reader = Open(csv);
            reader.ReadHeader();
            if (!Sheet.Read([.. reader.Headers ?? []]).Try(out var sheet, out var refusal))
                return refusal;
            var count = 0;
            while (reader.Read())
            {
                if (!IsBlank(CellsOf(reader)) && ++count > MostRows)
                    return Refuse("too-large", $"The file has more than {MostRows} rows.", "Split it.");
            }
            return count == 0
                ? Refuse("empty", "The file has headings and no rows.", "Fill it in, or choose another file.")
                : new Table(sheet, csv, count);
        }
        catch (CsvFormatException fault)
        {
            return Refuse(
                "not-readable",
                $"The file cannot be read as CSV: {fault.Message}",
                "Save it again as CSV in UTF-8."
            );
        }
    }

    private static byte[] Write(IEnumerable<IReadOnlyList<string>> rows, CsvInjection injection)
    {
        using var file = new MemoryStream();
        using (var writer = CsvWriter.Create(file, new CsvWriterOptions { Injection = injection }, true))
        {
            foreach (var row in rows)
                writer.WriteRecord([.. row]);
        }
        return file.ToArray();
    }

    /// <summary>The separator that stands most often in the first line, outside quotes.</summary>
    private static char SeparatorOf(byte[] csv)
    {
        var (commas, semicolons, tabs, quoted) = (0, 0, 0, false);
        foreach (var sign in csv)
        {
            if (sign == '"')
                quoted = !quoted;
            if (quoted)
                continue;
            if (sign is (byte)'\n' or (byte)'\r' && commas + semicolons + tabs > 0)
                break;
            commas += sign == ',' ? 1 : 0;
            semicolons += sign == ';' ? 1 : 0;
            tabs += sign == '\t' ? 1 : 0;
            if (sign == '\n')
                break;
        }
        return semicolons > commas && semicolons >= tabs ? ';'
            : tabs > commas ? '\t'
            : ',';
    }

    /// <summary>Spreadsheets write CSV in UTF-8, in UTF-16 with a mark, or in the old Western code.</summary>
    private static byte[] ToUtf8(byte[] content)
    {
        if (content.AsSpan().StartsWith(Encoding.UTF8.Preamble))
            return content[3..];
        if (content is [0xFF, 0xFE, ..])
            return Encoding.Convert(Encoding.Unicode, Encoding.UTF8, content[2..]);
        if (content is [0xFE, 0xFF, ..])
            return Encoding.Convert(Encoding.BigEndianUnicode, Encoding.UTF8, content[2..]);
        return System.Text.Unicode.Utf8.IsValid(content)
            ? content
            : Encoding.Convert(Encoding.Latin1, Encoding.UTF8, content);
    }

    /// <summary>
    /// The first sheet as CSV. A packed file can hold far more than its size says, so it is unpacked once into nothing,
    /// counting, before anything reads it.
    /// </summary>
    private static Outcome<byte[]> Unpack(byte[] content)
    {
        try
        {
            if (!IsBearable(content))
                return Refuse(
                    "too-large",
                    "The spreadsheet unpacks to far more than a list of people needs.",
                    "Save the list alone as a new file, or as CSV."
                );
            using var file = new MemoryStream(content, writable: false);
            return Write(RowsOf(file), CsvInjection.None);
        }
        catch (Exception fault)
            when (fault
                    is InvalidDataException
                        or System.Xml.XmlException
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
            return Refuse(
                "not-readable",
                "The file is not a spreadsheet that can be read.",
                "Save it again as XLSX or CSV."
            );
        }
    }

    private static IEnumerable<IReadOnlyList<string>> RowsOf(Stream file)
    {
        var count = 0;
        foreach (IDictionary<string, object?> row in MiniExcel.Query(file))
        {
            if (++count > MostRows + 1)
                throw new InvalidDataException("Too many rows.");
            yield return [.. row.Values.Select(TextOf)];
        }
    }

    private static string TextOf(object? value) =>
        value switch
        {
            null => "",
            DateTime at => at.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
            IFormattable text => text.ToString(null, CultureInfo.InvariantCulture),
            _ => value.ToString() ?? "",
        };

    private static bool IsBearable(byte[] content)
    {
        using var archive = new ZipArchive(new MemoryStream(content, writable: false));
        if (archive.Entries.Count > MostParts)
            return false;
        var sink = new byte[81_920];
        var left = LargestUnpacked;
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

    private static Refusal Refuse(string code, string sentence, string remedy) =>
        new("file." + code, sentence, remedy, Field: "file");
}
