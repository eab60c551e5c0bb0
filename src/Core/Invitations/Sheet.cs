using System.Globalization;
using System.Text;
using ComeAboard.Core.Access;

namespace ComeAboard.Core.Invitations;

/// <summary>The columns of a list of people, recognised by their headings in any order and in every language shipped.</summary>
public sealed class Sheet
{
    /// <summary>The headings of the template in English and German; other spellings are understood too.</summary>
    public static IReadOnlyDictionary<SheetColumn, (string English, string German)> Headings { get; } =
        new Dictionary<SheetColumn, (string, string)>
        {
            [SheetColumn.Address] = ("Address", "Adresse"),
            [SheetColumn.Name] = ("Name", "Name"),
            [SheetColumn.GivenName] = ("Given name", "Vorname"),
            [SheetColumn.FamilyName] = ("Family name", "Nachname"),
            [SheetColumn.Kind] = ("Kind", "Art"),
            [SheetColumn.Organisation] = ("Organisation", "Organisation"),
            [SheetColumn.Title] = ("Title", "Funktion"),
            [SheetColumn.Department] = ("Department", "Abteilung"),
            [SheetColumn.Manager] = ("Manager", "Vorgesetzte"),
            [SheetColumn.Country] = ("Country", "Land"),
            [SheetColumn.Language] = ("Language", "Sprache"),
            [SheetColumn.Host] = ("Host", "Gastgeber"),
            [SheetColumn.Role] = ("Role", "Rolle"),
            [SheetColumn.Group] = ("Group", "Gruppe"),
            [SheetColumn.Resource] = ("Resource", "Ressource"),
            [SheetColumn.From] = ("Start", "Beginn"),
            [SheetColumn.Until] = ("End", "Ende"),
            [SheetColumn.Message] = ("Message", "Nachricht"),
            [SheetColumn.Note] = ("Note", "Notiz"),
        };

