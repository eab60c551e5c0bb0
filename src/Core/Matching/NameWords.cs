using System.Collections.Frozen;

namespace ComeAboard.Core.Matching;

/// <summary>Words in names that are neither given nor family names.</summary>
internal static class NameWords
{
    private static readonly FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Titles = Set(
        "dr prof professor mr mrs ms miss herr frau ing dipl mag sir phd msc bsc jr sr iii dott dssa sra srta sig mme mlle mgr inz"
    );

    /// <summary>The particles, folded.</summary>
    public static FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Particles { get; } =
        Set(
            "van von der den de del della dello di da dos das do du la le ten ter te tot zu zum zur af av al el bin ibn ben bint abu und and"
        );

    /// <summary>Whether a folded word is a title: <c>dr</c>.</summary>
    public static bool IsTitle(ReadOnlySpan<char> folded) => Titles.Contains(folded);

    /// <summary>Whether a folded word is a particle: <c>van</c>.</summary>
    public static bool IsParticle(ReadOnlySpan<char> folded) => Particles.Contains(folded);

    /// <summary>A set of folded words, looked up without making strings.</summary>
    public static FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Set(string words) =>
        words
            .Split(' ')
            .Select(Folding.Fold)
            .Where(word => word.Length > 1)
            .ToFrozenSet(StringComparer.Ordinal)
            .GetAlternateLookup<ReadOnlySpan<char>>();
}
