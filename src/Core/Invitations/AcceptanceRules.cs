namespace ComeAboard.Core.Invitations;

/// <summary>With which account somebody answers an invitation, and what they have shown.</summary>
public abstract record Arrival
{
    private Arrival() { }

    /// <summary>A new account at the invited address: holding the mailed secret proves the mailbox.</summary>
    /// <param name="AddressIsProvedElsewhere">Whether an account has already proved the invited address.</param>
    public sealed record WithNewAccount(bool AddressIsProvedElsewhere) : Arrival;

    /// <summary>An account already held, to which its holder has signed in.</summary>
    /// <param name="HoldsInvitedAddress">Whether the invited address is one of the account's own.</param>
    /// <param name="InvitedAddressIsProvedElsewhere">Whether another account has proved the invited address.</param>
    /// <param name="CodeShown">Whether a code sent to the invited address just now was given back.</param>
    /// <param name="IsMemberHere">Whether the account is already an active member of the workspace.</param>
    public sealed record WithHeldAccount(
        bool HoldsInvitedAddress,
        bool InvitedAddressIsProvedElsewhere,
        bool CodeShown,
        bool IsMemberHere
    ) : Arrival;
}

/// <summary>Who may answer an invitation with which account.</summary>
public static class AcceptanceRules
{
    /// <summary>
    /// Refuses with <c>account.exists</c>, <c>account.member</c>, <c>account.address-taken</c> or <c>code.needed</c>;
    /// null lets the person in. A forwarded mail thus never joins a stranger's account to the invited address.
    /// </summary>
    public static Refusal? Forbids(EmailAddress invited, Arrival arrival) =>
        arrival switch
        {
            Arrival.WithNewAccount { AddressIsProvedElsewhere: true } => new Refusal(
                "account.exists",
                $"There is already an account at {invited}.",
                "Sign in with it to accept.",
                RefusalSort.Conflict
            ),
            Arrival.WithHeldAccount { IsMemberHere: true } => new Refusal(
                "account.member",
                "This account is already a member of the workspace.",
                "Accept with another account, or decline the invitation.",
                RefusalSort.Conflict
            ),
            Arrival.WithHeldAccount { HoldsInvitedAddress: false, InvitedAddressIsProvedElsewhere: true } =>
                new Refusal(
                    "account.address-taken",
                    $"{invited} belongs to another account.",
                    "Sign in with that account to accept.",
                    RefusalSort.Conflict
                ),
            Arrival.WithHeldAccount { HoldsInvitedAddress: false, CodeShown: false } => new Refusal(
                "code.needed",
                $"Your account has another address than {invited}, to which this invitation was sent.",
                $"Have a code sent to {invited} and give it here.",
                RefusalSort.NotAllowed,
                "code"
            ),
            _ => null,
        };
}
