namespace ComeAboard.Core.Invitations;

/// <summary>What the holder of an invitation's link is told when it no longer counts.</summary>
public static class LinkRules
{
    /// <summary>For a link that is none: cut short in the mail, or mistyped.</summary>
    public static Refusal Malformed { get; } =
        new(
            "link.malformed",
            "The link is not complete.",
            "Open it from the mail again, or copy all of it.",
            RefusalSort.NotFound
        );

    /// <summary>For a link that belongs to no invitation, or to one that was sent again since.</summary>
    public static Refusal Unknown { get; } =
        new(
            "link.unknown",
            "The link does not belong to an invitation, or a newer mail has replaced it.",
            "Look for a newer mail, or ask whoever invited you to send it again.",
            RefusalSort.NotFound
        );

    /// <summary>Refuses with <c>link.used</c>, <c>link.revoked</c> or <c>link.expired</c>, <c>link.waiting</c> or <c>link.refused</c> when the invitation awaits no answer.</summary>
    /// <param name="state">The state as stored.</param>
    /// <param name="deadline">The first instant at which an answer is too late (exclusive end).</param>
    /// <param name="now">The instant asked about.</param>
    public static Refusal? Forbids(InvitationState state, DateTimeOffset deadline, DateTimeOffset now) =>
        InvitationLife.At(state, deadline, now) switch
        {
            InvitationState.Queued or InvitationState.Sent => null,
            InvitationState.Draft => Unknown,
            InvitationState.Waiting => Closed(
                "waiting",
                "You accepted this invitation already; somebody has to approve it.",
                "You get a mail as soon as that is done."
            ),
            InvitationState.Refused => Closed(
                "refused",
                "You accepted this invitation, and it was not approved.",
                "Ask whoever invited you."
            ),
            InvitationState.Accepted => Closed(
                "used",
                "This invitation was accepted already.",
                "Sign in with the account it was accepted with."
            ),
            InvitationState.Declined => Closed(
                "used",
                "This invitation was declined.",
                "Ask for a new one if you changed your mind."
            ),
            InvitationState.Revoked => Closed(
                "revoked",
                "This invitation was taken back.",
                "Ask whoever invited you if you think this is a mistake."
            ),
            _ => Closed(
                "expired",
                "This invitation has expired.",
                "Ask whoever invited you to send it again."
            ),
        };

    private static Refusal Closed(string code, string sentence, string remedy) =>
        new("link." + code, sentence, remedy, RefusalSort.Conflict);
}
