using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace ComeAboard.Core;

/// <summary>
/// Reads the short texts people write about each other. Control characters would smuggle mail headers, and
/// direction overrides would show a text other than the one stored, so both are refused, never silently removed.
/// </summary>
public static partial class PlainText
{
    /// <summary>Longest name of a person in characters, inclusive.</summary>
    public const int LongestName = 100;

    /// <summary>Longest message of an inviter in characters, inclusive.</summary>
    public const int LongestMessage = 2000;

    /// <summary>Reads a one-line name; null or blank is no name.</summary>
    /// <returns>The trimmed name (empty for none), <c>name.too-long</c> or <c>name.characters</c>.</returns>
    public static Outcome<string> ReadName(string? text)
    {
        var name = (text ?? "").Trim();
        if (name.Length > LongestName)
            return new Refusal(
                "name.too-long",
                $"The name is longer than {LongestName} characters.",
                "Shorten it.",
                Field: "name"
            );
        return FirstForbidden(name, allowLines: false) is { } rune
            ? new Refusal(
                "name.characters",
                $"The name holds a character that may not stand in a name (U+{rune.Value:X4}).",
                "Type the name again without line breaks or invisible characters.",
                Field: "name"
            )
            : name.Normalize();
    }

    /// <summary>Reads the name of a person, which stands in mails: a name as <see cref="ReadName"/> takes it, without a link.</summary>
    /// <returns>The trimmed name (empty for none), <c>name.too-long</c>, <c>name.characters</c> or <c>name.link</c>.</returns>
    public static Outcome<string> ReadPersonName(string? text)
    {
        if (!ReadName(text).Try(out var name, out var refusal))
            return refusal;
        return FindLink(name) is { } link
            ? new Refusal(
                "name.link",
                $"The name holds \"{Words.Short(link)}\", which mail programs turn into a link.",
                "Put a space behind the dot, or leave it out.",
                Field: "name"
            )
            : name;
    }

    /// <summary>The first piece of a text that a mail program would turn into a link: an address with a scheme, a bare domain, a mail address. Null when there is none.</summary>
    public static string? FindLink(string text) =>
        Link().Match(text) is { Success: true } found ? found.Value : null;

    /// <summary>
    /// A text that looks the same and in which no mail program finds a link, for names of things that may well hold a dot: an
    /// invisible joiner (U+2060) stands behind each dot and colon of what would be one.
    /// </summary>
    public static string Defused(string text)
    {
        // Parting one link may leave another behind it; each round parts at least one more place, so this ends.
        while (FindLink(text) is not null)
            text = Link().Replace(text, found => Joint().Replace(found.Value, "$0\u2060"));
        return text;
    }

    /// <summary>Reads an inviter's message: plain text, line breaks allowed, no links.</summary>
    /// <returns>
    /// The trimmed message with line feeds only (empty for none), <c>message.too-long</c>,
    /// <c>message.characters</c> or <c>message.link</c>.
    /// </returns>
    public static Outcome<string> ReadMessage(string? text)
    {
        var message = (text ?? "").ReplaceLineEndings("\n").Trim();
        if (message.Length > LongestMessage)
            return Refuse(
                "too-long",
                $"The message is longer than {LongestMessage} characters.",
                "Shorten it."
            );
        if (FirstForbidden(message, allowLines: true) is { } rune)
            return Refuse(
                "characters",
                $"The message holds a character that may not stand in it (U+{rune.Value:X4}).",
                "Type it again without invisible characters."
            );
        if (FindLink(message) is { } link)
            return Refuse(
                "link",
                $"The message holds a link, \"{Words.Short(link)}\"; messages carry plain words only, so that nobody can send links in the workspace's name.",
                "Take the link out – the mail has its own – or put a space behind the dot."
            );
        return message.Normalize();
    }

    private static Rune? FirstForbidden(string text, bool allowLines)
    {
        foreach (var rune in text.EnumerateRunes())
        {
            if (allowLines && rune.Value is '\n' or '\t')
                continue;
            if (rune == Rune.ReplacementChar || IsForbidden(Rune.GetUnicodeCategory(rune)) && !IsJoiner(rune))
                return rune;
        }
        return null;
    }

    private static bool IsForbidden(UnicodeCategory category) =>
        category
            is UnicodeCategory.Control
                or UnicodeCategory.Format
                or UnicodeCategory.LineSeparator
                or UnicodeCategory.ParagraphSeparator
                or UnicodeCategory.PrivateUse
                or UnicodeCategory.OtherNotAssigned;

    // The zero-width joiner and non-joiner are ordinary spelling in several scripts and in emoji.
    private static bool IsJoiner(Rune rune) => rune.Value is 0x200C or 0x200D;

    private static Refusal Refuse(string code, string sentence, string remedy) =>
        new("message." + code, sentence, remedy, Field: "message");

    // A scheme; what begins like a host of the web; labels with dots of which the last is letters only, as every top-level
    // domain's is (RFC 3696 section 2). A single letter behind the dot, as in "p.m.", is none; nor is anything behind a joiner.
    [GeneratedRegex(
        @"[a-z][a-z0-9+.\-]{1,20}://|\bwww\.[^\s\u2060]|\bmailto:(?!\u2060)|(?<![\p{L}\p{N}])[\p{L}\p{N}](?:[\p{L}\p{N}\-]{0,61}[\p{L}\p{N}])?(?:[.。．｡][\p{L}\p{N}\-]{1,63}){0,8}[.。．｡]\p{L}{2,63}(?![\p{L}\p{N}])",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Link();

    [GeneratedRegex("[.。．｡:@]")]
    private static partial Regex Joint();
}
