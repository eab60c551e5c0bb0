using System.Diagnostics;
using ComeAboard.Core.Matching;
using ComeAboard.People;

namespace ComeAboard.Measure;

/// <summary>
/// V6: finding who is twice among a million made-up people, against lower-casing their addresses, sorting and joining them on one
/// exact key in one thread; how much memory it takes; and how right it is on crowds of which is known who is whom.
/// </summary>
public static class Matching
{
    private const int Records = 1_000_000;
    private const int Runs = 5;

    public static IEnumerable<Figure> Measure()
    {
        var crowd = Crowd.Of(Records, 5).Records;
        var (ours, reference) = (new List<double>(), new List<double>());
        var most = 0.0;
        for (var run = 0; run <= Runs; run++)
        {
            GC.Collect();
            var before = GC.GetTotalMemory(true);
            var watch = Stopwatch.StartNew();
            var found = Matcher.Within(crowd, workers: Environment.ProcessorCount);
            var time = watch.Elapsed.TotalMilliseconds;
            most = Math.Max(most, GC.GetTotalMemory(false) - before);
            GC.KeepAlive(found);
            watch.Restart();
            Join(crowd);
            // The first run makes both warm.
            if (run == 0)
                continue;
            ours.Add(time);
            reference.Add(watch.Elapsed.TotalMilliseconds);
        }
        yield return new(
            "V6",
            "who is twice among 1,000,000, against an exact join",
            "ms",
            ours,
            reference,
            "≤ 5",
            r => r <= 5
        );
        yield return new(
            "V6",
            "memory for each record",
            "byte",
            [most / Records],
            [],
            "≤ 1024",
            b => b <= 1_024
        );
        // Of small crowds several: one alone says little about a thousandth.
        foreach (var (count, crowds, least) in new[] { (9_000, 4, 0.985), (100_000, 1, 0.97) })
        {
            var told = Enumerable
                .Range(1, crowds)
                .Select(seed => Told(Crowd.Of(count, seed), count))
                .ToList();
            yield return Share($"F1 among {count:N0}", told.Average(one => one.F1), least);
            yield return Share($"the worst kind of {count:N0}", told.Average(one => one.Worst), 0.92);
            yield return Share($"same, and right, among {count:N0}", told.Average(one => one.Same), 0.99);
        }
    }

    /// <summary>What finding one record's equals costs among the row's million, or as many as are asked for, against among a tenth.</summary>
    internal static Figure Growth()
    {
        var records = Places.People(Records);
        var (many, few) = (new List<double>(), new List<double>());
        foreach (
            var (count, costs) in ((int, List<double>)[])[(records / Growing.Times, few), (records, many)]
        )
        {
            var crowd = Crowd.Of(count, 5).Records;
            for (var run = 0; run <= Places.Runs; run++)
            {
                GC.Collect();
                var watch = Stopwatch.StartNew();
                GC.KeepAlive(Matcher.Within(crowd, workers: Environment.ProcessorCount));
                if (run > 0)
                    costs.Add(watch.Elapsed.TotalMicroseconds / count);
            }
        }
        return Growing.Of("V6", $"who is twice, one of {records:N0} records", "µs", many, few);
    }

    private static Figure Share(string what, double is_, double least) =>
        new(
            "V6",
            what,
            "‰",
            [Math.Round(1_000 * is_, 1)],
            [],
            $"≥ {1_000 * least}",
            share => share >= 1_000 * least
        );

    private static int Join(IReadOnlyList<MatchRecord> records)
    {
        var keys = new string[records.Count];
        for (var i = 0; i < keys.Length; i++)
            keys[i] = records[i].Address!.ToLowerInvariant();
        Array.Sort(keys, StringComparer.Ordinal);
        var same = 0;
        for (var i = 1; i < keys.Length; i++)
            if (keys[i] == keys[i - 1])
                same++;
        return same;
    }

    private static (double F1, double Worst, double Same) Told(Crowd crowd, int count)
    {
        var found = Matcher.Within(crowd.Records, 0.01, Environment.ProcessorCount).Pairs;
        var likely = found.Where(pair => pair.Verdict != MatchVerdict.Unlikely).ToList();
        var right = likely.Count(IsRight);
        var (precision, recall) = ((double)right / likely.Count, (double)right / crowd.Twice.Count);
        var named = likely.Select(pair => (pair.Left, pair.Right)).ToHashSet();
        Console.Error.WriteLine($"what a score says, and what is so, among {count:N0}:");
        foreach (
            var bin in found.GroupBy(pair => Math.Min(9, (int)(pair.Score * 10))).OrderBy(bin => bin.Key)
        )
            Console.Error.WriteLine(
                $"  {bin.Key / 10.0:F1}  {bin.Count(), 7}  {bin.Average(pair => pair.Score):F3}  {bin.Average(pair => IsRight(pair) ? 1 : 0):F3}"
            );
        return (
            2 * precision * recall / (precision + recall),
            Enum.GetValues<Change>()
                .Min(kind =>
                    crowd
                        .Twice.Where(one => one.Value.Contains(kind))
                        .Average(one => named.Contains(one.Key) ? 1 : 0)
                ),
            likely.Where(pair => pair.Verdict == MatchVerdict.Same).Average(pair => IsRight(pair) ? 1 : 0)
        );

        bool IsRight(MatchPair pair) => crowd.Twice.ContainsKey((pair.Left, pair.Right));
    }
}
