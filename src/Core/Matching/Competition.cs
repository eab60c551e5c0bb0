namespace ComeAboard.Core.Matching;

/// <summary>Between two lists each record is one of the other list at most: those that compete for it share the odds, and the likeliest has it.</summary>
internal static class Competition
{
    public static void Settle((int One, int Other, float Bits)[] pairs, double[] scores, Weigher weigher)
    {
        var odds = new double[pairs.Length];
        var (byOne, byOther) = (new Dictionary<int, double>(), new Dictionary<int, double>());
        for (var i = 0; i < pairs.Length; i++)
        {
            odds[i] = scores[i] >= 1 ? 1e15 : scores[i] / (1 - scores[i]);
            byOne[pairs[i].One] = byOne.GetValueOrDefault(pairs[i].One) + odds[i];
            byOther[pairs[i].Other] = byOther.GetValueOrDefault(pairs[i].Other) + odds[i];
        }
        var free = new bool[pairs.Length];
        for (var i = 0; i < pairs.Length; i++)
        {
            var evidence = weigher.Weigh(pairs[i].One, pairs[i].Other);
            // Somebody may be there twice: what an address or an identifier tells is no guess.
            free[i] =
                evidence.DegreeOf(MatchPiece.Address) == MatchDegree.Same
                || evidence.DegreeOf(MatchPiece.Outside) == MatchDegree.Same;
            if (free[i])
                continue;
            var rivals = byOne[pairs[i].One] + byOther[pairs[i].Other] - 2 * odds[i];
            var left = odds[i] / (1 + Math.Max(0, rivals));
            scores[i] = left / (1 + left);
        }
        var taken = new HashSet<int>();
        foreach (
            var i in Enumerable
                .Range(0, pairs.Length)
                .OrderByDescending(i => scores[i])
                .ThenBy(i => pairs[i].One)
                .ThenBy(i => pairs[i].Other)
        )
        {
            if (!free[i] && (taken.Contains(pairs[i].One) || taken.Contains(pairs[i].Other)))
            {
                scores[i] = 0;
                continue;
            }
            if (scores[i] < MatchThresholds.Likely)
                continue;
            taken.Add(pairs[i].One);
            taken.Add(pairs[i].Other);
        }
    }
}
