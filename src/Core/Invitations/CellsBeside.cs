namespace ComeAboard.Core.Invitations;

/// <summary>
/// Reads a line of a pasted table: one address with other cells beside it. A name among them is its name; the others are
/// named in a note, and refuse nothing.
/// </summary>
internal static class CellsBeside
{
    private const int LongestName = 5;

    /// <summary>The entry, or null when the line is none of a table.</summary>
    /// <param name="line">The line as it was pasted.</param>
    /// <param name="parts">What stands between its separators.</param>
    public static WrittenAddress? Read(string line, IReadOnlyList<string> parts)
    {
        if (parts.Count < 2 || parts.Count(HasAddress) != 1)
            return null;
        var at = parts.Index().First(part => HasAddress(part.Item)).Index;
        // Tabs and bars make a table; commas and semicolons do as well, but beside a slip they may stand in a list.
        var isTable =
            line.Contains('\t', StringComparison.Ordinal) || line.Contains('|', StringComparison.Ordinal);
        if (
            parts[at].Count(sign => sign == '@') != 1
            || !isTable && parts.Index().Any(part => part.Index != at && !IsCell(part.Item))
            || IsFamilyNameFirst(parts, at)
        )
            return null;
        var read = MailboxText.Read(parts[at]);
        var notes = read.Notes.ToList();
        var taken = read.Name.Length > 0 ? [] : NameAt(parts, at);
        var name =
            taken.Count == 0
                ? read.Name
                : MailboxText.CleanName(
                    string.Join(' ', taken.Select(i => parts[i].Trim(' ', '"', '\''))),
                    notes
                );
        var rest = parts
            .Index()
            .Where(part => part.Index != at && !taken.Contains(part.Index))
            .Select(part => $"\"{Words.Short(part.Item.Trim())}\"")
            .ToList();
        if (rest.Count > 0)
            notes.Add(
                new AddressNote(
                    "row.not-read",
                    $"Beside the address, {string.Join(", ", rest)} {(rest.Count == 1 ? "was" : "were")} not read."
                )
            );
        return read with { Written = line.Trim(), Name = name, Notes = notes };
    }

    private static bool HasAddress(string part) => part.Contains('@', StringComparison.Ordinal);

    // "Calloway, Ines <ines@…>" is one name, not a cell beside another.
    private static bool IsFamilyNameFirst(IReadOnlyList<string> parts, int at) =>
        at > 0 && parts[at].Contains('<', StringComparison.Ordinal) && parts[at].Trim()[0] != '<';

    /// <summary>Whether a part is rather a cell of a table than an address that somebody mistyped.</summary>
    private static bool IsCell(string part)
    {
        var text = part.Trim();
        return text.Contains(' ', StringComparison.Ordinal)
            ? !text.Contains(" at ", StringComparison.OrdinalIgnoreCase)
            : !text.Contains('.', StringComparison.Ordinal)
                && (char.IsUpper(text[0]) || !text.Any(char.IsLetter));
    }

    /// <summary>Which parts are the name: two words or more nearest to the address, or given and family name in two cells.</summary>
    private static IReadOnlyList<int> NameAt(IReadOnlyList<string> parts, int at)
    {
        var likely = Enumerable
            .Range(0, parts.Count)
            .Where(i => i != at && IsName(parts[i]))
            .OrderBy(i => Math.Abs(i - at))
            .ThenBy(i => i)
            .ToList();
        if (likely.Count == 0)
            return [];
        if (likely.Find(i => WordsIn(parts[i]) > 1) is var several && likely.Any(i => WordsIn(parts[i]) > 1))
            return [several];
        foreach (var first in (ReadOnlySpan<int>)[at - 2, at + 1])
        {
            if (likely.Contains(first) && likely.Contains(first + 1))
                return [first, first + 1];
        }
        return [likely[0]];
    }

    private static bool IsName(string part)
    {
        var text = part.Trim(' ', '"', '\'');
        return text.Length > 0
            && WordsIn(text) <= LongestName
            && char.IsLetter(text[0])
            && !char.IsLower(text[0])
            && text.All(sign =>
                char.IsLetter(sign)
                || char.GetUnicodeCategory(sign) == System.Globalization.UnicodeCategory.NonSpacingMark
                || " .'’-\u00a0".Contains(sign, StringComparison.Ordinal)
            );
    }

    private static int WordsIn(string text) =>
        text.Split([' ', '\u00a0'], StringSplitOptions.RemoveEmptyEntries).Length;
}
