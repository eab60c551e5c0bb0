using System.IO.Compression;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using CsvHelper;
using MiniExcelLibs;

namespace ComeAboard.Service.Invitations;

/// <summary>A list of people as it was handed in: its headings understood, its rows to be read one after another.</summary>
/// <param name="Sheet">The headings.</param>
/// <param name="Open">The rows, headings included, as CSV in UTF-8, from their beginning each time; one after another.</param>
/// <param name="Count">How many rows there are below the headings.</param>
/// <param name="Encoding">How its letters were written: <c>UTF-8</c>, <c>UTF-16</c>, <c>Windows-1252</c>; null where nobody asks.</param>
public sealed record Table(Sheet Sheet, Func<Stream> Open, int Count, string? Encoding = null)
{
    /// <summary>The rows below the headings, in order.</summary>
    public IEnumerable<IReadOnlyList<string>> Rows() => Tables.RowsOf(Open);
}

/// <summary>A table of whose headings nothing is known as yet.</summary>
/// <param name="Headings">The headings, as they are written.</param>
/// <param name="Open">The rows, headings included, as CSV in UTF-8, from their beginning each time; one after another.</param>
public sealed record UnreadTable(IReadOnlyList<string> Headings, Func<Stream> Open)
{
    /// <summary>The rows below the headings, in order.</summary>
    public IEnumerable<IReadOnlyList<string>> Rows() => Tables.RowsOf(Open);
}

/// <summary>Reading CSV (RFC 4180) and XLSX (ISO/IEC 29500) into one form, and writing them.</summary>
public static class Tables
{
    /// <summary>Largest file taken, in bytes, inclusive.</summary>
    public const int LargestFile = 64 * 1024 * 1024;

    /// <summary>Most rows taken, inclusive.</summary>
    public const int MostRows = 1_000_000;

    /// <summary>Most columns taken, inclusive.</summary>
    public const int MostColumns = 200;

    /// <summary>Longest row taken, in bytes of UTF-8, inclusive.</summary>
    public const int LongestRow = 64 * 1024;

    /// <summary>Reads a file that was handed in; what it is, is seen from its first bytes.</summary>
    /// <param name="open">The file, from its beginning each time; one after another.</param>
    /// <param name="length">How long it is, in bytes.</param>
    /// <param name="cancellation">Ends the reading.</param>
    /// <returns>The table, or <c>file.empty</c>, <c>file.not-readable</c>, <c>file.too-large</c>, <c>sheet.…</c>.</returns>
    public static Outcome<Table> Read(
        Func<Stream> open,
        long length,
        CancellationToken cancellation = default
    ) =>
        TextOf(open, length, cancellation).Try(out var text, out var refusal)
            ? ReadCsv(text.Open, cancellation).Then(table => table with { Encoding = text.Encoding })
            : refusal;

    /// <summary>Reads a file without asking what its headings mean; refuses with <c>file.…</c>.</summary>
    public static Outcome<UnreadTable> Unread(byte[] content, CancellationToken cancellation) =>
        TextOf(() => new MemoryStream(content, writable: false), content.Length, cancellation)
            .Try(out var text, out var refusal)
            ? HeadingsOf(text.Open)
            : refusal;

    /// <summary>A file as CSV in UTF-8 whose quotation marks are all closed, and how its letters were written where it is text.</summary>
    private static Outcome<(Func<Stream> Open, string? Encoding)> TextOf(
        Func<Stream> open,
        long length,
        CancellationToken cancellation
    )
    {
        if (length == 0)
            return Refuse("empty", "The file is empty.", "Choose another file.");
        if (length > LargestFile)
            return TooLarge;
        if (!IsXlsx(open))
        {
            var encoding = Encodings.Of(open);
            return (WithoutOpenQuotes(() => encoding.ToUtf8(open())), encoding.Name);
        }
        using var file = new MemoryStream((int)length);
        using (var content = open())
            content.CopyTo(file);
        return Workbooks
            .Unpack(file.ToArray(), cancellation)
            .Then<(Func<Stream>, string?)>(csv => (() => new MemoryStream(csv, writable: false), null));
    }

    private static Func<Stream> WithoutOpenQuotes(Func<Stream> csv)
    {
        var separator = SeparatorOf(csv);
        return () => new OpenQuotes(csv(), separator);
    }

    private static char SeparatorOf(Func<Stream> csv)
    {
        var first = new byte[LongestRow];
        using var text = csv();
        return SheetHeadings.SeparatorOf(
            first.AsSpan(0, text.ReadAtLeast(first, first.Length, throwOnEndOfStream: false))
        );
    }

    private static Outcome<UnreadTable> HeadingsOf(Func<Stream> csv)
    {
        try
        {
            using var reader = Open(csv);
            reader.ReadHeader();
            if (reader.Headers is { Count: > MostColumns })
                return TooWide;
            // What cannot be read further down is said before anything is done with what is above it.
            while (reader.Read()) { }
            return new UnreadTable([.. reader.Headers ?? []], csv);
        }
        catch (CsvFormatException fault)
        {
            return NotCsv(fault);
        }
    }

    /// <summary>The rows of CSV below its headings, in order; blank ones are left out.</summary>
    internal static IEnumerable<IReadOnlyList<string>> RowsOf(Func<Stream> csv)
    {
        using var reader = Open(csv);
        reader.ReadHeader();
        while (reader.Read())
        {
            var cells = CellsOf(reader);
            if (!IsBlank(cells))
                yield return cells;
        }
    }

