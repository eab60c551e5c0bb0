namespace ComeAboard.Core.Access;

/// <summary>How far somebody may go in an area or with a resource; each level includes those before it.</summary>
public enum Level
{
    /// <summary>Not at all.</summary>
    None,

    /// <summary>See.</summary>
    View,

    /// <summary>See, add, and change only what one made oneself.</summary>
    Contribute,

    /// <summary>Change everything.</summary>
    Edit,

    /// <summary>Change everything and decide how it is arranged.</summary>
    Manage,
}

/// <summary>Reading and writing levels.</summary>
public static class Levels
{
    /// <summary>The word of the level, in lower case.</summary>
    public static string Word(this Level level) => level.ToString().ToLowerInvariant();

    /// <summary>Reads the word of a level in any case; refuses with <c>level.unknown</c>.</summary>
    public static Outcome<Level> Read(string? word) =>
        Words.Find<Level>(word) is { } level
            ? level
            : new Refusal(
                "level.unknown",
                $"There is no level \"{Words.Short(word)}\".",
                $"Use one of: {Words.All<Level>()}.",
                Field: "level"
            );
}
