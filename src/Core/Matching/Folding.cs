using System.Text;

namespace ComeAboard.Core.Matching;

/// <summary>
/// Brings the ways in which one name is written in different scripts and with or without its marks to one: <c>Müller</c>,
/// <c>Mueller</c> and <c>Muller</c> are alike, and so are <c>Сергей</c>, <c>Sergey</c> and <c>Sergej</c>. The tables are our own, so that it
/// comes out alike on every machine, whatever it knows of languages.
/// </summary>
public static class Folding
{
    // For each letter from U+00C0 to U+017F what it is without its marks; a dot for what is no letter.
    private const string Latin =
        "aaaaaaaceeeeiiii"
        + "dnooooo.ouuuuyts"
        + "aaaaaaaceeeeiiii"
        + "dnooooo.ouuuuyty"
        + "aaaaaaccccccccdd"
        + "ddeeeeeeeeeegggg"
        + "gggghhhhiiiiiiii"
        + "iiiijjkkklllllll"
        + "lllnnnnnnnnnoooo"
        + "oooorrrrrrssssss"
        + "ssttttttuuuuuuuu"
        + "uuuuwwyyyzzzzzzs";

    private static readonly string[] Cyrillic =
    [
        "a",
        "b",
        "v",
        "g",
        "d",
        "e",
        "zh",
        "z",
        "i",
        "i",
        "k",
        "l",
        "m",
        "n",
        "o",
        "p",
        "r",
        "s",
        "t",
        "u",
        "f",
        "kh",
        "ts",
        "ch",
        "sh",
        "shch",
        "",
        "i",
        "",
        "e",
        "iu",
        "ia",
    ];

    private static readonly string[] Greek =
    [
        "a",
        "v",
        "g",
        "d",
        "e",
        "z",
        "i",
        "t",
        "i",
        "k",
        "l",
        "m",
        "n",
        "ks",
        "o",
        "p",
        "r",
        "s",
        "s",
        "t",
        "i",
        "f",
        "ch",
        "ps",
        "o",
    ];

    /// <summary>Folds a word or several; what is no letter or digit is left out.</summary>
    /// <param name="text">What is written.</param>
    /// <param name="into">Where it goes; what does not fit is cut off. Five times the length of the text is always enough.</param>
    /// <returns>How many letters there are.</returns>
    public static int Fold(ReadOnlySpan<char> text, Span<char> into)
    {
        var length = 0;
        foreach (var letter in text)
        {
            if (letter < 128)
                Add(into, ref length, char.ToLowerInvariant(letter));
            else
                foreach (var part in Parts(letter))
                    Add(into, ref length, part);
        }
        return length;
    }

    /// <summary>Folds a word into a string of its own.</summary>
    public static string Fold(string text)
    {
        Span<char> into = text.Length <= 50 ? stackalloc char[250] : new char[text.Length * 5];
        return new string(into[..Fold(text, into)]);
    }

    /// <summary>Writes a word in the letters a to z and in digits, as one writes it in an address; what is neither is left out.</summary>
    public static string Plain(string text)
    {
        var plain = new StringBuilder(text.Length);
        foreach (var letter in text)
        {
            if (char.IsAsciiLetterOrDigit(letter))
                plain.Append(char.ToLowerInvariant(letter));
            else if (letter >= 128)
                plain.Append(Parts(letter));
        }
        return plain.ToString();
    }

    private static ReadOnlySpan<char> Parts(char letter)
    {
        switch (letter)
        {
            case 'ß' or 'ẞ':
                return "ss";
            case 'æ' or 'Æ':
                return "a";
            case 'œ' or 'Œ':
                return "o";
            case 'ё' or 'Ё':
                return "e";
            case 'і' or 'І' or 'ї' or 'Ї':
                return "i";
            case 'є' or 'Є':
                return "e";
            case 'ў' or 'Ў':
                return "u";
            case 'ґ' or 'Ґ':
                return "g";
            case >= '\u00C0' and <= '\u017F':
                var bare = Latin.AsSpan(letter - 0xC0, 1);
                return bare[0] == '.' ? [] : bare;
            case >= 'А' and <= 'Я':
                return Cyrillic[letter - 'А'];
            case >= 'а' and <= 'я':
                return Cyrillic[letter - 'а'];
            case >= 'ά' and <= 'ί':
                return letter switch
                {
                    'ά' => "a",
                    'έ' => "e",
                    _ => "i",
                };
            case 'ό' or 'Ό' or 'ώ' or 'Ώ':
                return "o";
            case 'ύ' or 'Ύ' or 'ϊ' or 'ϋ' or 'ΐ' or 'ΰ' or 'Ί' or 'Ή':
                return "i";
            case 'Ά':
                return "a";
            case 'Έ':
                return "e";
            case >= 'α' and <= 'ω':
                return Greek[letter - 'α'];
            case >= 'Α' and <= 'Ω':
                return Greek[letter - 'Α'];
            case 'ș' or 'Ș':
                return "s";
            case 'ț' or 'Ț':
                return "t";
            case 'ơ' or 'Ơ' or 'ǒ' or 'ǫ':
                return "o";
            case 'ư' or 'Ư' or 'ǔ':
                return "u";
            case 'ǎ':
                return "a";
            case 'Ạ' or >= 'ạ' and <= 'ặ':
                return "a";
            case >= 'ẹ' and <= 'ệ':
                return "e";
            case >= 'ỉ' and <= 'ị':
                return "i";
            case >= 'ọ' and <= 'ợ':
                return "o";
            case >= 'ụ' and <= 'ự':
                return "u";
            case >= 'ỳ' and <= 'ỹ':
                return "i";
            default:
                return [];
        }
    }

