using System.Collections.Concurrent;

namespace ComeAboard.Core.Matching;

/// <summary>
/// A record as numbers: what is compared of it. Given and family names share one space of numbers, so that whether they are
/// swapped is a plain comparison. -1 stands for what is missing.
/// </summary>
internal struct Pieces
{
    public int Given;
    public int Middle;
    public int Family;

    /// <summary>Another family name: the second part of a double one, or a middle name that may be one.</summary>
    public int Second;

    /// <summary>The words of the address's local part that are not initials.</summary>
    public int LocalOne;
    public int LocalTwo;

    /// <summary>The whole local part, where it is somebody's and not a role's.</summary>
    public int Local;
    public int Address;

    /// <summary>Where further addresses begin in the list of them, and how many there are.</summary>
    public int More;
    public int MoreCount;

    /// <summary>The domain of the address; replaced by the domain usual for the organisation where it is a public one.</summary>
    public int Firm;
    public int Organisation;
    public int Title;
    public int Phone;
    public int Source;
    public int Outside;
    public int Roof;

    /// <summary>First letters; 0 for none.</summary>
    public char GivenLetter;
    public char MiddleLetter;

    /// <summary>Whether the local part is made of the record's own names, and so tells nothing beside them.</summary>
    public bool IsLocalBuilt;

    public static Pieces Empty { get; } =
        new()
        {
            Given = -1,
            Middle = -1,
            Family = -1,
            Second = -1,
            LocalOne = -1,
            LocalTwo = -1,
            Local = -1,
            Address = -1,
            Firm = -1,
            Organisation = -1,
            Title = -1,
            Phone = -1,
            Source = -1,
            Outside = -1,
            Roof = -1,
        };
}

/// <summary>The numbers of everything that is written in some records.</summary>
/// <param name="records">How many records there are.</param>
/// <param name="workers">How many threads ask at once.</param>
internal sealed class Vocabularies(int records, int workers)
{
    public Vocabulary Names { get; } = new(records / 4 + 1_000, workers);
    public Numbers Locals { get; } = new(records);
    public Numbers Addresses { get; } = new(records);
    public Vocabulary Domains { get; } = new(records / 8 + 100, workers);
    public Numbers Organisations { get; } = new(records / 8 + 100);

    /// <summary>By the number of an organisation of several words the number and the length of what its first letters spell.</summary>
    public ConcurrentDictionary<int, (int Number, int Letters)> Initials { get; } = new();
    public Numbers Titles { get; } = new(1_000);
    public Numbers Phones { get; } = new(records / 4 + 100);
    public Numbers Sources { get; } = new(10);
    public Numbers Outsides { get; } = new(records / 8 + 100);
    public Numbers Roofs { get; } = new(10);
}
