namespace ComeAboard.Core.Matching;

/// <summary>Where a record belongs: the domain of its address, or, where that is a public one, the domain usual for its organisation.</summary>
internal static class Firms
{
    // A domain that so many organisations use is nobody's own.
    private const int FewestOfPublic = 3;
    private const double ShareOfPublic = 0.3;

    // Where nothing tells of organisations, a domain that is so common is taken for a public one.
    private const int FewestUnknown = 50;
    private const double ShareUnknown = 0.03;

    /// <summary>Settles it for all records.</summary>
    /// <param name="all">The records, with the domains of their addresses.</param>
    /// <param name="words">The numbers of domains and organisations.</param>
    /// <param name="count">How many places there are; each number is below it.</param>
    public static void Settle(Pieces[] all, Vocabularies words, out int count)
    {
        var domains = words.Domains.Count;
        count = domains + words.Organisations.Count;
        var (used, told) = (new int[domains], new int[domains]);
        var together = new Dictionary<(int Domain, int Organisation), int>();
        foreach (ref readonly var one in all.AsSpan())
        {
            if (one.Firm < 0)
                continue;
            used[one.Firm]++;
            if (one.Organisation < 0)
                continue;
            told[one.Firm]++;
            var key = (one.Firm, one.Organisation);
            together[key] = together.GetValueOrDefault(key) + 1;
        }
        var different = new int[domains];
        foreach (var (domain, _) in together.Keys)
            different[domain]++;
        var isPublic = new bool[domains];
        for (var domain = 0; domain < domains; domain++)
            isPublic[domain] =
                told[domain] > 0
                    ? different[domain] >= Math.Max(FewestOfPublic, ShareOfPublic * told[domain])
                    : used[domain] >= Math.Max(FewestUnknown, ShareUnknown * all.Length);
        var usual = new Dictionary<int, (int Domain, int Count)>();
        // Of two that are as usual it is the one by its letters: numbers depend on who came first.
        var texts = words.Domains.Texts();
        foreach (var ((domain, organisation), times) in together)
            if (
                !isPublic[domain]
                && (
                    !usual.TryGetValue(organisation, out var best)
                    || times > best.Count
                    || times == best.Count && string.CompareOrdinal(texts[domain], texts[best.Domain]) < 0
                )
            )
                usual[organisation] = (domain, times);
        foreach (ref var one in all.AsSpan())
        {
            if (one.Firm >= 0 && !isPublic[one.Firm])
                continue;
            one.Firm =
                one.Organisation < 0 ? -1
                : usual.TryGetValue(one.Organisation, out var own) ? own.Domain
                : domains + one.Organisation;
        }
    }
}
