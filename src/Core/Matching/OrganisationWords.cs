using System.Collections.Frozen;

namespace ComeAboard.Core.Matching;

/// <summary>Words in names of organisations that are often written short, or in another language, each with the one it stands for.</summary>
internal static class OrganisationWords
{
    private const string Known = """
        university univ uni universität université universidad universidade università universiteit universitet universitetet uniwersytet
        institute inst institut instituut instituto istituto instytut
        international intl int internacional internationale internationaal internazionale
        national natl nationale nacional nazionale nationaal
        museum mus musée museo museu muzeum
        association assoc assn asn
        society soc
        department dept dep
        gesellschaft ges
        brothers bros gebrüder gebr
        manufacturing mfg
        government govt gov
        saint st sankt
        center centre ctr
        laboratory lab labs laboratories
        library lib
        academy acad akademie académie academia accademia
        hospital hosp
        group grp gruppe groupe grupo gruppo
        services service svc svcs
        """;

    // They give no letter to an abbreviation.
    private const string SmallWords =
        "of the for and to in at on für der die das des dem den von und de la le les du et y e di del della do da dos van het een en og i";

    private static readonly FrozenDictionary<string, string>.AlternateLookup<ReadOnlySpan<char>> Whole = Known
        .Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries)
        .Select(line => line.Split(' '))
        .SelectMany(line =>
            line.Skip(1).Select(form => (Form: Folding.Fold(form), Word: Folding.Fold(line[0])))
        )
        .DistinctBy(pair => pair.Form)
        .ToFrozenDictionary(pair => pair.Form, pair => pair.Word, StringComparer.Ordinal)
        .GetAlternateLookup<ReadOnlySpan<char>>();

    private static readonly FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Small = SmallWords
        .Split(' ')
        .Select(Folding.Fold)
        .ToFrozenSet(StringComparer.Ordinal)
        .GetAlternateLookup<ReadOnlySpan<char>>();

    /// <summary>The word that a folded one stands for; itself where it stands for no other.</summary>
    public static ReadOnlySpan<char> WholeOf(ReadOnlySpan<char> folded) =>
        Whole.TryGetValue(folded, out var whole) ? whole : folded;

    /// <summary>Whether a folded word gives no letter to an abbreviation.</summary>
    public static bool IsSmall(ReadOnlySpan<char> folded) => Small.Contains(folded);
}
