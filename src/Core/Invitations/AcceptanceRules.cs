namespace ComeAboard.Core.Invitations;

/// <summary>With which account somebody answers an invitation, and what they have shown.</summary>
public abstract record Arrival
{
    private Arrival() { }

    /// <summary>A new account.</summary>
    /// <param name="At">At which address; by a link that was handed over it may be another than the invited one.</param>
    /// <param name="CodeShown">Whether a code sent to that address just now was given back.</param>
    /// <param name="IsProvedElsewhere">Whether an account has already proved that address.</param>
    public sealed record WithNewAccount(EmailAddress At, bool CodeShown, bool IsProvedElsewhere) : Arrival;

    /// <summary>An account already held, to which its holder has signed in.</summary>
    /// <param name="HoldsInvitedAddress">Whether the invited address is one of the account's own.</param>
    /// <param name="HasProvedInvitedAddress">Whether it has proved it, too.</param>
    /// <param name="InvitedAddressIsProvedElsewhere">Whether another account has proved the invited address.</param>
    /// <param name="CodeShown">Whether a code sent to the invited address just now was given back.</param>
    /// <param name="IsMemberHere">Whether the account is already an active member of the workspace.</param>
    /// <param name="ProvedAddress">The address the account has proved; null when it has proved none.</param>
    public sealed record WithHeldAccount(
        bool HoldsInvitedAddress,
        bool HasProvedInvitedAddress,
        bool InvitedAddressIsProvedElsewhere,
        bool CodeShown,
        bool IsMemberHere,
        EmailAddress? ProvedAddress
    ) : Arrival;
}

/// <summary>As whom somebody is let in who answers an invitation.</summary>
/// <param name="CameAs">The proved address they come with, when it is not the invited one; null otherwise.</param>
/// <param name="Proves">The address they have proved by coming; null for none.</param>
public sealed record Admission(EmailAddress? CameAs, EmailAddress? Proves);

/// <summary>Who may answer an invitation with which account.</summary>
public static class AcceptanceRules
{
    /// <summary>
    /// Lets somebody in, or refuses with <c>account.exists</c>, <c>account.member</c>, <c>account.address-taken</c> or
    /// <c>code.needed</c>. A mailed secret proves the mailbox it went to, to whoever holds no other address; a forwarded
    /// mail thus never joins a stranger's account to the invited address. A link handed over by another way proves
    /// nothing: whoever comes by it proves the invited address, or comes with another proved one on the word of whoever
    /// handed it over.
    /// </summary>
    /// <param name="invited">The invited address.</param>
    /// <param name="isHandedOver">Whether the link was handed over by another way than mail.</param>
    /// <param name="arrival">With which account.</param>
    public static Outcome<Admission> Admit(EmailAddress invited, bool isHandedOver, Arrival arrival) =>
        arrival switch
        {
            // Before it is shown that the mailbox is theirs, nobody learns whether there is an account at it.
            Arrival.WithNewAccount { CodeShown: false } unproved
                when isHandedOver || unproved.At.Key != invited.Key => CodeNeeded(
                $"This link was handed over, so it does not show that {unproved.At} is yours.",
                unproved.At
            ),
            Arrival.WithNewAccount { IsProvedElsewhere: true } taken => new Refusal(
                "account.exists",
                $"There is already an account at {taken.At}.",
                "Sign in with it to accept.",
                RefusalSort.Conflict
            ),
            Arrival.WithNewAccount arrived => new Admission(
                arrived.At.Key == invited.Key ? null : arrived.At,
                arrived.At
            ),
            Arrival.WithHeldAccount { IsMemberHere: true } => new Refusal(
                "account.member",
                "This account is already a member of the workspace.",
                "Accept with another account, or decline the invitation.",
                RefusalSort.Conflict
            ),
            Arrival.WithHeldAccount
            {
                HasProvedInvitedAddress: false,
                InvitedAddressIsProvedElsewhere: true
            } => new Refusal(
                "account.address-taken",
                $"{invited} belongs to another account.",
                "Sign in with that account to accept.",
                RefusalSort.Conflict
            ),
            Arrival.WithHeldAccount { HasProvedInvitedAddress: true } => new Admission(null, null),
            Arrival.WithHeldAccount { CodeShown: true } => new Admission(null, invited),
            Arrival.WithHeldAccount { HoldsInvitedAddress: true } when !isHandedOver => new Admission(
                null,
                invited
            ),
            Arrival.WithHeldAccount { ProvedAddress: { } own } when isHandedOver => new Admission(own, null),
            _ => CodeNeeded(
                $"Your account has another address than {invited}, to which this invitation was sent.",
                invited
            ),
        };

    private static Refusal CodeNeeded(string sentence, EmailAddress at) =>
        new(
            "code.needed",
            sentence,
            $"Have a code sent to {at} and give it here.",
            RefusalSort.NotAllowed,
            "code"
        );
}
