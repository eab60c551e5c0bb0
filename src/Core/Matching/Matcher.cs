namespace ComeAboard.Core.Matching;

/// <summary>
/// Finds out which records are one human: puts together what may be (<see cref="Blocks"/>), weighs it (<see cref="Weigher"/>), and
/// makes a probability of the sum. How likely two are one before anything is known is taken from how many there turn out to be.
/// </summary>
public sealed class Matcher
{
    // What is less likely than this even where everybody were there twice is not kept.
    private const double LeastKept = -4;

    // Pieces depend on one another more than they are thought to: so much is taken off, in bits. With it a probability means
    // what it says, on made-up crowds of which is known who is whom.
    private const double Doubt = 2.7;

    private readonly IReadOnlyList<MatchRecord> _left;
    private readonly IReadOnlyList<MatchRecord> _right;
    private readonly Weigher _weigher;

    private Matcher(
        IReadOnlyList<MatchRecord> left,
        IReadOnlyList<MatchRecord> right,
        Weigher weigher,
        IReadOnlyList<MatchPair> pairs
    ) => (_left, _right, _weigher, Pairs) = (left, right, weigher, pairs);

    /// <summary>The pairs that are at least as likely as was asked for, the likeliest first, then in the order of the records.</summary>
    public IReadOnlyList<MatchPair> Pairs { get; }

    /// <summary>Finds who is twice in a list.</summary>
    /// <param name="records">The list.</param>
    /// <param name="least">The least probability of a pair that is given back, 0 to 1.</param>
    /// <param name="workers">How many threads work at once; it changes nothing about what is found.</param>
    /// <param name="progress">Told the share that is done, 0 to 1.</param>
    public static Matcher Within(
        IReadOnlyList<MatchRecord> records,
        double least = MatchThresholds.Likely,
        int workers = 1,
        IProgress<double>? progress = null
    ) => Find(records, [], least, workers, progress);

    /// <summary>
    /// Finds who of one list is in another. Each is matched with one of the other list at most, unless an address or an
    /// identifier tells.
    /// </summary>
    /// <param name="left">The one list.</param>
    /// <param name="right">The other list.</param>
    /// <param name="least">The least probability of a pair that is given back, 0 to 1.</param>
    /// <param name="workers">How many threads work at once; it changes nothing about what is found.</param>
    /// <param name="progress">Told the share that is done, 0 to 1.</param>
    public static Matcher Between(
        IReadOnlyList<MatchRecord> left,
        IReadOnlyList<MatchRecord> right,
        double least = MatchThresholds.Likely,
        int workers = 1,
        IProgress<double>? progress = null
    ) =>
        // Without the other list there is nobody to be found in it; one list alone would be looked through for itself.
        left.Count == 0
        || right.Count == 0
            ? Find([], [], least, workers, progress)
            : Find(left, right, least, workers, progress);

    /// <summary>Why two records are thought to be one human or two, the strongest reason first.</summary>
    /// <param name="left">The place of the one in its list.</param>
    /// <param name="right">The place of the other in its list.</param>
    public IReadOnlyList<MatchReason> Explain(int left, int right) =>
        MatchReasons.Of(
            _weigher.Weigh(left, _right.Count > 0 ? _left.Count + right : right),
            _left[left],
            _right.Count > 0 ? _right[right] : _left[right],
            _weigher.RarityOf(left)
        );

