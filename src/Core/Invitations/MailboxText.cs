using System.Text;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// Reads one mailbox the way people write it: <c>name@host</c>, <c>Name &lt;name@host&gt;</c>, <c>"Name, Other"
/// &lt;name@host&gt;</c>, <c>name@host (Name)</c> (RFC 5322 section 3.4, internationalised by RFC 6532). Never throws.
/// </summary>
public static class MailboxText
{
    // What stands around an address by accident: sentence ends, brackets, quotation marks of several languages.
    private const string Leading = "<([{\"'`*•·-–—:;,>«»„“”‘’‹›";
    private const string Trailing = ">)]}\"'`*.,;:!?«»„“”‘’‹›";

    /// <summary>Reads one entry; what is left out in reading is named in the notes.</summary>
    /// <param name="entry">The entry, without separators around it.</param>
    public static WrittenAddress Read(string? entry)
    {
        var written = (entry ?? "").Trim();
        var (text, comment) = TakeComments(written);
        var notes = new List<AddressNote>();
        string name;
        string bare;
        var (open, close) = Angle(text);
        if (open >= 0)
        {
            name = Unquote(text[..open].Trim());
            bare = text[(open + 1)..close].Trim();
            if (
                text[Math.Min(close + 1, text.Length)..].Trim(Trailing.ToCharArray()).Trim() is
                { Length: > 0 } rest
            )
                notes.Add(Left("after", rest));
        }
        else
        {
            (name, bare) = SplitBare(text.Trim());
        }
        if (name.Length == 0)
            name = comment;
        bare = Trim(bare, open < 0, notes);
        if (!EmailAddress.Read(bare).Try(out var address, out var fault))
            return new WrittenAddress(written, CleanName(name, notes), null, fault, notes);
        return new WrittenAddress(written, CleanName(name, notes), address, null, notes);
    }

    /// <summary>Whether an address would lose a sign if it stood without angle brackets.</summary>
    internal static bool NeedsBrackets(EmailAddress address) =>
        address.LocalPart.Contains('|', StringComparison.Ordinal)
        || Leading.Contains(address.LocalPart[0], StringComparison.Ordinal)
        || address.LocalPart.StartsWith("mailto", StringComparison.OrdinalIgnoreCase);

    /// <summary>A display name as it may stand before an angle bracket (RFC 5322 section 3.2.4).</summary>
    public static string Quote(string name) =>
        "\""
        + name.Replace("\\", "\\\\", StringComparison.Ordinal).Replace("\"", "\\\"", StringComparison.Ordinal)
        + "\"";

    private static string Trim(string bare, bool isBare, List<AddressNote> notes)
    {
        var address = bare;
        if (address.StartsWith("mailto:", StringComparison.OrdinalIgnoreCase))
            address = address["mailto:".Length..].Split('?')[0];
        // Within angle brackets nothing stands before the address by accident.
        var trimmed = address.TrimEnd(Trailing.ToCharArray());
        if (isBare && !IsQuotedLocalPart(address))
            trimmed = trimmed.TrimStart(Leading.ToCharArray());
        if (trimmed.Length == 0)
            return address;
        if (trimmed != bare)
            notes.Add(
                new AddressNote(
                    "address.trimmed",
                    $"Read as \"{Words.Short(trimmed)}\"; the signs around it were left out."
                )
            );
        return trimmed;
    }

    private static AddressNote Left(string where, string rest) =>
        new("address.trimmed", $"\"{Words.Short(rest)}\" {where} the address was left out.");

    /// <summary>A name that may not be kept is left out, and that is said.</summary>
    internal static string CleanName(string name, List<AddressNote> notes)
    {
        // A number, or a sign of a list, is no name.
        if (PlainText.ReadName(name).Try(out var clean, out _))
            return clean.Any(char.IsLetter) ? clean : "";
        notes.Add(
            new AddressNote("name.left-out", "The name beside the address cannot be kept and was left out.")
        );
        return "";
    }

    private static bool IsQuotedLocalPart(string bare) =>
        bare.StartsWith('"') && bare.LastIndexOf("\"@", StringComparison.Ordinal) > 0;

    /// <summary>The last pair of angle brackets outside quotes that holds something; −1 when there is none.</summary>
    private static (int Open, int Close) Angle(string text)
    {
        var (open, close) = (-1, -1);
        var quoted = false;
        for (var i = 0; i < text.Length; i++)
        {
            switch (text[i])
            {
                case '\\' when quoted:
                    i++;
                    break;
                case '"':
                    quoted = !quoted;
                    break;
                case '<' when !quoted:
                    (open, close) = (i, -1);
                    break;
                case '>' when !quoted && open >= 0 && close < 0:
                    close = i;
                    break;
            }
        }
        // After an angle bracket that nobody closed the address goes on to the end.
        return (open, open >= 0 && close < 0 ? text.Length : close);
    }

    /// <summary>Without angle brackets the address is the word with the @; what stands before it is the name.</summary>
    private static (string Name, string Bare) SplitBare(string text)
    {
        var at = text.LastIndexOf('@');
        if (at < 0 || IsQuotedLocalPart(text))
            return ("", text);
        var start = text.LastIndexOfAny([' ', '\u00a0'], at);
        return start <= 0 || at - start == 1
            ? ("", text)
            : (Unquote(text[..start].Trim()), text[(start + 1)..]);
    }

    /// <summary>Takes comments out (RFC 5322 section 3.2.2); they nest, and one that never ends goes on to the end.</summary>
    private static (string Text, string Comment) TakeComments(string text)
    {
        if (!text.Contains('(', StringComparison.Ordinal))
            return (text, "");
        var rest = new StringBuilder();
        var comment = new StringBuilder();
        var depth = 0;
        var quoted = false;
        for (var i = 0; i < text.Length; i++)
        {
            var sign = text[i];
            if (sign == '\\' && i + 1 < text.Length)
            {
                (depth > 0 ? comment : rest).Append(sign).Append(text[++i]);
                continue;
            }
            if (sign == '"' && depth == 0)
                quoted = !quoted;
            if (sign == '(' && !quoted && depth++ == 0)
                continue;
            if (sign == ')' && !quoted && depth > 0 && --depth == 0)
            {
                comment.Append(' ');
                continue;
            }
            (depth > 0 ? comment : rest).Append(sign);
        }
        // A comment that holds the address itself was a pair of brackets around it.
        var inside = Unescape(comment.ToString().Trim());
        return
            !rest.ToString().Contains('@', StringComparison.Ordinal)
            && inside.Contains('@', StringComparison.Ordinal)
            ? (inside, rest.ToString().Trim())
            : (rest.ToString().Trim(), inside);
    }

    private static string Unquote(string name)
    {
        var trimmed = name.Trim();
        if (trimmed.Length >= 2 && trimmed[0] == '"' && trimmed[^1] == '"')
            return Unescape(trimmed[1..^1]).Trim();
        return Unescape(trimmed.Trim('"', '\'', ',', ':', '*', '•', '-', '–')).Trim();
    }

    private static string Unescape(string text)
    {
        if (!text.Contains('\\', StringComparison.Ordinal))
            return text;
        var plain = new StringBuilder();
        for (var i = 0; i < text.Length; i++)
        {
            if (text[i] == '\\' && i + 1 < text.Length)
                i++;
            plain.Append(text[i]);
        }
        return plain.ToString();
    }
}