    /// <summary>Whether a file is a packed spreadsheet.</summary>
    public static bool IsXlsx(Func<Stream> open)
    {
        var first = new byte[4];
        using var content = open();
        return content.ReadAtLeast(first, first.Length, throwOnEndOfStream: false) == first.Length
            && first is [(byte)'P', (byte)'K', 3, 4];
    }

    /// <summary>A pasted list in the same form.</summary>
    public static Outcome<Table> ReadPasted(string text)
    {
        if (!PastedList.Read(text).Try(out var entries, out var refusal))
            return refusal;
        if (AsTable(text) is { } pastedTable)
            return pastedTable;
        if (entries.Count == 0)
            return Refuse("empty", "Nothing was pasted.", "Paste mail addresses, with or without names.");
        var csv = Write(
            [
                ["Address", "Remark on reading"],
                .. entries.Select(entry =>
                    (IReadOnlyList<string>)
                        [
                            entry.ToString(),
                            // What could not be read says so again when it is read again.
                            entry.Address
                                is null
                                ? ""
                                : string.Join('\n', entry.Notes.Select(note => note.Sentence)),
                        ]
                ),
            ],
            CsvInjection.None
        );
        return ReadCsv(() => new MemoryStream(csv, writable: false));
    }

    /// <summary>What was pasted out of a spreadsheet together with its headings; null for anything else.</summary>
    private static Table? AsTable(string? text)
    {
        var csv = Encoding.UTF8.GetBytes((text ?? "").TrimStart());
        if (
            csv.Length == 0
            || csv.AsSpan(0, Math.Max(0, csv.AsSpan().IndexOf((byte)'\n'))).Contains((byte)'@')
        )
            return null;
        return
            ReadCsv(WithoutOpenQuotes(() => new MemoryStream(csv, writable: false))).Try(out var table, out _)
            && table.Sheet.Columns.Count > 1
            ? table
            : null;
    }

    /// <summary>Writes rows as CSV for people: what a spreadsheet would take for a formula is made plain text.</summary>
    public static byte[] Export(IEnumerable<IReadOnlyList<string>> rows) =>
        [.. Encoding.UTF8.Preamble, .. Write(rows, CsvInjection.Escape)];

    /// <summary>A part of such a file, without the mark at its beginning.</summary>
    public static byte[] ExportPart(IEnumerable<IReadOnlyList<string>> rows) =>
        Write(rows, CsvInjection.Escape);

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

    private static CsvReader Open(Func<Stream> csv)
    {
        // One after the other: what was handed in is one file, wherever it is being read.
        var separator = SeparatorOf(csv);
        return Open(csv(), separator);
    }

    internal static CsvReader Open(Stream csv, char separator) =>
        CsvReader.Create(
            csv,
            new CsvReaderOptions
            {
                Separator = separator,
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
            .. SheetHeadings
                .All.Where(h => h.Key is not SheetColumn.Name)
                .Select(h => language == "de" ? h.Value.German : h.Value.English),
        ];

    private static Outcome<Table> ReadCsv(Func<Stream> csv, CancellationToken cancellation = default)
    {
        try
        {
            using var reader = Open(csv);
            reader.ReadHeader();
            if (reader.Headers is { Count: > MostColumns })
                return TooWide;
            if (!Sheet.Read([.. reader.Headers ?? []]).Try(out var sheet, out var refusal))
                return refusal;
            var count = 0;
            while (reader.Read())
            {
                if (count % 1_000 == 0)
                    cancellation.ThrowIfCancellationRequested();
                if (reader.FieldCount > MostColumns)
                    return TooWide;
                if (!IsBlank(CellsOf(reader)) && ++count > MostRows)
                    return Refuse("too-large", $"The file has more than {MostRows} rows.", "Split it.");
            }
            return count == 0
                ? Refuse("empty", "The file has headings and no rows.", "Fill it in, or choose another file.")
                : new Table(sheet, csv, count);
        }
        catch (CsvFormatException fault)
        {
            return NotCsv(fault);
        }
    }

    // The library says what its own setting is called; whoever hands a file in has a row.
    private static Refusal NotCsv(CsvFormatException fault) =>
        fault.Message.Contains(nameof(CsvReaderOptions.MaxRecordSize), StringComparison.Ordinal)
            ? Refuse(
                "not-readable",
                $"Row {fault.RecordNumber} is longer than {LongestRow / 1024} KiB.",
                "Look whether a quotation mark is missing in it."
            )
            : Refuse(
                "not-readable",
                $"The file cannot be read as CSV: {fault.Message}",
                "Save it again as CSV in UTF-8."
            );

    internal static byte[] Write(IEnumerable<IReadOnlyList<string>> rows, CsvInjection injection)
    {
        using var file = new MemoryStream();
        using (var writer = CsvWriter.Create(file, new CsvWriterOptions { Injection = injection }, true))
        {
            foreach (var row in rows)
                writer.WriteRecord([.. row]);
        }
        return file.ToArray();
    }

    internal static Refusal Refuse(string code, string sentence, string remedy) =>
        new("file." + code, sentence, remedy, Field: "file");

    internal static Refusal TooLarge { get; } =
        Refuse("too-large", $"The file is larger than {LargestFile / 1024 / 1024} MB.", "Split it.");

    internal static Refusal TooWide { get; } =
        Refuse(
            "too-wide",
            $"The file has more than {MostColumns} columns.",
            "Leave out those that say nothing about the people."
        );
}
