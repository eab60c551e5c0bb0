namespace ComeAboard.Core.Matching;

/// <summary>Organisations that are written with the first letters of others. The more others they could stand for, the less it tells.</summary>
internal sealed class Abbreviations
{
    // Two letters are soon alike, whoever it is; what longer ones can tell is bounded as well.
    private const float BitsOfLetter = 2;
    private const float Most = 8;

    private readonly int[] _initials;
    private readonly float[] _bits;

    /// <param name="words">The organisations, with what their first letters spell.</param>
    public Abbreviations(Vocabularies words)
    {
        var count = words.Organisations.Count;
        (_initials, _bits) = (new int[count], new float[count]);
        Array.Fill(_initials, -1);
        var standsFor = new int[count];
        foreach (var (organisation, (number, _)) in words.Initials)
        {
            _initials[organisation] = number;
            standsFor[number]++;
        }
        foreach (var (organisation, (number, letters)) in words.Initials)
            _bits[organisation] =
                Math.Min(Most, BitsOfLetter * letters) - (float)Math.Log2(standsFor[number]);
    }

    /// <summary>What it weighs, in bits, that the one is an abbreviation of the other; 0 where it is none, or tells nothing.</summary>
    public float Weigh(int one, int other)
    {
        if (one < 0 || other < 0)
            return 0;
        var whole =
            _initials[one] == other ? one
            : _initials[other] == one ? other
            : -1;
        return whole < 0 ? 0 : Math.Max(0, _bits[whole]);
    }
}
