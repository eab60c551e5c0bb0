using System.Globalization;
using System.Text;

namespace ComeAboard.Core;

/// <summary>Tells which writing systems a word uses, to find words made to look like others (Unicode TS 39, section 5).</summary>
internal static class Scripts
{
    // Letters of these blocks are what deceives beside one another; the first and last code points are inclusive.
    private static readonly (int First, int Last, string Script)[] Blocks =
    [
        (0x0041, 0x007A, "Latin"),
        (0x00C0, 0x024F, "Latin"),
        (0x0370, 0x03FF, "Greek"),
        (0x0400, 0x052F, "Cyrillic"),
        (0x0530, 0x058F, "Armenian"),
        (0x0590, 0x05FF, "Hebrew"),
        (0x0600, 0x06FF, "Arabic"),
        (0x10A0, 0x10FF, "Georgian"),
        (0x13A0, 0x13FF, "Cherokee"),
        (0x1E00, 0x1EFF, "Latin"),
        (0x1F00, 0x1FFF, "Greek"),
    ];

    // Letters that are drawn like a Latin one, each above the one it is taken for.
    private const string Drawn = "асеоріјѕухһԁԛԝвгкмнтαεικνορτυχωъ01|";
    private const string Taken = "aceopijsyxhdqwbrkmhtaeikvoptuxwboll";

    /// <summary>Whether letters of two of the alphabets stand in one word. Digits, hyphens and other scripts do not count.</summary>
    public static bool AreMixed(string word)
    {
        string? seen = null;
        foreach (var rune in word.EnumerateRunes())
        {
            if (!Rune.IsLetter(rune) || Of(rune) is not { } script)
                continue;
            if (seen is not null && seen != script)
                return true;
            seen = script;
        }
        return false;
    }

    /// <summary>The Latin letter a sign is taken for at a glance, without its accents; itself when it is taken for none.</summary>
    public static string LooksLike(Rune rune)
    {
        var sign = rune.ToString();
        if (rune.IsBmp && Drawn.IndexOf((char)rune.Value, StringComparison.Ordinal) is >= 0 and var at)
            return Taken[at].ToString();
        if (rune.IsAscii)
            return sign;
        var parts = sign.Normalize(NormalizationForm.FormD);
        return new string([
            .. parts.Where(c => CharUnicodeInfo.GetUnicodeCategory(c) != UnicodeCategory.NonSpacingMark),
        ]);
    }

    private static string? Of(Rune rune)
    {
        foreach (var (first, last, script) in Blocks)
        {
            if (rune.Value >= first && rune.Value <= last)
                return script;
        }
        return null;
    }
}
