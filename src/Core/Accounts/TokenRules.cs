namespace ComeAboard.Core.Accounts;

/// <summary>How long an API token counts.</summary>
public static class TokenRules
{
    /// <summary>The life of a token in days when nothing is said.</summary>
    public const int UsualDays = 90;

    /// <summary>The longest life of a token in days, inclusive.</summary>
    public const int LongestDays = 365;

    /// <summary>The first instant at which a token does not count any more (exclusive end); refuses with <c>token.days</c>.</summary>
    /// <param name="days">How many days from now; null for the usual.</param>
    /// <param name="now">The instant at which it is made.</param>
    public static Outcome<DateTimeOffset> End(int? days, DateTimeOffset now) =>
        days is null or (>= 1 and <= LongestDays)
            ? now.AddDays(days ?? UsualDays)
            : new Refusal(
                "token.days",
                $"A token counts 1 to {LongestDays} days.",
                "Correct the number.",
                Field: "days"
            );
}
