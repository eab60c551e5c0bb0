namespace ComeAboard.Core.Matching;

/// <summary>What is written down of somebody, where it is to be found out who is the same human; all of it may be missing.</summary>
/// <param name="Name">The whole name, in any order usual for names; used where given and family name are not told apart.</param>
/// <param name="GivenName">The given names.</param>
/// <param name="FamilyName">The family name.</param>
/// <param name="Address">The mail address.</param>
/// <param name="OtherAddresses">Other known addresses, parted by commas, semicolons or blanks.</param>
/// <param name="Organisation">The organisation.</param>
/// <param name="Title">The job title.</param>
/// <param name="ExternalId">An identifier in another system; of two records of one system different ones tell that they are two people.</param>
/// <param name="Source">Which other system that is; empty for one and the same for all.</param>
/// <param name="Phone">A telephone number.</param>
/// <param name="Roof">Where both being active tells that two are not one, as the id of a workspace; empty for nowhere.</param>
public sealed record MatchRecord(
    string? Name = null,
    string? GivenName = null,
    string? FamilyName = null,
    string? Address = null,
    string? OtherAddresses = null,
    string? Organisation = null,
    string? Title = null,
    string? ExternalId = null,
    string? Source = null,
    string? Phone = null,
    string? Roof = null
);

/// <summary>What is thought of two records.</summary>
public enum MatchVerdict
{
    /// <summary>Hardly one human.</summary>
    Unlikely,

    /// <summary>More likely one human than not.</summary>
    Likely,

    /// <summary>One human, as good as certain.</summary>
    Same,
}

/// <summary>Where the verdicts begin, as probabilities; both inclusive.</summary>
public static class MatchThresholds
{
    /// <summary>From here on two records are likely one human.</summary>
    public const double Likely = 0.60;

    /// <summary>From here on they are the same.</summary>
    public const double Same = 0.95;

    /// <summary>The verdict of a probability.</summary>
    public static MatchVerdict Of(double score) =>
        score >= Same ? MatchVerdict.Same
        : score >= Likely ? MatchVerdict.Likely
        : MatchVerdict.Unlikely;
}

/// <summary>Two records that may be one human.</summary>
/// <param name="Left">The place of the one in its list, from 0.</param>
/// <param name="Right">The place of the other in its list, from 0; within one list the later one.</param>
/// <param name="Score">The probability that they are one, 0 to 1.</param>
public readonly record struct MatchPair(int Left, int Right, double Score)
{
    /// <summary>What is thought of them.</summary>
    public MatchVerdict Verdict => MatchThresholds.Of(Score);
}
