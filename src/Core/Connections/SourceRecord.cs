using System.Globalization;
using System.Text;
using ComeAboard.Core.Matching;

namespace ComeAboard.Core.Connections;

/// <summary>Somebody as an outside system writes them down. What it does not say is empty.</summary>
/// <param name="Key">By what the system itself tells its records apart; stays the same from one reading to the next.</param>
public sealed record SourceRecord(string Key)
{
    /// <summary>The longest key, in characters.</summary>
    public const int LongestKey = 500;

    /// <summary>The longest of all other texts, in characters; what is longer is cut.</summary>
    public const int LongestText = 300;

    /// <summary>The mail address, as it is written there.</summary>
    public string Address { get; init; } = "";

    /// <summary>Other addresses, parted by blanks.</summary>
    public string OtherAddresses { get; init; } = "";

    /// <summary>The whole name.</summary>
    public string Name { get; init; } = "";

    /// <summary>The given names.</summary>
    public string GivenName { get; init; } = "";

    /// <summary>The family name.</summary>
    public string FamilyName { get; init; } = "";

    /// <summary>The organisation.</summary>
    public string Organisation { get; init; } = "";

    /// <summary>The job title.</summary>
    public string Title { get; init; } = "";

    /// <summary>The department.</summary>
    public string Department { get; init; } = "";

    /// <summary>Whom they report to.</summary>
    public string Manager { get; init; } = "";

    /// <summary>The country.</summary>
    public string Country { get; init; } = "";

    /// <summary>A telephone number.</summary>
    public string Phone { get; init; } = "";

    /// <summary>Whether the system says of them that they may not sign in there.</summary>
    public bool IsOff { get; init; }

    /// <summary>The name by which they are shown: the whole one, else its parts, else the address, else the key.</summary>
    public string Shown =>
        Name.Length > 0 ? Name
        : GivenName.Length + FamilyName.Length > 0 ? $"{GivenName} {FamilyName}".Trim()
        : Address.Length > 0 ? Address
        : Key;

    /// <summary>
    /// The record with texts that can be shown and kept: in one line each, without what cannot be seen, and not longer than
    /// <see cref="LongestText"/>.
    /// </summary>
    public SourceRecord Tidied() =>
        this with
        {
            Address = Tidy(Address),
            OtherAddresses = Tidy(OtherAddresses),
            Name = Tidy(Name),
            GivenName = Tidy(GivenName),
            FamilyName = Tidy(FamilyName),
            Organisation = Tidy(Organisation),
            Title = Tidy(Title),
            Department = Tidy(Department),
            Manager = Tidy(Manager),
            Country = Tidy(Country),
            Phone = Tidy(Phone),
        };

    private static string Tidy(string text)
    {
        var tidy = new StringBuilder(Math.Min(text.Length, LongestText));
        foreach (var rune in text.EnumerateRunes())
        {
            var isBlank = Rune.IsWhiteSpace(rune) || Rune.IsControl(rune);
            if (isBlank && (tidy.Length == 0 || tidy[^1] == ' '))
                continue;
            if (
                !isBlank
                && Rune.GetUnicodeCategory(rune) is UnicodeCategory.Format or UnicodeCategory.Surrogate
            )
                continue;
            if (tidy.Length + rune.Utf16SequenceLength > LongestText)
                break;
            tidy.Append(isBlank ? " " : rune.ToString());
        }
        return tidy.ToString().TrimEnd();
    }

    /// <summary>What is weighed when it is found out who they are.</summary>
    internal MatchRecord ToMatch() =>
        new(
            Name: Name,
            GivenName: GivenName,
            FamilyName: FamilyName,
            Address: Address,
            OtherAddresses: OtherAddresses,
            Organisation: Organisation,
            Title: Title,
            Phone: Phone
        );
}

/// <summary>What is thought of a record of an outside system, in the order in which one looks at them.</summary>
public enum SourceVerdict
{
    /// <summary>It may be several people here, or several records may be one person here: somebody has to say.</summary>
    Conflicting,

    /// <summary>More likely somebody who is here than not.</summary>
    Likely,

    /// <summary>Nobody who is here.</summary>
    New,

    /// <summary>Somebody who is here, as good as certain.</summary>
    Same,

    /// <summary>Nobody to bring in: it has no mail address, or is switched off there.</summary>
    Aside,
}

/// <summary>What is to be done with a record.</summary>
public enum SourceDecision
{
    /// <summary>It is somebody who is here: the profiles are joined.</summary>
    Join,

    /// <summary>It is somebody new: they are invited or added.</summary>
    Bring,

    /// <summary>It is left out, this time and every time.</summary>
    Leave,
}

/// <summary>The words of verdicts and decisions.</summary>
public static class SourceWords
{
    /// <summary>The word of a verdict: conflicting, likely, new, same, leave-out.</summary>
    public static string Word(this SourceVerdict verdict) =>
        verdict == SourceVerdict.Aside ? "leave-out" : verdict.ToString().ToLowerInvariant();

    /// <summary>The word of a decision: join, bring-in, leave-out.</summary>
    public static string Word(this SourceDecision decision) =>
        decision switch
        {
            SourceDecision.Join => "join",
            SourceDecision.Bring => "bring-in",
            _ => "leave-out",
        };

    /// <summary>Reads a decision; refuses with <c>decision.unknown</c>.</summary>
    public static Outcome<SourceDecision> ReadDecision(string? text) =>
        text?.Trim().ToLowerInvariant() switch
        {
            "join" => SourceDecision.Join,
            "bring-in" => SourceDecision.Bring,
            "leave-out" => SourceDecision.Leave,
            _ => new Refusal(
                "decision.unknown",
                $"There is no decision \"{Words.Short(text ?? "")}\".",
                "Say join, bring-in or leave-out; nothing takes back what was said.",
                Field: "decision"
            ),
        };

    /// <summary>What is done where nobody has said anything: what is certain only.</summary>
    public static SourceDecision? Suggested(this SourceVerdict verdict) =>
        verdict switch
        {
            SourceVerdict.Same => SourceDecision.Join,
            SourceVerdict.New => SourceDecision.Bring,
            SourceVerdict.Aside => SourceDecision.Leave,
            _ => null,
        };
}