    /// <summary>Adds a letter, and draws together what is written in two ways.</summary>
    private static void Add(Span<char> into, ref int length, char letter)
    {
        if (letter is not (>= 'a' and <= 'z' or >= '0' and <= '9') || length == into.Length)
            return;
        var last = length > 0 ? into[length - 1] : '\0';
        switch (letter)
        {
            case 'j' or 'y':
                letter = 'i';
                break;
            case 'w':
                letter = 'v';
                break;
            // ae, oe, ue, aa
            case 'e' when last is 'a' or 'o' or 'u':
            case 'a' when last == 'a':
                return;
            case 'h' when last == 'p':
                into[length - 1] = 'f';
                return;
            // th, kh, zh, sh, ch, and what is written with or without it
            case 'h' when last is not ('\0' or 'a' or 'e' or 'i' or 'o' or 'u'):
                return;
        }
        if (letter == 'i' && length > 0 && into[length - 1] == 'i')
            return;
        Put(into, ref length, letter);
    }

    private static void Put(Span<char> into, ref int length, char letter)
    {
        if (length < into.Length)
            into[length++] = letter;
    }

    /// <summary>How a folded word sounds, roughly: its consonants by groups, and whether it begins with a vowel; 0 for nothing.</summary>
    public static int Sound(ReadOnlySpan<char> folded)
    {
        var (sound, last) = (0, -1);
        for (var i = 0; i < folded.Length && sound < 1 << 27; i++)
        {
            var group = folded[i] switch
            {
                'b' or 'p' => 1,
                'f' or 'v' => 2,
                'c' or 'k' or 'q' or 'g' or 'x' => 3,
                's' or 'z' => 4,
                'd' or 't' => 5,
                'l' => 6,
                'm' or 'n' => 7,
                'r' => 8,
                _ => i == 0 && folded[i] != 'h' ? 9 : 0,
            };
            if (group != 0 && group != last)
                sound = sound * 10 + group;
            // What is parted by a vowel is said twice.
            if (folded[i] != 'h')
                last = group;
        }
        return sound;
    }

    /// <summary>Whether two words, one of six letters or more, are two slips apart: letters left out, put in, changed.</summary>
    public static bool IsTwoSlips(ReadOnlySpan<char> one, ReadOnlySpan<char> other)
    {
        if (one.Length > other.Length)
            return IsTwoSlips(other, one);
        if (one.Length < 4 || other.Length < 6 || other.Length - one.Length > 2)
            return false;
        var same = one.CommonPrefixLength(other);
        // After the first difference: a letter put in, changed, or left out, and one slip more.
        var a = one[same..];
        var b = other[same..];
        return b.Length > 0 && IsOneOff(a, b[1..])
            || a.Length > 0 && b.Length > 0 && IsOneOff(a[1..], b[1..])
            || a.Length > 0 && IsOneOff(a[1..], b);
    }

    /// <summary>Whether two words are equal but for one letter left out, put in, changed, or two exchanged.</summary>
    private static bool IsOneOff(ReadOnlySpan<char> one, ReadOnlySpan<char> other)
    {
        if (one.Length > other.Length)
            return IsOneOff(other, one);
        if (other.Length - one.Length > 1)
            return false;
        var same = one.CommonPrefixLength(other);
        if (one.Length < other.Length)
            return one[same..].SequenceEqual(other[(same + 1)..]);
        return same == one.Length
            || one[(same + 1)..].SequenceEqual(other[(same + 1)..])
            || same + 1 < one.Length
                && one[same] == other[same + 1]
                && one[same + 1] == other[same]
                && one[(same + 2)..].SequenceEqual(other[(same + 2)..]);
    }

    /// <summary>Whether two words are one slip apart: a letter left out, put in, changed, or two exchanged; not when they are equal, or too short to tell.</summary>
    public static bool IsOneSlip(ReadOnlySpan<char> one, ReadOnlySpan<char> other)
    {
        if (one.Length > other.Length)
            return IsOneSlip(other, one);
        if (one.Length < 3 || other.Length < 4 || one.SequenceEqual(other))
            return false;
        return IsOneOff(one, other);
    }
}
