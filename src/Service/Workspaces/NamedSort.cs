using ComeAboard.Core;
using ComeAboard.Core.Access;

namespace ComeAboard.Service.Workspaces;

/// <summary>What things with names of one sort are called, and how many of them there may be.</summary>
/// <param name="Word">One of them, in sentences.</param>
/// <param name="Most">How many there may be, inclusive.</param>
/// <param name="Duty">The duty it takes to make, change or remove one.</param>
/// <param name="Code">How codes of refusals and entries of the record begin, where that is not the word.</param>
/// <param name="Taken">Names that mean something else where they are looked up.</param>
public sealed record NamedSort(
    string Word,
    int Most,
    Duties Duty,
    string? Code = null,
    params IReadOnlyList<string> Taken
)
{
    /// <summary>How codes of refusals and entries of the record begin.</summary>
    public string Prefix => Code ?? Word;

    /// <summary>Reads a name for one of them; refuses with <c>name.missing</c>, <c>name.reserved</c> or what is wrong with the text.</summary>
    public Outcome<string> ReadName(string? written)
    {
        if (!PlainText.ReadName(written).Try(out var name, out var refusal))
            return refusal;
        if (name.Length == 0)
            return new Refusal("name.missing", $"The {Word} has no name.", "Give it one.", Field: "name");
        return Guid.TryParse(name, out _) || Taken.Contains(name, StringComparer.OrdinalIgnoreCase)
            ? new Refusal("name.reserved", "That name is not free.", "Take another name.", Field: "name")
            : name;
    }

    /// <summary>Reads a name and a line about the thing.</summary>
    public Outcome<AboutWords> ReadWords(string? name, string? about)
    {
        if (!ReadName(name).Try(out var readName, out var refusal))
            return refusal;
        return PlainText.ReadMessage(about).Try(out var readAbout, out refusal)
            ? new AboutWords(readName, readAbout)
            : refusal with
            {
                Field = "about",
            };
    }

    /// <summary>For a name that another of them has.</summary>
    public Refusal NameTaken(string name) =>
        new(
            Prefix + ".name-taken",
            $"Another {Word} is called \"{name}\".",
            "Take another name, or change that one.",
            RefusalSort.Conflict,
            "name"
        );

    /// <summary>For one more than there may be.</summary>
    public Refusal TooMany =>
        new(
            Prefix + ".too-many",
            $"There are {Most} {Word}s already.",
            "Remove one that is not used.",
            RefusalSort.Conflict
        );

    /// <summary>For one that is still used; says by what.</summary>
    public Refusal InUse(string why, string remedy) =>
        new(Prefix + ".in-use", why, remedy, RefusalSort.Conflict);

    /// <summary>For a name or id that none of them has.</summary>
    public Refusal Unknown(string written) =>
        new(
            Prefix + ".unknown",
            $"There is no {Word} \"{Words.Short(written)}\" in this workspace.",
            $"Look at the list of {Word}s.",
            RefusalSort.NotFound,
            Prefix
        );
}

/// <summary>A name and a line about the thing.</summary>
public sealed record AboutWords(string Name, string About) : INamed;
