using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>Where an invitation stands.</summary>
public enum InvitationState
{
    /// <summary>Decided; its mail has not been taken by the mail server yet.</summary>
    Queued,

    /// <summary>The mail server has taken the mail.</summary>
    Sent,

    /// <summary>Answered with yes. Final.</summary>
    Accepted,

    /// <summary>Answered with no. Final.</summary>
    Declined,

    /// <summary>Not answered in time. Can be sent again.</summary>
    Expired,

    /// <summary>Taken back. Final.</summary>
    Revoked,

    /// <summary>The mail server refused the address for good. Can be sent again.</summary>
    Bounced,
}

/// <summary>What happens to an invitation.</summary>
public enum InvitationStep
{
    /// <summary>The mail server took the mail.</summary>
    Send,

    /// <summary>The mail server refused the address for good.</summary>
    Bounce,

    /// <summary>A new secret, a new deadline, a new mail.</summary>
    Resend,

    /// <summary>Taken back by an administrator.</summary>
    Revoke,

    /// <summary>Answered with yes.</summary>
    Accept,

    /// <summary>Answered with no.</summary>
    Decline,

    /// <summary>The deadline passed.</summary>
    Expire,
}

/// <summary>What an invitation carries, read and checked; it cannot be built wrong.</summary>
/// <param name="Address">Who is asked.</param>
/// <param name="Kind">As what.</param>
/// <param name="Role">With which role over everything.</param>
/// <param name="Stay">Until when they may stay.</param>
/// <param name="Name">Their name as far as the inviter knows it; empty for none.</param>
/// <param name="Message">The inviter's words; empty for none.</param>
/// <param name="Language">The language of the mail, as a BCP 47 tag.</param>
public sealed record InvitationOffer(
    EmailAddress Address,
    Kind Kind,
    Role Role,
    Stay Stay,
    string Name,
    string Message,
    string Language
)
{
    /// <summary>Reads an offer from what an inviter wrote; the first fault found is the refusal.</summary>
    /// <param name="wish">The inviter's words.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    /// <param name="workspaceLanguage">The language used when the wish names none.</param>
    public static Outcome<InvitationOffer> Read(InvitationWish wish, DateOnly today, string workspaceLanguage)
    {
        if (!EmailAddress.Read(wish.Address).Try(out var address, out var refusal))
            return refusal;
        if (!Kinds.Read(wish.Kind).Try(out var kind, out refusal))
            return refusal;
        if (!Role.Read(wish.Role ?? Role.View.Name).Try(out var role, out refusal))
            return refusal;
        if (!Stay.Until(wish.Until, today).Try(out var stay, out refusal))
            return refusal;
        if (!PlainText.ReadName(wish.Name).Try(out var name, out refusal))
            return refusal;
        if (!PlainText.ReadMessage(wish.Message).Try(out var message, out refusal))
            return refusal;
        if (!Languages.Read(wish.Language ?? workspaceLanguage).Try(out var language, out refusal))
            return refusal;
        return new InvitationOffer(address, kind, role, stay, name, message, language);
    }
}

/// <summary>An inviter's words, unread. Null stands for "not said".</summary>
/// <param name="Address">The address as typed.</param>
/// <param name="Kind">The word of a kind.</param>
/// <param name="Role">The name of a role; view when not said.</param>
/// <param name="Name">The invitee's name.</param>
/// <param name="Message">A message in plain words.</param>
/// <param name="Until">The last day of the stay, inclusive.</param>
/// <param name="Language">A BCP 47 tag.</param>
public sealed record InvitationWish(
    string? Address,
    string? Kind,
    string? Role = null,
    string? Name = null,
    string? Message = null,
    DateOnly? Until = null,
    string? Language = null
);

/// <summary>The life of an invitation: which step leads from which state to which.</summary>
public static class InvitationLife
{
    /// <summary>Longest time to answer that can be asked for, inclusive.</summary>
    public static readonly TimeSpan LongestAnswerTime = TimeSpan.FromDays(365);

    /// <summary>Whether an answer is still awaited: queued or sent.</summary>
    public static bool IsPending(this InvitationState state) =>
        state is InvitationState.Queued or InvitationState.Sent;

    /// <summary>Whether nothing can happen to it any more.</summary>
    public static bool IsFinal(this InvitationState state) =>
        state is InvitationState.Accepted or InvitationState.Declined or InvitationState.Revoked;

    /// <summary>The word of the state, in lower case.</summary>
    public static string Word(this InvitationState state) => state.ToString().ToLowerInvariant();

    /// <summary>
    /// The state a step leads to, or the refusal <c>invitation.final</c> or <c>invitation.not-pending</c>.
    /// A pending one past its deadline counts as expired, whether or not anybody has noticed yet.
    /// </summary>
    /// <param name="state">The state as last stored.</param>
    /// <param name="step">What is to happen.</param>
    /// <param name="deadline">The first instant at which an answer is too late (exclusive end).</param>
    /// <param name="now">The instant of the step.</param>
    public static Outcome<InvitationState> Take(
        InvitationState state,
        InvitationStep step,
        DateTimeOffset deadline,
        DateTimeOffset now
    )
    {
        var current = At(state, deadline, now);
        return (current, step) switch
        {
            (InvitationState.Queued, InvitationStep.Send) => InvitationState.Sent,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Bounce) =>
                InvitationState.Bounced,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Revoke) =>
                InvitationState.Revoked,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Accept) =>
                InvitationState.Accepted,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Decline) =>
                InvitationState.Declined,
            (InvitationState.Expired, InvitationStep.Expire) when state.IsPending() =>
                InvitationState.Expired,
            (
                InvitationState.Queued
                    or InvitationState.Sent
                    or InvitationState.Expired
                    or InvitationState.Bounced,
                InvitationStep.Resend
            ) => InvitationState.Queued,
            _ => Refuse(current, step),
        };
    }

    /// <summary>The state at an instant: a pending invitation is expired from its deadline on.</summary>
    public static InvitationState At(InvitationState state, DateTimeOffset deadline, DateTimeOffset now) =>
        state.IsPending() && now >= deadline ? InvitationState.Expired : state;

    private static Refusal Refuse(InvitationState current, InvitationStep step) =>
        current.IsFinal()
            ? new Refusal(
                "invitation.final",
                $"The invitation is {current.Word()}; that cannot be changed any more.",
                current == InvitationState.Accepted
                    ? "Look the person up under people."
                    : "Send the person a new invitation if that is wanted.",
                RefusalSort.Conflict
            )
            : new Refusal(
                "invitation.not-pending",
                $"The invitation is {current.Word()}, so it cannot be {Past(step)}.",
                "Resend it first if it is still wanted.",
                RefusalSort.Conflict
            );

    private static string Past(InvitationStep step) =>
        step switch
        {
            InvitationStep.Send => "sent",
            InvitationStep.Bounce => "returned",
            InvitationStep.Revoke => "revoked",
            InvitationStep.Accept => "accepted",
            InvitationStep.Decline => "declined",
            InvitationStep.Expire => "expired",
            _ => "resent",
        };
}
