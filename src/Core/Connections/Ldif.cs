using System.Text;

namespace ComeAboard.Core.Connections;

/// <summary>Reading the entries of a directory from a file in LDIF (RFC 2849).</summary>
public static class Ldif
{
    /// <summary>Whether a file looks like one: its first line that says anything names a version or an entry.</summary>
    public static bool IsLikely(ReadOnlySpan<byte> file)
    {
        var text = file.StartsWith(Encoding.UTF8.Preamble) ? file[3..] : file;
        while (text.Length > 0)
        {
            var end = text.IndexOf((byte)'\n');
            var line = (end < 0 ? text : text[..end]).Trim("\r\n \t"u8);
            text = end < 0 ? [] : text[(end + 1)..];
            if (line.Length == 0 || line[0] == '#')
                continue;
            return line.StartsWith("version:"u8) || line.StartsWith("dn:"u8);
        }
        return false;
    }

    /// <summary>
    /// Reads a file; refuses, with <c>ldif.malformed</c> and the line, what is none, and with <c>ldif.changes</c> one that says
    /// how a directory is to be changed instead of what is in it.
    /// </summary>
    public static Outcome<IReadOnlyList<DirectoryEntry>> Read(string text)
    {
        var entries = new List<DirectoryEntry>();
        DirectoryEntry? entry = null;
        foreach (var (line, number) in Unfolded(text))
        {
            if (line.Length == 0)
            {
                entry = null;
                continue;
            }
            if (line[0] == '#')
                continue;
            var colon = line.IndexOf(':', StringComparison.Ordinal);
            if (colon <= 0)
                return Malformed(number, "it names no attribute");
            var attribute = line[..colon].Trim();
            if (!Value(line[(colon + 1)..]).Try(out var value, out var no))
                return Malformed(number, no.Sentence);
            if (attribute.Equals("version", StringComparison.OrdinalIgnoreCase) && entries.Count == 0)
                continue;
            if (attribute.Equals("dn", StringComparison.OrdinalIgnoreCase))
            {
                if (entry is not null)
                    return Malformed(number, "the entry before it does not end with an empty line");
                entries.Add(entry = new DirectoryEntry(Encoding.UTF8.GetString(value)));
            }
            else if (entry is null)
                return Malformed(number, "an entry begins with its dn");
            else if (attribute.Equals("changetype", StringComparison.OrdinalIgnoreCase))
                return new Refusal(
                    "ldif.changes",
                    $"Line {number} says how a directory is to be changed.",
                    "Hand in what is in the directory, not changes to it.",
                    Field: "file"
                );
            else
                entry.Add(attribute, value);
        }
        return entries.Count > 0
            ? Outcome.Of<IReadOnlyList<DirectoryEntry>>(entries)
            : Malformed(1, "there is no entry");
    }

    private static Outcome<byte[]> Value(string text)
    {
        // What stands in a file of another machine is not fetched.
        if (text.StartsWith('<'))
            return new Refusal("ldif.malformed", "it points to a file or an address", "");
        if (!text.StartsWith(':'))
            return Encoding.UTF8.GetBytes(text.Trim(' '));
        try
        {
            return Convert.FromBase64String(text[1..].Trim());
        }
        catch (FormatException)
        {
            return new Refusal("ldif.malformed", "what stands after :: is not base64", "");
        }
    }

    /// <summary>The lines, each with its number, those that begin with a blank joined to the one before (RFC 2849, note 2).</summary>
    private static IEnumerable<(string Line, int Number)> Unfolded(string text)
    {
        var (whole, number, began) = (new StringBuilder(), 0, 0);
        foreach (var span in text.TrimStart('\uFEFF').Split('\n'))
        {
            number++;
            var line = span.TrimEnd('\r');
            if (line.StartsWith(' ') && began > 0)
            {
                whole.Append(line, 1, line.Length - 1);
                continue;
            }
            if (began > 0)
                yield return (whole.ToString(), began);
            whole.Clear().Append(line);
            began = number;
        }
        if (began > 0)
            yield return (whole.ToString(), began);
    }

    private static Refusal Malformed(int line, string why) =>
        new(
            "ldif.malformed",
            $"Line {line} cannot be read as LDIF: {why}.",
            "Export the directory again.",
            Field: "file"
        );
}