    private static readonly Dictionary<string, SheetColumn> Known = Spellings();

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
            if (Known.TryGetValue(Fold(headings[i]), out var column))
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
                $"The first row must hold headings; these are known: {string.Join(", ", Headings.Values.Select(h => h.English))}.",
                Field: "file"
            );
    }

    /// <summary>The separator that stands most often in the first line, outside quotes.</summary>
    public static char SeparatorOf(ReadOnlySpan<byte> csv)
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

    /// <summary>The column that is headed so, in whatever spelling is understood; null for none.</summary>
    public static SheetColumn? ColumnOf(string heading) =>
        Known.TryGetValue(Fold(heading), out var column) ? column : null;

    /// <summary>A heading as it is compared: without case, accents and what is no letter.</summary>
    public static string Folded(string heading) => Fold(heading);

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

    private static Dictionary<string, SheetColumn> Spellings()
    {
        var known = new Dictionary<string, SheetColumn>(StringComparer.Ordinal);
        foreach (var (column, (english, german)) in Headings)
        {
            known[Fold(english)] = column;
            known[Fold(german)] = column;
        }
        foreach (
            var (spelling, column) in (ReadOnlySpan<(string, SheetColumn)>)
                [
                    ("mail", SheetColumn.Address),
                    ("email", SheetColumn.Address),
                    ("mailaddress", SheetColumn.Address),
                    ("emailaddress", SheetColumn.Address),
                    ("mailadresse", SheetColumn.Address),
                    ("emailadresse", SheetColumn.Address),
                    ("fullname", SheetColumn.Name),
                    ("vollername", SheetColumn.Name),
                    ("firstname", SheetColumn.GivenName),
                    ("lastname", SheetColumn.FamilyName),
                    ("surname", SheetColumn.FamilyName),
                    ("familienname", SheetColumn.FamilyName),
                    ("organization", SheetColumn.Organisation),
                    ("company", SheetColumn.Organisation),
                    ("firma", SheetColumn.Organisation),
                    ("jobtitle", SheetColumn.Title),
                    ("position", SheetColumn.Title),
                    ("startdate", SheetColumn.From),
                    ("startday", SheetColumn.From),
                    ("starts", SheetColumn.From),
                    ("startson", SheetColumn.From),
                    ("firstday", SheetColumn.From),
                    ("begin", SheetColumn.From),
                    ("begins", SheetColumn.From),
                    ("beginning", SheetColumn.From),
                    ("begindate", SheetColumn.From),
                    ("from", SheetColumn.From),
                    ("since", SheetColumn.From),
                    ("validfrom", SheetColumn.From),
                    ("arrival", SheetColumn.From),
                    ("arrives", SheetColumn.From),
                    ("accessfrom", SheetColumn.From),
                    ("joining", SheetColumn.From),
                    ("joiningdate", SheetColumn.From),
                    ("startdatum", SheetColumn.From),
                    ("starttag", SheetColumn.From),
                    ("erstertag", SheetColumn.From),
                    ("anfang", SheetColumn.From),
                    ("anfangsdatum", SheetColumn.From),
                    ("beginndatum", SheetColumn.From),
                    ("beginntag", SheetColumn.From),
                    ("von", SheetColumn.From),
                    ("ab", SheetColumn.From),
                    ("gueltigab", SheetColumn.From),
                    ("gueltigvon", SheetColumn.From),
                    ("gultigab", SheetColumn.From),
                    ("gultigvon", SheetColumn.From),
                    ("eintritt", SheetColumn.From),
                    ("eintrittsdatum", SheetColumn.From),
                    ("anreise", SheetColumn.From),
                    ("zugangab", SheetColumn.From),
                    ("enddate", SheetColumn.Until),
                    ("endday", SheetColumn.Until),
                    ("ends", SheetColumn.Until),
                    ("endson", SheetColumn.Until),
                    ("lastday", SheetColumn.Until),
                    ("until", SheetColumn.Until),
                    ("to", SheetColumn.Until),
                    ("till", SheetColumn.Until),
                    ("through", SheetColumn.Until),
                    ("finish", SheetColumn.Until),
                    ("finishes", SheetColumn.Until),
                    ("expiry", SheetColumn.Until),
                    ("expires", SheetColumn.Until),
                    ("expireson", SheetColumn.Until),
                    ("expirydate", SheetColumn.Until),
                    ("validuntil", SheetColumn.Until),
                    ("validto", SheetColumn.Until),
                    ("validtill", SheetColumn.Until),
                    ("departure", SheetColumn.Until),
                    ("departs", SheetColumn.Until),
                    ("leaving", SheetColumn.Until),
                    ("leavingdate", SheetColumn.Until),
                    ("accessuntil", SheetColumn.Until),
                    ("enddatum", SheetColumn.Until),
                    ("endtag", SheetColumn.Until),
                    ("letztertag", SheetColumn.Until),
                    ("bis", SheetColumn.Until),
                    ("gueltigbis", SheetColumn.Until),
                    ("gultigbis", SheetColumn.Until),
                    ("befristetbis", SheetColumn.Until),
                    ("befristung", SheetColumn.Until),
                    ("ablauf", SheetColumn.Until),
                    ("ablaufdatum", SheetColumn.Until),
                    ("lauftab", SheetColumn.Until),
                    ("austritt", SheetColumn.Until),
                    ("austrittsdatum", SheetColumn.Until),
                    ("abreise", SheetColumn.Until),
                    ("zugangbis", SheetColumn.Until),
                    ("remarkonreading", SheetColumn.Remark),
                    ("vorgesetzter", SheetColumn.Manager),
                    ("gastgeberin", SheetColumn.Host),
                ]
        )
            known[spelling] = column;
        return known;
    }

    /// <summary>A heading without case, accents, spaces and signs.</summary>
    private static string Fold(string heading)
    {
        var folded = new StringBuilder();
        foreach (var sign in heading.Normalize(NormalizationForm.FormD))
        {
            if (char.IsLetterOrDigit(sign))
                folded.Append(char.ToLowerInvariant(sign));
        }
        return folded.ToString();
    }
}
