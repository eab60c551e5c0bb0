using System.Collections.Immutable;
using ComeAboard.Core.Invitations;

namespace ComeAboard.Core.Access;

/// <summary>A role: a name, a sentence for the people concerned, a level for each area, and duties.</summary>
/// <param name="Id">Its id; the built-in ones have the same in every workspace.</param>
/// <param name="Name">The name by which it is given; unique in the workspace, in any case.</param>
/// <param name="Sentence">What its holder can do, in plain words.</param>
/// <param name="Everywhere">The level in every area that is not named, areas still to come included.</param>
/// <param name="Areas">The level in the areas named, by the area's id.</param>
/// <param name="Duties">The duties it brings to staff who hold it in the whole workspace.</param>
public sealed record Role(
    Guid Id,
    string Name,
    string Sentence,
    Level Everywhere,
    ImmutableSortedDictionary<Guid, Level> Areas,
    Duties Duties
) : INamed
{
    /// <summary>The longest sentence, in characters, inclusive.</summary>
    public const int LongestSentence = 200;

    /// <summary>Sees everything.</summary>
    public static Role View { get; } =
        BuiltIn(1, "view", "See everything in the workspace.", Level.View, Duties.None);

    /// <summary>Sees everything, adds, and changes what they made themselves.</summary>
    public static Role Contribute { get; } =
        BuiltIn(
            4,
            "contribute",
            "See everything in the workspace, add to it, and change what you added.",
            Level.Contribute,
            Duties.None
        );

    /// <summary>Sees and changes everything.</summary>
    public static Role Edit { get; } =
        BuiltIn(2, "edit", "See and change everything in the workspace.", Level.Edit, Duties.None);

    /// <summary>Decides over everything; staff who hold it are administrators.</summary>
    public static Role Manage { get; } =
        BuiltIn(
            3,
            "manage",
            "See, change and arrange everything in the workspace.",
            Level.Manage,
            Duties.All
        );

    /// <summary>The roles every workspace has, least first; they cannot be changed.</summary>
    public static IReadOnlyList<Role> AllBuiltIn { get; } = [View, Contribute, Edit, Manage];

    /// <summary>Whether every workspace has this role.</summary>
    public bool IsBuiltIn => AllBuiltIn.Any(role => role.Id == Id);

    /// <summary>The level in an area; <see cref="Guid.Empty"/> stands for every area not named.</summary>
    public Level LevelIn(Guid area) => Areas.TryGetValue(area, out var level) ? level : Everywhere;

    /// <summary>The duties this role brings to a person of a kind. Duties are for staff: an outsider gets the levels alone.</summary>
    public Duties DutiesFor(Kind kind) => kind.IsOutsider() ? Duties.None : Duties;

    /// <summary>Whether staff who hold it in the whole workspace are administrators.</summary>
    public bool MakesAdministrators => Duties.HasFlag(DutyWords.OfAdministrator);

    /// <summary>What a person of a kind can do with this role, in one sentence.</summary>
    public string SentenceFor(Kind kind) =>
        kind == Kind.Staff && MakesAdministrators
            ? Sentence + " As an administrator: invite people, end their access, read the record."
            : Sentence;

    /// <summary>Reads a role's name and sentence; refuses with <c>role.name</c>, <c>name.*</c> or <c>role.sentence</c>.</summary>
    public static Outcome<(string Name, string Sentence)> ReadWords(string? name, string? sentence)
    {
        if (!PlainText.ReadName(name).Try(out var goodName, out var refusal))
            return refusal;
        if (goodName.Length == 0)
            return new Refusal("role.name", "The role has no name.", "Give it one.", Field: "name");
        if (!PlainText.ReadMessage(sentence).Try(out var goodSentence, out refusal))
            return refusal with { Field = "sentence" };
        return goodSentence.Length is 0 or > LongestSentence || goodSentence.Contains('\n')
            ? new Refusal(
                "role.sentence",
                $"A role needs one sentence of at most {LongestSentence} characters.",
                "Say in plain words what its holder can do.",
                Field: "sentence"
            )
            : (goodName, goodSentence);
    }

    private static Role BuiltIn(int number, string name, string sentence, Level level, Duties duties) =>
        new(
            new Guid($"00000000-0000-7000-8000-00000000000{number}"),
            name,
            sentence,
            level,
            ImmutableSortedDictionary<Guid, Level>.Empty,
            duties
        );
}
