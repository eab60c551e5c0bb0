using System.Globalization;
using System.Text;
using System.Text.RegularExpressions;

namespace ComeAboard.Core.Invitations;

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
        if (Link().IsMatch(message))
            return Refuse(
                "link",
                "The message holds a link; messages carry plain words only, so that nobody can send links in the workspace's name.",
                "Take the link out; the mail has its own link to the invitation."
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

    [GeneratedRegex(
        @"[a-z][a-z0-9+.\-]{1,20}://|\bwww\.[^\s]|\bmailto:",
        RegexOptions.IgnoreCase | RegexOptions.CultureInvariant
    )]
    private static partial Regex Link();
}
