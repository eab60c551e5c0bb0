namespace ComeAboard.Core.Matching;

/// <summary>Somebody who is here, as far as it is looked at whether they are here twice.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Record">What is written down of them.</param>
public sealed record SomebodyHere(Guid Id, MatchRecord Record);

/// <summary>Two who are here and may be one human.</summary>
/// <param name="Left">The one with the lesser id.</param>
/// <param name="Right">The one with the greater id.</param>
/// <param name="Score">The probability that they are one, 0 to 1, in thousandths.</param>
/// <param name="Reasons">Why, in words, the strongest reason first.</param>
public sealed record FoundTwice(Guid Left, Guid Right, double Score, IReadOnlyList<string> Reasons)
{
    /// <summary>The two, in the one order in which they are written down.</summary>
    public (Guid Left, Guid Right) Pair => (Left, Right);
}

/// <summary>A pair that is written down.</summary>
/// <param name="Left">The one with the lesser id.</param>
/// <param name="Right">The one with the greater id.</param>
/// <param name="Score">The probability it was written down with.</param>
/// <param name="Reasons">The reasons it was written down with.</param>
/// <param name="IsDistinct">Whether somebody said that they are two; what they said is kept, whatever is found.</param>
public sealed record KnownTwice(
    Guid Left,
    Guid Right,
    double Score,
    IReadOnlyList<string> Reasons,
    bool IsDistinct
);

/// <summary>What is to be written down anew, and what no longer.</summary>
/// <param name="Add">Pairs that are not written down as yet.</param>
/// <param name="Change">Pairs that are written down with another score or other reasons.</param>
/// <param name="Drop">Pairs that are not found any more, and of which nobody said anything.</param>
public sealed record TwiceChanges(
    IReadOnlyList<FoundTwice> Add,
    IReadOnlyList<FoundTwice> Change,
    IReadOnlyList<(Guid Left, Guid Right)> Drop
)
{
    /// <summary>Whether nothing is to be written.</summary>
    public bool IsNothing => Add.Count + Change.Count + Drop.Count == 0;
}

/// <summary>
/// Who is here twice. All are weighed together each time, because what a name tells hangs on how many have it: a newcomer
/// can make a name common that was rare. What comes out is compared with what is written down, and only the difference is
/// written. Source of the weighing: <see cref="Matcher"/>.
/// </summary>
public static class Twice
{
    /// <summary>So many pairs are kept at most; the likeliest of them.</summary>
    public const int Most = 5_000;

    /// <summary>The two in the order in which they are written down.</summary>
    public static (Guid Left, Guid Right) InOrder(Guid one, Guid other) =>
        one.CompareTo(other) < 0 ? (one, other) : (other, one);

    /// <summary>Finds them: pairs that are at least <see cref="MatchVerdict.Likely"/>, the likeliest first.</summary>
    /// <param name="people">Everybody who is here, in any order; no id twice.</param>
    /// <param name="workers">How many threads work at once; it changes nothing about what is found.</param>
    public static IReadOnlyList<FoundTwice> Find(IEnumerable<SomebodyHere> people, int workers = 1)
    {
        var all = people.OrderBy(one => one.Id).ToList();
        var found = Matcher.Within([.. all.Select(one => one.Record)], workers: workers);
        return
        [
            .. found
                .Pairs.Take(Most)
                .Select(pair => new FoundTwice(
                    all[pair.Left].Id,
                    all[pair.Right].Id,
                    Math.Round(pair.Score, 3),
                    [.. found.Explain(pair.Left, pair.Right).Select(reason => reason.Sentence)]
                )),
        ];
    }

    /// <summary>Compares what was found with what is written down.</summary>
    /// <param name="known">What is written down; no pair twice.</param>
    /// <param name="found">What was found; no pair twice.</param>
    /// <param name="isHere">Whether somebody is here: what is written down of others is dropped, whatever was said of it.</param>
    public static TwiceChanges Compare(
        IEnumerable<KnownTwice> known,
        IReadOnlyList<FoundTwice> found,
        Func<Guid, bool> isHere
    )
    {
        var fresh = found.ToDictionary(pair => pair.Pair);
        var (change, drop) = (new List<FoundTwice>(), new List<(Guid, Guid)>());
        foreach (var old in known)
        {
            var isFound = fresh.Remove((old.Left, old.Right), out var now);
            if (!isHere(old.Left) || !isHere(old.Right))
                drop.Add((old.Left, old.Right));
            else if (isFound && (old.Score != now!.Score || !old.Reasons.SequenceEqual(now.Reasons)))
                change.Add(now);
            else if (!isFound && !old.IsDistinct)
                drop.Add((old.Left, old.Right));
        }
        return new TwiceChanges(
            [.. found.Where(pair => fresh.ContainsKey(pair.Pair) && isHere(pair.Left) && isHere(pair.Right))],
            change,
            drop
        );
    }
}
