namespace ComeAboard.Core;

/// <summary>How near two words or names are to each other.</summary>
public static class Likeness
{
    private const int ShortestPart = 4;

    /// <summary>How many letters have to be changed, left out, put in or swapped.</summary>
    /// <param name="one">A text.</param>
    /// <param name="other">Another.</param>
    /// <param name="most">The most of them that count, inclusive; int.MaxValue is returned for more.</param>
    public static int Distance(string one, string other, int most)
    {
        if (Math.Abs(one.Length - other.Length) > most)
            return int.MaxValue;
        var rows = new int[3, other.Length + 1];
        for (var j = 0; j <= other.Length; j++)
            rows[0, j] = j;
        for (var i = 1; i <= one.Length; i++)
        {
            var (now, before, earlier) = (i % 3, (i + 2) % 3, (i + 1) % 3);
            rows[now, 0] = i;
            for (var j = 1; j <= other.Length; j++)
            {
                var cost = one[i - 1] == other[j - 1] ? 0 : 1;
                var least = Math.Min(
                    Math.Min(rows[now, j - 1], rows[before, j]) + 1,
                    rows[before, j - 1] + cost
                );
                if (i > 1 && j > 1 && one[i - 1] == other[j - 2] && one[i - 2] == other[j - 1])
                    least = Math.Min(least, rows[earlier, j - 2] + 1);
                rows[now, j] = least;
            }
        }
        var distance = rows[one.Length % 3, other.Length];
        return distance <= most ? distance : int.MaxValue;
    }

    /// <summary>The name that was probably meant; null when none is near.</summary>
    /// <param name="written">What somebody wrote.</param>
    /// <param name="names">The names there are.</param>
    public static string? Nearest(string written, IEnumerable<string> names)
    {
        var key = Names.KeyOf(written);
        if (key.Length == 0)
            return null;
        var allowed =
            key.Length >= 8 ? 2
            : key.Length >= 4 ? 1
            : 0;
        var (best, bestDistance) = ((string?)null, int.MaxValue);
        foreach (var name in names)
        {
            var other = Names.KeyOf(name);
            var distance = Distance(key, other, allowed);
            if (distance == int.MaxValue && other.Contains(' ', StringComparison.Ordinal))
                distance = Beginnings(other).Any(part => Distance(key, part, allowed) <= allowed)
                    ? allowed + 1
                    : int.MaxValue;
            // A part of a name, or a name with something behind it, is a little less likely than a slip.
            if (
                distance == int.MaxValue
                && Math.Min(key.Length, other.Length) >= ShortestPart
                && (
                    other.StartsWith(key, StringComparison.Ordinal)
                    || key.StartsWith(other, StringComparison.Ordinal)
                )
            )
                distance = allowed + 1;
            if (distance < bestDistance)
                (best, bestDistance) = (name, distance);
        }
        return best;
    }

    /// <summary>The first word of a name, the first two, and so on.</summary>
    private static IEnumerable<string> Beginnings(string name)
    {
        for (var at = name.IndexOf(' ', StringComparison.Ordinal); at > 0; at = name.IndexOf(' ', at + 1))
            yield return name[..at];
    }
}
