using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Workspaces;

/// <summary>How a house likes the names of outsiders to be written: checked and offered, never forced.</summary>
/// <param name="Pattern">A text with <c>{name}</c> once, and <c>{organisation}</c> or <c>{kind}</c> where they are wanted; empty for no standard.</param>
public sealed record NamingStandard(string Pattern)
{
    private const string Name = "{name}";
    private const string Organisation = "{organisation}";
    private const string KindWord = "{kind}";

    /// <summary>Reads a pattern; refuses with <c>rules.name-pattern</c>. Nothing, or nothing but the name, is no standard.</summary>
    /// <param name="text">What somebody wrote; null for none.</param>
    public static Outcome<NamingStandard> Read(string? text)
    {
        var pattern = text?.Trim() ?? "";
        if (pattern.Length == 0)
            return new NamingStandard("");
        var rest = pattern
            .Replace(Organisation, "X", StringComparison.Ordinal)
            .Replace(KindWord, "X", StringComparison.Ordinal);
        var parts = rest.Split(Name);
        return
            parts.Length == 2
            && !rest.Replace(Name, "", StringComparison.Ordinal).Any(letter => letter is '{' or '}')
            && PlainText.ReadPersonName(string.Join("N", parts)).Succeeded
            ? new NamingStandard(pattern)
            : new Refusal(
                "rules.name-pattern",
                "That is no pattern for names.",
                "Write {name} once, and {organisation} or {kind} where you want them: \"{name} ({organisation})\".",
                Field: "outsiderNames"
            );
    }

    /// <summary>
    /// The name by the standard, to be offered; null where there is nothing to offer: no standard, the name follows it already,
    /// somebody of the staff, or an organisation that is wanted and not known.
    /// </summary>
    /// <param name="name">The name as it is.</param>
    /// <param name="organisation">The organisation; empty for none.</param>
    /// <param name="kind">As what they are here.</param>
    public string? Offer(string name, string organisation, Kind kind)
    {
        if (Pattern.Length == 0 || name.Length == 0 || !kind.IsOutsider())
            return null;
        if (organisation.Length == 0 && Pattern.Contains(Organisation, StringComparison.Ordinal))
            return null;
        var parts = Pattern.Split(Name);
        var (before, after) = (Fill(parts[0]), Fill(parts[1]));
        var follows =
            name.Length > before.Length + after.Length
            && name.StartsWith(before, StringComparison.Ordinal)
            && name.EndsWith(after, StringComparison.Ordinal);
        if (follows)
            return null;
        return PlainText.ReadPersonName(before + name + after).Try(out var offered, out _) ? offered : null;

        string Fill(string part) =>
            part.Replace(Organisation, organisation, StringComparison.Ordinal)
                .Replace(KindWord, kind.Word(), StringComparison.Ordinal);
    }
}
