using ComeAboard.Core.Matching;
using ComeAboard.People;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Matching;

/// <summary>Who is here twice, and what of it is written down.</summary>
public sealed class TwiceHere
{
    private static readonly Guid[] People =
    [
        .. Enumerable.Range(1, 5).Select(i => new Guid(i, 0, 0, new byte[8])),
    ];

    private static readonly Gen<(Guid Left, Guid Right)> Pair = Gen.Select(Gen.Int[0, 4], Gen.Int[0, 4])
        .Where((one, other) => one != other)
        .Select((one, other) => Twice.InOrder(People[one], People[other]));

    private static readonly Gen<IReadOnlyList<string>> Why = Gen.Int[0, 2]
        .Select<int, IReadOnlyList<string>>(i =>
            i switch
            {
                0 => [],
                1 => ["same address"],
                _ => ["same name", "same firm"],
            }
        );

    private static readonly Gen<List<FoundTwice>> Found = Gen.Select(Pair, Gen.Int[600, 602], Why)
        .Select((pair, score, why) => new FoundTwice(pair.Left, pair.Right, score / 1000.0, why))
        .List[0, 6]
        .Select(list => list.DistinctBy(one => one.Pair).ToList());

    private static readonly Gen<List<KnownTwice>> Known = Gen.Select(Pair, Gen.Int[600, 602], Why, Gen.Bool)
        .Select(
            (pair, score, why, isDistinct) =>
                new KnownTwice(pair.Left, pair.Right, score / 1000.0, why, isDistinct)
        )
        .List[0, 6]
        .Select(list => list.DistinctBy(one => (one.Left, one.Right)).ToList());

    /// <summary>
    /// What stands after the changes is what a plain reading says: all that was found of people who are here, as it was found,
    /// and besides it what somebody said of people who are here.
    /// </summary>
    [Fact]
    public void After_the_changes_what_is_written_down_is_what_was_found_and_what_was_said() =>
        Gen.Select(Known, Found, Gen.Int[0, 31])
            .Sample(
                (known, found, mask) =>
                {
                    bool IsHere(Guid id) => (mask >> Array.IndexOf(People, id) & 1) == 1;
                    var changes = Twice.Compare(known, found, IsHere);
                    var book = known.ToDictionary(
                        one => (one.Left, one.Right),
                        one => (one.Score, Why: string.Join('|', one.Reasons), one.IsDistinct)
                    );
                    foreach (var pair in changes.Drop)
                        Assert.True(book.Remove(pair));
                    foreach (var pair in changes.Change)
                    {
                        var old = book[pair.Pair];
                        var now = (pair.Score, string.Join('|', pair.Reasons), old.IsDistinct);
                        Assert.NotEqual(old, now);
                        book[pair.Pair] = now;
                    }
                    foreach (var pair in changes.Add)
                        book.Add(pair.Pair, (pair.Score, string.Join('|', pair.Reasons), false));

                    var plain = new Dictionary<(Guid, Guid), (double, string, bool)>();
                    foreach (var one in known.Where(one => one.IsDistinct))
                        plain[(one.Left, one.Right)] = (one.Score, string.Join('|', one.Reasons), true);
                    foreach (var one in found)
                        plain[one.Pair] = (
                            one.Score,
                            string.Join('|', one.Reasons),
                            plain.ContainsKey(one.Pair)
                        );
                    foreach (
                        var pair in plain
                            .Keys.Where(pair => !IsHere(pair.Item1) || !IsHere(pair.Item2))
                            .ToList()
                    )
                        plain.Remove(pair);
                    Assert.Equal(plain.OrderBy(one => one.Key), book.OrderBy(one => one.Key));
                    Assert.True(
                        Twice
                            .Compare(
                                ToKnown(),
                                [.. found.Where(f => IsHere(f.Left) && IsHere(f.Right))],
                                IsHere
                            )
                            .IsNothing
                    );

                    IEnumerable<KnownTwice> ToKnown() =>
                        book.Select(one => new KnownTwice(
                            one.Key.Left,
                            one.Key.Right,
                            one.Value.Score,
                            one.Value.Why.Split('|', StringSplitOptions.RemoveEmptyEntries),
                            one.Value.IsDistinct
                        ));
                }
            );

    [Fact]
    public void Who_is_twice_does_not_hang_on_the_order_in_which_they_are_read()
    {
        var crowd = Crowd.Of(600, 5);
        var here = crowd
            .Records.Select((record, i) => new SomebodyHere(new Guid(i + 1, 0, 0, new byte[8]), record))
            .ToList();
        var found = Twice.Find(here);
        Assert.NotEmpty(found);
        Assert.All(found, pair => Assert.True(pair.Left.CompareTo(pair.Right) < 0));
        Assert.All(found, pair => Assert.NotEmpty(pair.Reasons));
        here.Reverse();
        var again = Twice.Find(here, workers: 2);
        Assert.Equal(
            found.Select(pair => (pair.Pair, pair.Score)),
            again.Select(pair => (pair.Pair, pair.Score))
        );
    }

    [Fact]
    public void Two_who_both_use_their_accounts_here_are_less_likely_one()
    {
        var one = new MatchRecord(Name: "Tomas Ebb", Address: "tomas.ebb@saltmarsh-university.example");
        var other = new MatchRecord(Name: "Tom Ebb", Address: "tom.ebb@volunteers.example");
        var crowd = Crowd.Of(300, 3).Records;
        var quiet = ScoreOf(one, other);
        var busy = ScoreOf(one with { Roof = "here" }, other with { Roof = "here" });
        Assert.InRange(busy, 0, quiet - 0.01);

        double ScoreOf(MatchRecord left, MatchRecord right) =>
            Matcher
                .Within([left, right, .. crowd], least: 0)
                .Pairs.Single(pair => (pair.Left, pair.Right) == (0, 1))
                .Score;
    }
}
