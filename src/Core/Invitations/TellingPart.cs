using System.Text;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// What of a text is worth asking an index of three-letter pieces for. Such an index goes through all that it knows of each
/// piece; of pieces that nearly every row holds that is much, and tells nothing.
/// </summary>
public static class TellingPart
{
    // Of a few hundred texts, some that hold a piece may do so by chance.
    private const int Common = 16;

    private const int Piece = 3;

    /// <summary>
    /// The longest run of a text none of whose three-letter pieces is common – held by more than a sixteenth of some texts like
    /// those searched – if it has three letters or digits in a row; else the whole text. Whatever holds the text holds this run.
    /// </summary>
    /// <param name="text">What is searched for.</param>
    /// <param name="alike">Some of the texts it is searched for in.</param>
    public static string Of(string text, IReadOnlyCollection<string> alike)
    {
        var runes = text.EnumerateRunes().ToList();
        var (first, length) = (0, 0);
        for (int start = 0, end = Piece; end <= runes.Count; end++)
        {
            if (IsCommon(Run(runes, end - Piece, Piece), alike))
                start = end - Piece + 1;
            else if (end - start > length)
                (first, length) = (start, end - start);
        }
        var run = Run(runes, first, length);
        return HasWord(run) ? run : text;
    }

    private static string Run(List<Rune> runes, int first, int length) =>
        string.Concat(runes.Skip(first).Take(length));

    private static bool IsCommon(string piece, IReadOnlyCollection<string> alike) =>
        alike.Count(text => text.Contains(piece, StringComparison.Ordinal)) * Common > alike.Count;

    private static bool HasWord(string run)
    {
        var inRow = 0;
        foreach (var rune in run.EnumerateRunes())
            if ((inRow = Rune.IsLetterOrDigit(rune) ? inRow + 1 : 0) == Piece)
                return true;
        return false;
    }
}
