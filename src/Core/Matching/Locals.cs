namespace ComeAboard.Core.Matching;

/// <summary>
/// Reads local parts in one word for names, once all names are known: <c>jbrask</c>, <c>braskj</c> and <c>brask</c> are made of the family name
/// <c>Brask</c>, be it the record's own or one it had before.
/// </summary>
internal static class Locals
{
    private const int Shortest = 4;

    public static void Settle(Pieces[] all, Vocabulary vocabulary, string[] names)
    {
        var (isFamily, isGiven) = (new bool[names.Length], new bool[names.Length]);
        foreach (ref readonly var one in all.AsSpan())
        {
            if (one.Family >= 0)
                isFamily[one.Family] = true;
            if (one.Given >= 0)
                isGiven[one.Given] = true;
        }
        foreach (ref var one in all.AsSpan())
        {
            // Of an initial the address may tell the name.
            if (one.Given < 0 && one.GivenLetter != 0)
                one.Given = Begun(one.LocalOne, one) ?? Begun(one.LocalTwo, one) ?? -1;
            if (one.Local < 0 || one.IsLocalBuilt || one.LocalOne < 0 || one.LocalTwo >= 0)
                continue;
            var word = names[one.LocalOne].AsSpan();
            var own =
                IsMadeOf(word, one.Family) ? one.Family
                : IsMadeOf(word, one.Given) ? one.Given
                : IsMadeOf(word, one.Second) ? one.Second
                : -1;
            if (own >= 0)
            {
                (one.LocalTwo, one.IsLocalBuilt) = (own, true);
                continue;
            }
            if (word.Length <= Shortest)
                continue;
            var behind = vocabulary.Find(word[1..]);
            var before = vocabulary.Find(word[..^1]);
            if (behind >= 0 && isFamily[behind])
                one.LocalTwo = behind;
            else if (before >= 0 && isFamily[before])
                one.LocalTwo = before;
        }

        int? Begun(int name, in Pieces one) =>
            name >= 0 && name != one.Family && isGiven[name] && names[name][0] == one.GivenLetter
                ? name
                : null;

        // With no more than another name or an initial beside it, behind which an h is not heard.
        bool IsMadeOf(ReadOnlySpan<char> word, int name)
        {
            if (name < 0 || names[name].Length < 3)
                return false;
            var whole = names[name].AsSpan();
            return word.StartsWith(whole)
                || word.EndsWith(whole)
                || whole[0] == 'h' && word.EndsWith(whole[1..]);
        }
    }
}
