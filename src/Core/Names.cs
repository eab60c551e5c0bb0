namespace ComeAboard.Core;

/// <summary>How names of things in a workspace are compared.</summary>
public static class Names
{
    /// <summary>
    /// The one form in which names are compared, stored and looked up: two things have the same name when these are the same,
    /// character by character.
    /// </summary>
    /// <param name="name">A name as somebody wrote it.</param>
    public static string KeyOf(string name) => name.Trim().ToLowerInvariant();
}
