using ComeAboard.Core.Matching;

namespace ComeAboard.People;

/// <summary>How the second record of somebody differs from the first.</summary>
public enum Change
{
    /// <summary>The address is made of the name in another way.</summary>
    OtherStyle,

    /// <summary>A private address in place of the company's.</summary>
    PrivateAddress,

    /// <summary>A short form of the given name.</summary>
    ShortForm,

    /// <summary>A slip in the family name.</summary>
    FamilySlip,

    /// <summary>A slip in the given name.</summary>
    GivenSlip,

    /// <summary>Marks written out, or left out.</summary>
    Marks,

    /// <summary>Another family name.</summary>
    NewFamily,

    /// <summary>A double family name.</summary>
    DoubleFamily,

    /// <summary>Family name first.</summary>
    Order,

    /// <summary>The given name as an initial.</summary>
    Initial,

    /// <summary>A further given name.</summary>
    Middle,

    /// <summary>Another domain of the same organisation.</summary>
    OtherDomain,
}

/// <summary>A crowd of made-up people, some of whom are written down twice; who is whom is known.</summary>
/// <param name="Records">The records, in no order.</param>
/// <param name="Twice">Which two are one human, as places in the list, the earlier first, with how they differ.</param>
public sealed record Crowd(
    IReadOnlyList<MatchRecord> Records,
    IReadOnlyDictionary<(int, int), IReadOnlyList<Change>> Twice
)
{
    /// <summary>Makes a crowd; of one seed always the same.</summary>
    /// <param name="count">How many records.</param>
    /// <param name="seed">What it is made of.</param>
    public static Crowd Of(int count, int seed) => new CrowdMaker(new Random(seed), count).Make();
}
