using System.Globalization;
using System.Text;
using ComeAboard.Core.Access;

namespace ComeAboard.Core.Invitations;

/// <summary>The columns of a list of people, recognised by their headings in any order and in every language shipped.</summary>
public sealed class Sheet
{
    private static readonly Dictionary<string, Kind> KindWords = new(StringComparer.OrdinalIgnoreCase)
    {
        ["belegschaft"] = Kind.Staff,
        ["mitarbeiter"] = Kind.Staff,
        ["mitarbeiterin"] = Kind.Staff,
        ["intern"] = Kind.Staff,
        ["gast"] = Kind.Guest,
        ["partnerin"] = Kind.Partner,
        ["kunde"] = Kind.Client,
        ["kundin"] = Kind.Client,
        ["auftraggeber"] = Kind.Client,
        ["auftraggeberin"] = Kind.Client,
    };

    private static readonly string[] DayForms =
    [
        "yyyy-MM-dd",
        "d.M.yyyy",
        "d MMM yyyy",
        "d MMMM yyyy",
        "yyyy/MM/dd",
    ];

    private readonly SheetColumn?[] _columns;

    private Sheet(SheetColumn?[] columns, IReadOnlyList<string> unknown)
    {
        _columns = columns;
        Unknown = unknown;
    }

    /// <summary>The headings that were not understood, as written; what stands below them is not used.</summary>
    public IReadOnlyList<string> Unknown { get; }

    /// <summary>The columns that were found.</summary>
    public IReadOnlyList<SheetColumn> Columns => [.. _columns.OfType<SheetColumn>()];

    /// <summary>
    /// Reads the headings of a list; refuses with <c>sheet.no-address</c> or <c>sheet.heading-twice</c>. Case, accents,
    /// spaces and signs do not matter.
    /// </summary>
    public static Outcome<Sheet> Read(IReadOnlyList<string> headings)
    {
        var columns = new SheetColumn?[headings.Count];
        var unknown = new List<string>();
        for (var i = 0; i < headings.Count; i++)
        {
            if (SheetHeadings.Find(headings[i]) is { } column)
            {
                if (columns.Contains(column))
                    return new Refusal(
                        "sheet.heading-twice",
                        $"Two columns are headed like \"{Words.Short(headings[i].Trim())}\".",
                        "Leave one of them out.",
                        Field: "file"
                    );
                columns[i] = column;
            }
            else if (headings[i].Trim().Length > 0)
            {
                unknown.Add(Words.Short(headings[i].Trim()));
            }
        }
        return columns.Contains(SheetColumn.Address)
            ? new Sheet(columns, unknown)
            : new Refusal(
                "sheet.no-address",
                "No column is headed Address.",
                $"The first row must hold headings; these are known: {string.Join(", ", SheetHeadings.All.Values.Select(h => h.English))}.",
                Field: "file"
            );
    }

