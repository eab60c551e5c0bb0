namespace ComeAboard.Core.Invitations;

/// <summary>Where an invitation stands.</summary>
public enum InvitationState
{
    /// <summary>Being prepared; its address has got nothing yet.</summary>
    Draft,

    /// <summary>Decided; its mail has not been taken by the mail server yet.</summary>
    Queued,

    /// <summary>The mail server has taken the mail.</summary>
    Sent,

    /// <summary>Answered with yes; it takes effect when somebody approves.</summary>
    Waiting,

    /// <summary>Answered with yes. Final.</summary>
    Accepted,

    /// <summary>Answered with yes and not approved. Final.</summary>
    Refused,

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
    /// <summary>A draft is to be sent.</summary>
    Queue,

    /// <summary>The mail server took the mail.</summary>
    Send,

    /// <summary>The mail server refused the address for good.</summary>
    Bounce,

    /// <summary>A new secret, a new deadline, a new mail.</summary>
    Resend,

    /// <summary>Taken back by an administrator.</summary>
    Revoke,

    /// <summary>A later deadline; an expired one is alive again with the link it has.</summary>
    Extend,

    /// <summary>Answered with yes.</summary>
    Accept,

    /// <summary>Answered with yes where approval is due.</summary>
    Wait,

    /// <summary>What was answered takes effect.</summary>
    Approve,

    /// <summary>What was answered is turned down.</summary>
    Refuse,

    /// <summary>Answered with no.</summary>
    Decline,

    /// <summary>The deadline passed.</summary>
    Expire,
}

/// <summary>The life of an invitation: which step leads from which state to which.</summary>
public static class InvitationLife
{
    /// <summary>Longest time to answer that can be asked for, inclusive.</summary>
    public static readonly TimeSpan LongestAnswerTime = TimeSpan.FromDays(365);

    /// <summary>Whether the invitee has still to answer: queued or sent.</summary>
    public static bool AwaitsAnswer(this InvitationState state) =>
        state is InvitationState.Queued or InvitationState.Sent;

    /// <summary>Whether it is under way: queued, sent, or waiting for approval.</summary>
    public static bool IsPending(this InvitationState state) =>
        state.AwaitsAnswer() || state == InvitationState.Waiting;

    /// <summary>Whether nothing can happen to it any more.</summary>
    public static bool IsFinal(this InvitationState state) =>
        state
            is InvitationState.Accepted
                or InvitationState.Refused
                or InvitationState.Declined
                or InvitationState.Revoked;

    /// <summary>The word of the state, in lower case.</summary>
    public static string Word(this InvitationState state) => state.ToString().ToLowerInvariant();

    /// <summary>
    /// The state a step leads to, or the refusal <c>invitation.final</c> or <c>invitation.not-pending</c>.
    /// One that awaits its answer past its deadline counts as expired, whether or not anybody has noticed yet.
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
            (InvitationState.Draft, InvitationStep.Queue) => InvitationState.Queued,
            (InvitationState.Queued, InvitationStep.Send) => InvitationState.Sent,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Bounce) =>
                InvitationState.Bounced,
            (InvitationState.Draft, InvitationStep.Revoke) => InvitationState.Revoked,
            (_, InvitationStep.Revoke) when current.IsPending() => InvitationState.Revoked,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Accept) =>
                InvitationState.Accepted,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Wait) => InvitationState.Waiting,
            (InvitationState.Waiting, InvitationStep.Approve) => InvitationState.Accepted,
            (InvitationState.Waiting, InvitationStep.Refuse) => InvitationState.Refused,
            (_, InvitationStep.Decline) when current.IsPending() => InvitationState.Declined,
            (InvitationState.Expired, InvitationStep.Expire) when state.AwaitsAnswer() =>
                InvitationState.Expired,
            (InvitationState.Queued or InvitationState.Sent, InvitationStep.Extend) => current,
            // Expired before anybody noticed, it goes back to where it stood; noticed, its mail had long gone.
            (InvitationState.Expired, InvitationStep.Extend) => state.AwaitsAnswer()
                ? state
                : InvitationState.Sent,
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

    /// <summary>The state at an instant: one that awaits its answer is expired from its deadline on.</summary>
    public static InvitationState At(InvitationState state, DateTimeOffset deadline, DateTimeOffset now) =>
        state.AwaitsAnswer() && now >= deadline ? InvitationState.Expired : state;

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
                current switch
                {
                    InvitationState.Draft => "Send it first.",
                    InvitationState.Waiting => "Approve or refuse it.",
                    _ => "Resend it first if it is still wanted.",
                },
                RefusalSort.Conflict
            );

    private static string Past(InvitationStep step) =>
        step switch
        {
            InvitationStep.Send or InvitationStep.Queue => "sent",
            InvitationStep.Bounce => "returned",
            InvitationStep.Revoke => "revoked",
            InvitationStep.Accept or InvitationStep.Wait => "accepted",
            InvitationStep.Approve => "approved",
            InvitationStep.Refuse => "refused",
            InvitationStep.Extend => "extended",
            InvitationStep.Decline => "declined",
            InvitationStep.Expire => "expired",
            _ => "resent",
        };
}
