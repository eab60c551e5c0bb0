namespace ComeAboard.Core;

/// <summary>Reading and listing the fixed words that stand for the members of an enumeration.</summary>
public static class Words
{
    /// <summary>A sentence as it goes on after a colon in English: it begins small.</summary>
    public static string Continued(string sentence) =>
        sentence.Length == 0 ? sentence : char.ToLowerInvariant(sentence[0]) + sentence[1..];

    /// <summary>The member a word stands for, in any case; null when it stands for none.</summary>
    public static T? Find<T>(string? word)
        where T : struct, Enum
    {
        foreach (var value in Enum.GetValues<T>())
        {
            if (string.Equals(value.ToString(), word?.Trim(), StringComparison.OrdinalIgnoreCase))
                return value;
        }
        return null;
    }

    /// <summary>All the words, for a sentence.</summary>
    public static string All<T>()
        where T : struct, Enum => string.Join(", ", Enum.GetNames<T>().Select(n => n.ToLowerInvariant()));

    /// <summary>A foreign word cut to what a sentence can bear.</summary>
    public static string Short(string? word)
    {
        var visible = new string((word ?? "").Where(c => !char.IsControl(c)).ToArray());
        return visible.Length <= 40 ? visible : visible[..40] + "…";
    }
}