    private static Matcher Find(
        IReadOnlyList<MatchRecord> left,
        IReadOnlyList<MatchRecord> right,
        double least,
        int workers,
        IProgress<double>? progress
    )
    {
        workers = Math.Max(1, workers);
        var words = new Vocabularies(left.Count + right.Count, workers);
        var (pieces, more) = Read(left, right, words, workers);
        progress?.Report(0.2);
        var names = words.Names.Texts();
        Locals.Settle(pieces, words.Names, names);
        Firms.Settle(pieces, words, out var firms);
        var weigher = new Weigher(pieces, more, words, names, firms);
        progress?.Report(0.3);
        var split = right.Count > 0 ? left.Count : 0;
        var possible = split > 0 ? (double)left.Count * right.Count : left.Count * (left.Count - 1.0) / 2;
        var most = split > 0 ? Math.Min(left.Count, right.Count) : left.Count / 2.0;
        var floor = (float)(LeastKept + Doubt - Math.Log2(Math.Max(1, most) / Math.Max(1, possible)));
        var kept = new List<List<(int, int, float)>>();
        Blocks.Pairs(
            pieces,
            more,
            weigher,
            workers,
            split,
            () =>
            {
                var own = new List<(int, int, float)>();
                lock (kept)
                    kept.Add(own);
                return (one, other) =>
                {
                    var bits = weigher.Weigh(one, other, isHurried: true).Sum();
                    if (bits >= floor)
                        own.Add((one, other, bits));
                };
            },
            progress is null ? null : new Shifted(progress)
        );
        var found = kept.SelectMany(own => own).ToArray();
        Array.Sort(found);
        var pairs = Distinct(found);
        var scores = Scores(pairs, most, possible);
        if (split > 0)
            Competition.Settle(pairs, scores, weigher);
        progress?.Report(1);
        return new Matcher(
            left,
            right,
            weigher,
            [
                .. pairs
                    .Select((pair, i) => new MatchPair(pair.One, pair.Other - split, scores[i]))
                    .Where(pair => pair.Score >= least)
                    .OrderByDescending(pair => pair.Score)
                    .ThenBy(pair => pair.Left)
                    .ThenBy(pair => pair.Right),
            ]
        );
    }

    private static (Pieces[] All, int[] More) Read(
        IReadOnlyList<MatchRecord> left,
        IReadOnlyList<MatchRecord> right,
        Vocabularies words,
        int workers
    )
    {
        var all = new Pieces[left.Count + right.Count];
        var lots = Math.Min(workers, Math.Max(1, all.Length / 1_000));
        var mores = new List<int>[lots];
        Parallel.For(
            0,
            lots,
            new ParallelOptions { MaxDegreeOfParallelism = workers },
            lot =>
            {
                var reader = new PieceReader(words);
                var more = mores[lot] = [];
                var (from, to) = Part(lot);
                for (var i = from; i < to; i++)
                    all[i] = reader.Read(i < left.Count ? left[i] : right[i - left.Count], more);
            }
        );
        var offset = 0;
        for (var lot = 0; lot < lots; lot++)
        {
            var (from, to) = Part(lot);
            for (var i = from; i < to; i++)
                all[i].More += offset;
            offset += mores[lot].Count;
        }
        return (all, [.. mores.SelectMany(more => more)]);

        (int From, int To) Part(int lot) =>
            ((int)((long)all.Length * lot / lots), (int)((long)all.Length * (lot + 1) / lots));
    }

    private static (int One, int Other, float Bits)[] Distinct((int One, int Other, float Bits)[] sorted)
    {
        var count = 0;
        for (var i = 0; i < sorted.Length; i++)
            if (
                count == 0
                || (sorted[count - 1].One, sorted[count - 1].Other) != (sorted[i].One, sorted[i].Other)
            )
                sorted[count++] = sorted[i];
        return sorted[..count];
    }

    /// <summary>The probabilities: how many pairs there are in all is taken from their sum, until it stays.</summary>
    private static double[] Scores((int One, int Other, float Bits)[] pairs, double most, double possible)
    {
        var scores = new double[pairs.Length];
        var expected = most / 5;
        for (var round = 0; round < 12; round++)
        {
            var prior = Math.Log2(Math.Clamp(expected, 0.5, Math.Max(0.5, most)) / Math.Max(2, possible));
            for (var i = 0; i < pairs.Length; i++)
                scores[i] = 1 / (1 + Math.Pow(2, Doubt - pairs[i].Bits - prior));
            var sum = scores.Sum();
            if (Math.Abs(sum - expected) < 0.001 * expected)
                break;
            expected = sum;
        }
        return scores;
    }

    /// <summary>The middle of the work within the whole.</summary>
    private sealed class Shifted(IProgress<double> whole) : IProgress<double>
    {
        public void Report(double value) => whole.Report(0.3 + 0.65 * value);
    }
}
