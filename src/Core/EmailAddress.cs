using System.Diagnostics.CodeAnalysis;
using System.Globalization;
using System.Text;

namespace ComeAboard.Core;

/// <summary>
/// One mail address (RFC 5321 section 4.1.2, internationalised by RFC 6531), kept as it was written and
/// with a key by which two writings of the same mailbox are recognised.
/// </summary>
/// <remarks>
/// Accepted are both forms of the local part and a domain of at least two labels. A quoted local part keeps its quotes only
/// where it needs them, so that one mailbox has one writing. Address literals are refused: nobody is invited at
/// <c>[192.0.2.1]</c>.
/// The key lower-cases both halves. RFC 5321 leaves the local part to its host; every mail host in practice ignores case.
/// </remarks>
public sealed record EmailAddress
{
    /// <summary>Longest whole address in octets of UTF-8, inclusive (RFC 5321 section 4.5.3.1.3 less the angle brackets).</summary>
    public const int LongestAddress = 254;

    /// <summary>Longest local part in octets of UTF-8, inclusive (RFC 5321 section 4.5.3.1.1).</summary>
    public const int LongestLocalPart = 64;

    private static readonly IdnMapping Idn = new() { AllowUnassigned = false, UseStd3AsciiRules = true };

    private EmailAddress(string local, string domain, string asciiDomain)
    {
        LocalPart = local;
        Domain = domain;
        Key = local.ToLowerInvariant() + "@" + asciiDomain;
    }

    /// <summary>The part before the @, as written.</summary>
    public string LocalPart { get; }

    /// <summary>The domain in lower case and Unicode form.</summary>
    public string Domain { get; }

    /// <summary>The form by which addresses are compared: lower case, domain in its ASCII form (RFC 5890).</summary>
    public string Key { get; }

    /// <summary>The domain as it is compared: lower case, in its ASCII form.</summary>
    public string DomainKey => Key[(Key.LastIndexOf('@') + 1)..];

    /// <summary>The address as shown and written to.</summary>
    public override string ToString() => LocalPart + "@" + Domain;

    /// <summary>Whether the address is at a mail domain or one of its subdomains.</summary>
    /// <param name="domain">A domain in lower case and Unicode form.</param>
    public bool IsAt(string domain) =>
        Domain == domain || Domain.EndsWith("." + domain, StringComparison.Ordinal);

    /// <summary>Two addresses are equal when their <see cref="Key"/> is.</summary>
    public bool Equals([NotNullWhen(true)] EmailAddress? other) => other is not null && Key == other.Key;

    /// <inheritdoc/>
    public override int GetHashCode() => Key.GetHashCode(StringComparison.Ordinal);

    /// <summary>Reads one bare address; white space around it is ignored. Never throws and never corrects.</summary>
    /// <param name="text">What somebody typed.</param>
    /// <returns>
    /// The address, or one of <c>address.missing</c>, <c>address.too-long</c>, <c>address.malformed</c>,
    /// <c>address.domain-malformed</c>. What only looks odd is no refusal: see <see cref="Invitations.DomainsInUse.Notes"/>.
    /// </returns>
    public static Outcome<EmailAddress> Read(string? text)
    {
        var trimmed = (text ?? "").Trim();
        if (trimmed.Length == 0)
            return Refuse(
                "missing",
                "No mail address was given.",
                "Give one address, such as mira@harbour.example."
            );
        if (trimmed.Length > 4 * LongestAddress || Octets(trimmed) > LongestAddress)
            return Refuse(
                "too-long",
                $"The address is longer than {LongestAddress} octets.",
                "Check that only one address was pasted."
            );

        var at = trimmed.LastIndexOf('@');
        if (at <= 0 || at == trimmed.Length - 1)
            return Malformed("It needs a name, an @ and a domain.");
        var local = trimmed[..at];
        if (Unquote(local) is { } inside)
        {
            // Quotes that nothing needs are left away (RFC 5321 section 4.1.2).
            local = LocalPartFault(inside) is null ? inside : Quote(inside);
            if (QuotedFault(local, inside) is { } wrong)
                return Malformed(wrong);
        }
        else if (local.Contains('@', StringComparison.Ordinal))
            return Malformed("There is more than one @ in it.");
        else if (LocalPartFault(local) is { } fault)
            return Malformed(fault);
        return ReadDomain(local, trimmed[(at + 1)..]);
    }

