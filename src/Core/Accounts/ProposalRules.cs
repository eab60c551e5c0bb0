namespace ComeAboard.Core.Accounts;

/// <summary>A name or address that a workspace proposes to the holder of an account.</summary>
public static class ProposalRules
{
    /// <summary>How long it waits to be accepted.</summary>
    public static readonly TimeSpan Lifetime = TimeSpan.FromDays(14);

    /// <summary>Decides what may be proposed, or corrected; refuses with <c>correction.nothing</c> or <c>correction.same</c>.</summary>
    /// <param name="name">The name that is proposed; empty for none.</param>
    /// <param name="address">The address that is proposed; null for none.</param>
    /// <param name="nameNow">The account's name.</param>
    /// <param name="addressNow">Its main address.</param>
    public static Refusal? Forbids(
        string name,
        EmailAddress? address,
        string nameNow,
        EmailAddress addressNow
    )
    {
        if (name.Length == 0 && address is null)
            return new Refusal(
                "correction.nothing",
                "Neither a name nor an address was given.",
                "Give what is to be different.",
                Field: "name"
            );
        return (name.Length == 0 || name == nameNow) && (address is null || address.Key == addressNow.Key)
            ? new Refusal(
                "correction.same",
                "That is what the account has already.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            )
            : null;
    }
}
