namespace ComeAboard.Core.Accounts;

/// <summary>The words for what follows when nobody answers a claim.</summary>
public static class Silences
{
    /// <summary>The word: let-be, take or release.</summary>
    public static string Word(this Silence silence) =>
        silence == Silence.LetBe ? "let-be" : silence.ToString().ToLowerInvariant();

    /// <summary>Reads a word; nothing stands for let-be. Refuses with <c>claim.silence</c>.</summary>
    /// <param name="word">The word.</param>
    public static Outcome<Silence> Read(string? word)
    {
        if (string.IsNullOrWhiteSpace(word))
            return Silence.LetBe;
        foreach (var silence in Enum.GetValues<Silence>())
            if (silence.Word().Equals(word.Trim(), StringComparison.OrdinalIgnoreCase))
                return silence;
        return new Refusal(
            "claim.silence",
            $"\"{Words.Short(word)}\" is not what can follow from silence.",
            "Say let-be, take or release.",
            Field: "claimSilence"
        );
    }
}
