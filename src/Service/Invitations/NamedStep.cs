using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;

namespace ComeAboard.Service.Invitations;

/// <summary>A step that has a name: the duty it needs, what Core says of it, and whether it mails to the invitee.</summary>
internal sealed record NamedStep(
    Duties Duty,
    Func<StepFacts, Guid, Outcome<InvitationConsequences>> Decide,
    bool Mails = false
)
{
    /// <summary>The step with a name; refuses with <c>step.unknown</c>, or days that are out of range.</summary>
    public static Outcome<NamedStep> Find(string step, int? days, string? reason)
    {
        if (step == "extend" && InvitationCourse.ForbidsMoreTime(days) is { } range)
            return range;
        return step switch
        {
            "send" => new NamedStep(Duties.Invite, InvitationCourse.Send, Mails: true),
            "resend" => new NamedStep(Duties.Invite, InvitationCourse.Resend, Mails: true),
            "remind" => new NamedStep(
                Duties.Invite,
                (facts, actor) => InvitationCourse.Remind(facts, actor),
                Mails: true
            ),
            "extend" => new NamedStep(
                Duties.Invite,
                (facts, actor) => InvitationCourse.Extend(facts, actor, days!.Value)
            ),
            "revoke" => new NamedStep(Duties.Invite, (facts, _) => InvitationCourse.Revoke(facts)),
            "approve" => new NamedStep(Duties.Approve, InvitationCourse.Approve),
            "refuse" => new NamedStep(Duties.Approve, (facts, _) => InvitationCourse.Refuse(facts, reason)),
            _ => new Refusal(
                "step.unknown",
                $"There is no step \"{(step.Length > 40 ? step[..40] : step)}\".",
                "Use send, resend, remind, extend, revoke, approve or refuse.",
                Field: "step"
            ),
        };
    }
}