    /// <summary>Reads one row. Empty cells say nothing; cells that the headings do not reach are named.</summary>
    /// <returns>
    /// The wish, unread but for its days and kind; <c>row.quote</c> when a quotation mark in it is never closed, or
    /// <c>row.day</c> when a day in it is none; and what was left out in reading.
    /// </returns>
    public (InvitationWish Wish, Refusal? Fault, IReadOnlyList<AddressNote> Notes) ReadRow(
        IReadOnlyList<string> cells
    )
    {
        var address = MailboxText.Read(Cell(cells, SheetColumn.Address));
        var (from, noFrom) = Day(cells, SheetColumn.From);
        var (until, noUntil) = Day(cells, SheetColumn.Until);
        var kind = Cell(cells, SheetColumn.Kind);
        var wish = new InvitationWish(
            address.Address?.ToString() ?? address.Written,
            kind is not null && KindWords.TryGetValue(kind, out var known)
                ? known.Word()
                : kind?.ToLowerInvariant(),
            Cell(cells, SheetColumn.Role)?.ToLowerInvariant(),
            Cell(cells, SheetColumn.Name) ?? (address.Name.Length > 0 ? address.Name : null),
            Cell(cells, SheetColumn.Message),
            until,
            ReadLanguage(Cell(cells, SheetColumn.Language))
        )
        {
            From = from,
            GivenName = Cell(cells, SheetColumn.GivenName),
            FamilyName = Cell(cells, SheetColumn.FamilyName),
            Organisation = Cell(cells, SheetColumn.Organisation),
            Title = Cell(cells, SheetColumn.Title),
            Department = Cell(cells, SheetColumn.Department),
            Manager = Cell(cells, SheetColumn.Manager),
            Country = Cell(cells, SheetColumn.Country),
            Note = Cell(cells, SheetColumn.Note),
            Host = Cell(cells, SheetColumn.Host),
            Group = Cell(cells, SheetColumn.Group),
            Resource = Cell(cells, SheetColumn.Resource),
        };
        return (wish, OpenQuote(cells) ?? noFrom ?? noUntil, NotesOf(cells, address));
    }

    private List<AddressNote> NotesOf(IReadOnlyList<string> cells, WrittenAddress address)
    {
        var notes = address.Notes.ToList();
        if (Cell(cells, SheetColumn.Remark) is { } remarks)
            notes.AddRange(remarks.Split('\n').Select(remark => new AddressNote("row.not-read", remark)));
        var surplus = cells
            .Skip(_columns.Length)
            .Where(cell => !string.IsNullOrWhiteSpace(cell))
            .Select(cell => $"\"{Words.Short(cell.Trim())}\"")
            .ToList();
        if (surplus.Count > 0)
            notes.Add(
                new AddressNote(
                    "row.not-read",
                    $"The row has more cells than there are headings: {string.Join(", ", surplus)} {(surplus.Count == 1 ? "was" : "were")} not read."
                )
            );
        return notes;
    }

    private static Refusal? OpenQuote(IReadOnlyList<string> cells) =>
        cells.FirstOrDefault(cell =>
            cell.TrimStart().StartsWith('"') && cell.Count(sign => sign == '"') % 2 == 1
        )
            is { } open
            ? new Refusal(
                "row.quote",
                $"A quotation mark in this row is never closed: {Words.Short(open.Trim())}.",
                "Say again what stands behind it, or mend the file.",
                Field: "file"
            )
            : null;

    private string? Cell(IReadOnlyList<string> cells, SheetColumn column)
    {
        var at = Array.IndexOf(_columns, column);
        return at >= 0 && at < cells.Count && cells[at].Trim() is { Length: > 0 } text ? text : null;
    }

    private (DateOnly? Day, Refusal? Fault) Day(IReadOnlyList<string> cells, SheetColumn column)
    {
        if (Cell(cells, column) is not { } text)
            return (null, null);
        // Spreadsheets write days out with a time of midnight.
        var day =
            text.Length > 10 && text.EndsWith("00:00:00", StringComparison.Ordinal)
                ? text[..^8].TrimEnd(' ', 'T')
                : text;
        foreach (var culture in (CultureInfo[])[CultureInfo.InvariantCulture, German])
        {
            if (DateOnly.TryParseExact(day, DayForms, culture, DateTimeStyles.None, out var read))
                return (read, null);
        }
        return (
            null,
            new Refusal(
                "row.day",
                $"\"{Words.Short(text)}\" is not a day.",
                "Write days as 2027-01-31 or 31.1.2027.",
                Field: column == SheetColumn.From ? "from" : "until"
            )
        );
    }

    private static readonly CultureInfo German = CultureInfo.GetCultureInfo("de-DE");

    private static string? ReadLanguage(string? written) =>
        written?.ToLowerInvariant() switch
        {
            null => null,
            "english" or "englisch" => "en",
            "german" or "deutsch" => "de",
            var tag => tag.Split('-')[0],
        };
}
