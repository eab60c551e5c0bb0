namespace ComeAboard.Core.Matching;

/// <summary>A piece of evidence about two records.</summary>
public enum MatchPiece
{
    /// <summary>The mail addresses.</summary>
    Address,

    /// <summary>The identifiers in another system.</summary>
    Outside,

    /// <summary>The telephone numbers.</summary>
    Phone,

    /// <summary>The given names.</summary>
    Given,

    /// <summary>The family names.</summary>
    Family,

    /// <summary>Where they belong: the domain of the address, or the organisation.</summary>
    Firm,

    /// <summary>What stands before the @ of addresses at different domains.</summary>
    Local,

    /// <summary>The job titles.</summary>
    Title,

    /// <summary>Whether both are active under one roof.</summary>
    Roof,
}

/// <summary>How far two records agree in a piece.</summary>
public enum MatchDegree
{
    /// <summary>One of them says nothing about it.</summary>
    Missing,

    /// <summary>They agree.</summary>
    Same,

    /// <summary>The one is a short form of the other.</summary>
    ShortForm,

    /// <summary>They differ by one slip.</summary>
    Slip,

    /// <summary>They differ by two slips, or by one in a letter that is written with two.</summary>
    Near,

    /// <summary>The one is the initial of the other.</summary>
    Initial,

    /// <summary>The one is a further name of the other.</summary>
    Further,

    /// <summary>The one stands in the address of the other.</summary>
    InAddress,

    /// <summary>They sound alike.</summary>
    Sound,

    /// <summary>Given and family name are swapped.</summary>
    Swapped,

    /// <summary>They contradict one another.</summary>
    Differ,
}

/// <summary>What two records come to, piece by piece: the degrees, and what each weighs in bits, the base-2 logarithm of how much more often it is so with one human than with two.</summary>
internal struct Evidence
{
    public const int Pieces = (int)MatchPiece.Roof + 1;

    private Bits _bits;
    private Degrees _degrees;

    public float this[MatchPiece piece] => _bits[(int)piece];

    public MatchDegree DegreeOf(MatchPiece piece) => _degrees[(int)piece];

    public void Put(MatchPiece piece, MatchDegree degree, float bits)
    {
        _degrees[(int)piece] = degree;
        _bits[(int)piece] = bits;
    }

    /// <summary>Lets a piece weigh no more than so much.</summary>
    public void Cap(MatchPiece piece, float most) => _bits[(int)piece] = Math.Min(_bits[(int)piece], most);

    public readonly float Sum()
    {
        var sum = 0f;
        foreach (var one in _bits)
            sum += one;
        return sum;
    }

    [System.Runtime.CompilerServices.InlineArray(Pieces)]
    private struct Bits
    {
        private float _first;
    }

    [System.Runtime.CompilerServices.InlineArray(Pieces)]
    private struct Degrees
    {
        private MatchDegree _first;
    }
}
