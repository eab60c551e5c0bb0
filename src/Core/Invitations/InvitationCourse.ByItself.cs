namespace ComeAboard.Core.Invitations;

// What happens to an invitation without anybody's deciding it: time passes, mail arrives or does not.
public static partial class InvitationCourse
{
    /// <summary>The deadline has passed.</summary>
    public static Outcome<InvitationConsequences> Expire(StepFacts facts) =>
        Take(facts, InvitationStep.Expire).Try(out var next, out var refusal)
            ? Over(facts, next, "invitation.expired")
            : refusal;

    /// <summary>The mail server took the invitation: from now on it is reminded of.</summary>
    public static Outcome<InvitationConsequences> NoteSent(StepFacts facts) =>
        Take(facts, InvitationStep.Send).Try(out var next, out var refusal)
            ? new InvitationConsequences(facts.Invitation.State, next, "invitation.sent")
            {
                IsSent = true,
                NextReminderAt = Reminders.Next(
                    facts.Now,
                    facts.Rules.ReminderDays,
                    facts.Invitation.Deadline,
                    facts.Now
                ),
            }
            : refusal;

    /// <summary>The mail came back for good.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="answer">The mail server's own words.</param>
    public static Outcome<InvitationConsequences> NoteBounced(StepFacts facts, string answer) =>
        Take(facts, InvitationStep.Bounce).Try(out var next, out var refusal)
            ? Over(facts, next, "invitation.bounced") with
            {
                Details = [("answer", answer)],
            }
            : refusal;
}
