namespace ComeAboard.Core.Accounts;

/// <summary>
/// What a password must be (OWASP ASVS 5.0, 6.2): length and nothing else; no composition rules, and never one that
/// repeats the address or the name.
/// </summary>
public static class PasswordRules
{
    /// <summary>Shortest password in characters, inclusive.</summary>
    public const int Shortest = 10;

    /// <summary>Longest password in characters, inclusive.</summary>
    public const int Longest = 128;

    /// <summary>Refuses with <c>password.too-short</c>, <c>password.too-long</c> or <c>password.too-plain</c>.</summary>
    /// <param name="password">The wish.</param>
    /// <param name="known">Words an attacker would try first: the address, the name.</param>
    public static Refusal? Forbids(string? password, params IEnumerable<string> known)
    {
        if (password is null || password.Length < Shortest)
            return Refuse(
                "too-short",
                $"The password is shorter than {Shortest} characters.",
                "Use a few words together."
            );
        if (password.Length > Longest)
            return Refuse("too-long", $"The password is longer than {Longest} characters.", "Shorten it.");
        var plain =
            password.Distinct().Count() < 4
            || Common.Contains(password.ToLowerInvariant())
            || known.Any(word =>
                word.Length > 0 && string.Equals(word, password, StringComparison.OrdinalIgnoreCase)
            );
        return plain
            ? Refuse(
                "too-plain",
                "The password would be guessed at once.",
                "Use a few words that do not belong together."
            )
            : null;
    }

    private static readonly HashSet<string> Common =
    [
        "password123",
        "password1234",
        "passwordpassword",
        "1234567890",
        "0123456789",
        "12345678910",
        "123456789012",
        "qwertyuiop",
        "qwerty12345",
        "1q2w3e4r5t",
        "iloveyou123",
        "letmein1234",
        "administrator",
        "welcome1234",
        "changeme123",
    ];

    private static Refusal Refuse(string code, string sentence, string remedy) =>
        new("password." + code, sentence, remedy, Field: "password");
}
