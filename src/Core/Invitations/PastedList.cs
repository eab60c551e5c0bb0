using System.Text.RegularExpressions;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// Takes apart what people paste: addresses between commas, semicolons, tabs, line ends or spaces, with and without
/// names, out of mails, tables and sentences. Every entry comes back, also the ones that are no address.
/// </summary>
public static partial class PastedList
{
    /// <summary>Longest text taken, in characters, inclusive: about 50,000 addresses.</summary>
    public const int LongestText = 4_000_000;

    /// <summary>Reads all entries in the order in which they stand. Never throws.</summary>
    /// <returns>The entries, or <c>list.too-long</c>.</returns>
    public static Outcome<IReadOnlyList<WrittenAddress>> Read(string? text)
    {
        if (text is { Length: > LongestText })
            return new Refusal(
                "list.too-long",
                $"The text is longer than {LongestText} characters.",
                "Put the list into a file and import that.",
                Field: "text"
            );
        var entries = new List<WrittenAddress>();
        foreach (var line in (text ?? "").ReplaceLineEndings("\n").Split('\n'))
            ReadLine(line, entries);
        return Outcome.Of<IReadOnlyList<WrittenAddress>>(entries);
    }

    private static void ReadLine(string line, List<WrittenAddress> entries)
    {
        var parts = SplitAtSeparators(WithoutPrefix(WithoutMarker(line)));
        for (var i = 0; i < parts.Count; i++)
            parts[i] = WithoutPrefix(parts[i]);
        parts.RemoveAll(part => part.Trim().Length == 0);
        if (CellsBeside.Read(line, parts) is { } row)
        {
            entries.Add(row);
            return;
        }
        for (var i = 0; i < parts.Count; i++)
        {
            var part = parts[i];
            // "Calloway, Ines <ines@…>": the comma belongs to the name, since what stands before it is no address.
            if (
                !part.Contains('@', StringComparison.Ordinal)
                && i + 1 < parts.Count
                && parts[i + 1].Contains('<', StringComparison.Ordinal)
                && !part.Any(char.IsAsciiDigit)
            )
            {
                entries.Add(FamilyNameFirst(part, parts[++i]));
                continue;
            }
            foreach (var entry in SplitAtSpaces(part))
                entries.Add(MailboxText.Read(entry));
        }
    }

    /// <summary>A line without what numbers it or points at it: <c>1.</c>, <c>2)</c>, <c>•</c>, <c>[x]</c>.</summary>
    private static string WithoutMarker(string line) => Marker().Replace(line, "", 1);

    /// <summary>A part without the field name of a mail that stands before it: <c>Cc:</c>.</summary>
    private static string WithoutPrefix(string part) => Prefix().Replace(part, "", 1);

    [GeneratedRegex(
        @"^\s*((\(?\d{1,5}\s*[.):]|[-*+•·–—‣▪◦○●►]|\[[ xX✓]?\]|[a-zA-Z]\))[\s\u00a0]+)+(?=\S)",
        RegexOptions.CultureInvariant
    )]
    private static partial Regex Marker();

    [GeneratedRegex(
        @"^\s*(to|cc|bcc|from|reply-to|sender|mail|e-mail|an|kopie|blindkopie|von|antwort an)\s*:\s*(?!//)",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Prefix();

    private static WrittenAddress FamilyNameFirst(string family, string rest)
    {
        var read = MailboxText.Read(rest);
        var notes = read.Notes.ToList();
        var name = MailboxText.CleanName(read.Name.Length > 0 ? $"{read.Name} {family}" : family, notes);
        return read with { Written = $"{family}, {rest}", Name = name, Notes = notes };
    }

    /// <summary>Splits at commas, semicolons, tabs and bars outside quotes, comments and angle brackets.</summary>
    private static List<string> SplitAtSeparators(string line)
    {
        var parts = new List<string>();
        var start = 0;
        var (quoted, depth, angle) = (false, 0, false);
        // A quotation mark, bracket or comment that is never closed holds nothing together.
        var quotes = AreQuotesClosed(line);
        for (var i = 0; i < line.Length; i++)
        {
            switch (line[i])
            {
                case '\\' when quoted || depth > 0:
                    i++;
                    break;
                case '"' when quotes && depth == 0:
                    quoted = !quoted;
                    break;
                case '(' when !quoted && line.IndexOf(')', i) > 0:
                    depth++;
                    break;
                case ')' when !quoted && depth > 0:
                    depth--;
                    break;
                case '<' when !quoted && depth == 0 && line.IndexOf('>', i) > 0:
                    angle = true;
                    break;
                case '>' when !quoted && depth == 0:
                    angle = false;
                    break;
                case ',' or ';' or '\t' or '|' when !quoted && depth == 0 && !angle:
                    Keep(line[start..i]);
                    start = i + 1;
                    break;
            }
        }
        Keep(line[start..]);
        return parts;

        void Keep(string part)
        {
            if (part.Trim() is { Length: > 0 } kept)
                parts.Add(kept);
        }
    }

    private static bool AreQuotesClosed(string line)
    {
        var quoted = false;
        for (var i = 0; i < line.Length; i++)
        {
            if (line[i] == '\\' && quoted)
                i++;
            else if (line[i] == '"')
                quoted = !quoted;
        }
        return !quoted;
    }

    /// <summary>Several bare addresses with nothing but spaces between them are several entries.</summary>
    private static IEnumerable<string> SplitAtSpaces(string part)
    {
        if (part.Contains('<', StringComparison.Ordinal) || part.Contains('"', StringComparison.Ordinal))
            return SplitAfterAngles(part);
        var words = part.Split([' ', '\u00a0'], StringSplitOptions.RemoveEmptyEntries);
        var addresses = words.Count(word => word.Contains('@', StringComparison.Ordinal));
        return addresses > 1 && !part.Contains('(', StringComparison.Ordinal)
            ? words.Where(word => word.Any(char.IsLetterOrDigit))
            : [part];
    }

    /// <summary>"A &lt;a@b&gt; C &lt;c@d&gt;" without a separator between is two entries.</summary>
    private static IEnumerable<string> SplitAfterAngles(string part)
    {
        var (start, quoted, opened) = (0, false, false);
        var quotes = AreQuotesClosed(part);
        for (var i = 0; i < part.Length; i++)
        {
            if (part[i] == '\\' && quoted)
                i++;
            else if (part[i] == '"' && quotes)
                quoted = !quoted;
            else if (part[i] == '<' && !quoted)
                opened = true;
            else if (part[i] == '>' && !quoted && opened && part.IndexOf('<', i) > 0)
            {
                yield return part[start..(i + 1)];
                (start, opened) = (i + 1, false);
            }
        }
        if (part[start..].Trim().Length > 0)
            yield return part[start..];
    }
}
