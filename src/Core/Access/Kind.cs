namespace ComeAboard.Core.Access;

/// <summary>Which of the four kinds of people somebody is here.</summary>
public enum Kind
{
    /// <summary>Inside: the workspace's own people.</summary>
    Staff,

    /// <summary>Outside: a person in their own right.</summary>
    Guest,

    /// <summary>Outside: working alongside, from another body.</summary>
    Partner,

    /// <summary>Outside: being worked for.</summary>
    Client,
}

/// <summary>What is asked about a <see cref="Kind"/>.</summary>
public static class Kinds
{
    /// <summary>All of them, the inside one first.</summary>
    public static IReadOnlyList<Kind> All { get; } = Enum.GetValues<Kind>();

    /// <summary>Whether the kind is outside: everything but staff.</summary>
    public static bool IsOutsider(this Kind kind) => kind != Kind.Staff;

    /// <summary>The word of the kind, in lower case.</summary>
    public static string Word(this Kind kind) => kind.ToString().ToLowerInvariant();

    /// <summary>Reads the word of a kind in any case; refuses with <c>kind.unknown</c>.</summary>
    public static Outcome<Kind> Read(string? word) =>
        Words.Find<Kind>(word) is { } kind
            ? kind
            : new Refusal(
                "kind.unknown",
                $"There is no kind \"{Words.Short(word)}\".",
                $"Use one of: {Words.All<Kind>()}.",
                Field: "kind"
            );
}
