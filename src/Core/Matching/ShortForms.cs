namespace ComeAboard.Core.Matching;

/// <summary>Which given names are forms of one another; families of forms, in each of which a name may stand.</summary>
public static partial class ShortForms
{
    private static readonly Dictionary<string, int[]> Families = Read();

    /// <summary>The families in which a folded given name stands; none for most names.</summary>
    public static ReadOnlySpan<int> Of(string folded) =>
        Families.TryGetValue(folded, out var families) ? families : [];

    /// <summary>How many families there are; each is below it.</summary>
    public static int Count { get; } = Families.Values.SelectMany(all => all).DefaultIfEmpty(-1).Max() + 1;

    private static Dictionary<string, int[]> Read()
    {
        var found = new Dictionary<string, SortedSet<int>>(StringComparer.Ordinal);
        foreach (
            var (family, line) in Names
                .Split('\n')
                .Where(line => !line.StartsWith('#'))
                .Select((line, family) => (family, line))
        )
        foreach (var form in line.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            var folded = Folding.Fold(form);
            if (!found.TryGetValue(folded, out var all))
                found[folded] = all = [];
            all.Add(family);
        }
        return found.ToDictionary(one => one.Key, one => one.Value.ToArray(), StringComparer.Ordinal);
    }
}
