namespace ComeAboard.Core.Invitations;

/// <summary>What is known of an address before it is invited.</summary>
/// <param name="MemberId">The id of the active member at this address, if there is one.</param>
/// <param name="PendingId">The id of the pending invitation to this address, if there is one.</param>
/// <param name="OptedOut">Whether its owner asked not to be invited.</param>
/// <param name="Bounce">What the mail server said when mail to it came back for good; null when none did.</param>
/// <param name="IsPersonal">Whether it is the main address of an account that is held personally; told only at a domain the workspace has proved, for elsewhere that is nobody's business.</param>
/// <param name="MailsLately">How many invitations and reminders went to it from here in the last 24 hours.</param>
public sealed record AddressStanding(
    Guid? MemberId,
    Guid? PendingId,
    bool OptedOut,
    string? Bounce = null,
    bool IsPersonal = false,
    int MailsLately = 0
);

/// <summary>Whether an address may be invited.</summary>
public static class InvitingRules
{
    /// <summary>How many invitations and reminders may go to one address in 24 hours, inclusive: whoever did not see six does not want a seventh.</summary>
    public const int MostMailsADay = 6;

    /// <summary>
    /// Decides whether an invitation may go to an address. Refuses with <c>address.member</c>, <c>address.invited</c>,
    /// <c>address.opted-out</c>, <c>address.bounced</c> or <c>address.mailed-enough</c>; each names the right next step in place of a second invitation.
    /// </summary>
    public static Refusal? Forbids(EmailAddress address, AddressStanding standing)
    {
        if (standing.MemberId is not null)
            return Refuse(
                "member",
                $"{address} is already a member here.",
                "Open the person's page to see or end what they may do.",
                standing.MemberId
            );
        if (standing.OptedOut)
            return Refuse(
                "opted-out",
                $"The owner of {address} asked not to be invited again.",
                "Speak to them another way; only they can lift this."
            );
        if (standing.PendingId is not null)
            return Refuse(
                "invited",
                $"{address} is already invited and has not answered yet.",
                "Resend that invitation, or revoke it before inviting with other terms.",
                standing.PendingId
            );
        if (standing.Bounce is { } why)
            return Refuse(
                "bounced",
                $"Mail to {address} came back: {EnhancedStatus.Explain(why)}.",
                "Correct the address, or take it off the list of bounced addresses once it works again."
            );
        if (standing.MailsLately >= MostMailsADay)
            return Refuse(
                "mailed-enough",
                $"{standing.MailsLately} mails went to {address} within a day; one more would be a nuisance.",
                "Speak to the person another way, or wait until tomorrow."
            );
        return null;
    }

    private static Refusal Refuse(string code, string sentence, string remedy, Guid? related = null) =>
        new("address." + code, sentence, remedy, RefusalSort.Conflict, "address", related);
}