    /// <summary>What stands between the quotes of a quoted local part; null when it is not a single quoted string.</summary>
    private static string? Unquote(string local)
    {
        if (local.Length < 3 || local[0] != '"' || local[^1] != '"')
            return null;
        var inside = new StringBuilder();
        for (var i = 1; i < local.Length - 1; i++)
        {
            if (local[i] == '"' || local[i] == '\\' && ++i == local.Length - 1)
                return null;
            inside.Append(local[i]);
        }
        return inside.ToString();
    }

    private static string Quote(string inside) =>
        "\""
        + inside
            .Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("\"", "\\\"", StringComparison.Ordinal)
        + "\"";

    private static string? QuotedFault(string local, string inside)
    {
        if (Octets(local) > LongestLocalPart)
            return $"The part before the @ is longer than {LongestLocalPart} octets.";
        foreach (var rune in inside.EnumerateRunes())
        {
            if (rune == Rune.ReplacementChar || !(IsAtomText(rune) || rune.Value is >= ' ' and <= '~'))
                return $"The character U+{rune.Value:X4} may not stand in the part before the @.";
        }
        return null;
    }

    private static Outcome<EmailAddress> ReadDomain(string local, string written)
    {
        string domain;
        string ascii;
        try
        {
            domain = written.Normalize(NormalizationForm.FormC).ToLowerInvariant();
            ascii = Idn.GetAscii(domain).ToLowerInvariant();
            domain = Idn.GetUnicode(ascii);
        }
        catch (ArgumentException)
        {
            return DomainMalformed();
        }

        var labels = ascii.Split('.');
        if (
            labels.Length < 2
            || ascii.Length > 253
            || labels.Any(IsBadLabel)
            || labels[^1].All(char.IsAsciiDigit)
        )
            return DomainMalformed();
        return new EmailAddress(local, domain, ascii);
    }

    private static bool IsBadLabel(string label) =>
        label.Length is 0 or > 63
        || label[0] == '-'
        || label[^1] == '-'
        || !label.All(c => char.IsAsciiLetterOrDigit(c) || c == '-');

    private static string? LocalPartFault(string local)
    {
        if (Octets(local) > LongestLocalPart)
            return $"The part before the @ is longer than {LongestLocalPart} octets.";
        if (local[0] == '.' || local[^1] == '.' || local.Contains("..", StringComparison.Ordinal))
            return "A dot may not begin, end or double in the part before the @.";
        foreach (var rune in local.EnumerateRunes())
        {
            if (rune == Rune.ReplacementChar || !IsAtomText(rune))
                return $"The character U+{rune.Value:X4} may not stand in the part before the @.";
        }
        return null;
    }

    private static bool IsAtomText(Rune rune) =>
        rune.IsAscii
            ? char.IsAsciiLetterOrDigit((char)rune.Value)
                || "!#$%&'*+-/=?^_`{|}~.".Contains((char)rune.Value, StringComparison.Ordinal)
            : Rune.IsLetterOrDigit(rune)
                || Rune.GetUnicodeCategory(rune)
                    is UnicodeCategory.NonSpacingMark
                        or UnicodeCategory.SpacingCombiningMark;

    private static int Octets(string text) => Encoding.UTF8.GetByteCount(text);

    private static Refusal Malformed(string why) =>
        Refuse("malformed", $"That is not a mail address. {why}", "Correct the address and try again.");

    private static Refusal DomainMalformed() =>
        Refuse(
            "domain-malformed",
            "The part after the @ is not a mail domain.",
            "Correct it; it should look like harbour.example."
        );

    private static Refusal Refuse(string code, string sentence, string remedy) =>
        new("address." + code, sentence, remedy, RefusalSort.Invalid, "address");
}
