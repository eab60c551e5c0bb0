namespace ComeAboard.Core.Invitations;

/// <summary>Something worth knowing about an address that does not stand in its way.</summary>
/// <param name="Code">Stable, dotted: <c>address.trimmed</c>.</param>
/// <param name="Sentence">What was seen, as a plain sentence.</param>
/// <param name="Suggestion">What was probably meant; null when there is nothing to suggest.</param>
public sealed record AddressNote(string Code, string Sentence, string? Suggestion = null)
{
    /// <summary>That an account at an address is held personally, and how its holder is asked.</summary>
    /// <param name="address">The address.</param>
    public static AddressNote Personal(EmailAddress address) =>
        new(
            "address.held-personally",
            $"There is an account at {address} already, held personally. Its holder can be asked whether it comes into your custody: aboard claims ask {address}"
        );
}

/// <summary>One entry of what somebody pasted: the text as it stood there, and what it was read as.</summary>
/// <param name="Written">The entry as written, without the separators around it.</param>
/// <param name="Name">The display name beside the address; empty for none.</param>
/// <param name="Address">The address; null when there is none.</param>
/// <param name="Fault">Why there is none; null when there is one.</param>
/// <param name="Notes">What was left out in reading, and what looks odd.</param>
public sealed record WrittenAddress(
    string Written,
    string Name,
    EmailAddress? Address,
    Refusal? Fault,
    IReadOnlyList<AddressNote> Notes
)
{
    /// <summary>
    /// The entry in the form of RFC 5322 section 3.4, name-addr or addr-spec; reading it again gives the same name and
    /// address without any note. What could not be read is given back as it was written.
    /// </summary>
    public override string ToString()
    {
        if (Address is null)
            return Written;
        if (Name.Length > 0)
            return $"{MailboxText.Quote(Name)} <{Address}>";
        return MailboxText.NeedsBrackets(Address) ? $"<{Address}>" : Address.ToString();
    }
}
