using System.Text.RegularExpressions;

namespace ComeAboard.Core.Invitations;

/// <summary>What mail servers mean by their numbers (RFC 3463), in plain words.</summary>
public static partial class EnhancedStatus
{
    /// <summary>Finds the enhanced status code in a mail server's answer: 5.1.1. Null when there is none.</summary>
    public static string? In(string? answer) =>
        answer is not null && Code().Match(answer) is { Success: true } match ? match.Value : null;

    /// <summary>
    /// What a server's answer means, as the end of a sentence: "the mailbox does not exist". The server's own words
    /// when the number says nothing.
    /// </summary>
    public static string Explain(string? answer)
    {
        var code = In(answer);
        var rest = code is null ? "" : code[(code.IndexOf('.', StringComparison.Ordinal) + 1)..];
        return rest switch
        {
            "1.1" or "1.6" => "the mailbox does not exist",
            "1.2" or "1.10" or "4.4" => "the mail domain does not exist or takes no mail",
            "1.3" => "the address is not written as that server wants it",
            "2.1" => "the mailbox is switched off",
            "2.2" => "the mailbox is full",
            "3.4" or "2.3" => "the mail was too large for that mailbox",
            "4.1" or "4.2" => "the recipient's mail server does not answer",
            "4.7" => "the mail server gave up after trying for too long",
            "4.6" => "the mail was sent round in a circle",
            "7.1" or "7.0" => "the recipient's mail server does not want this mail",
            "7.20" or "7.21" or "7.22" or "7.23" or "7.25" or "7.26" =>
                "the recipient's mail server could not see that the mail is really ours",
            "0.0" when answer!.Trim() == code => "the mail server did not say why",
            _ => string.IsNullOrWhiteSpace(answer) ? "no reason was given" : answer.Trim().TrimEnd('.'),
        };
    }

    [GeneratedRegex(@"\b[245]\.\d{1,3}\.\d{1,3}\b", RegexOptions.CultureInvariant)]
    private static partial Regex Code();
}
