using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// The course of an invitation: each step is judged by the rules and rights of the moment in which it is taken, and
/// yields all that follows from it. Whatever mails, shows or revives a secret asks whether the one who does it could
/// give what the invitation gives, and makes them answerable for it.
/// </summary>
public static partial class InvitationCourse
{
    /// <summary>A new invitation that was judged by <see cref="Readiness"/>.</summary>
    public static InvitationConsequences Begin { get; } =
        new(null, InvitationState.Queued, "invitation.queued")
        {
            Secrets = SecretStep.Renew,
            Seats = SeatStep.Reserve,
            Mails = [InvitationMail.Invitation],
        };

    /// <summary>A new draft.</summary>
    public static InvitationConsequences Draft { get; } =
        new(null, InvitationState.Draft, "invitation.drafted");

    /// <summary>A draft is sent: judged like any invitation.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="actor">Who sends it.</param>
    public static Outcome<InvitationConsequences> Send(StepFacts facts, Guid actor)
    {
        if (!Take(facts, InvitationStep.Queue).Try(out var next, out var refusal))
            return refusal;
        if (Readiness.Blockers(facts.InvitingBy(actor)).FirstOrDefault() is { } blocker)
            return blocker;
        if (StayPast(facts, "Change the draft first.") is { } past)
            return past;
        return new InvitationConsequences(facts.Invitation.State, next, "invitation.queued")
        {
            Deadline = facts.Now + facts.Invitation.Offer.AnswerTime,
            Answerable = actor,
            Secrets = SecretStep.Renew,
            Seats = SeatStep.Reserve,
            Mails = [InvitationMail.Invitation],
        };
    }

    /// <summary>A new secret, a new deadline, a new mail; what went out before is dead.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="actor">Who sends it again.</param>
    public static Outcome<InvitationConsequences> Resend(StepFacts facts, Guid actor)
    {
        if (!Take(facts, InvitationStep.Resend).Try(out var next, out var refusal))
            return refusal;
        // The same mail again is how one tries whether an address that bounced works by now.
        if (
            ForbidsReaching(facts, actor, mindBounce: facts.Invitation.State != InvitationState.Bounced) is
            { } no
        )
            return no;
        return Sent(facts, actor, next, "invitation.resent");
    }

    /// <summary>Another address: nothing that went to the wrong one counts any more. A draft stays one.</summary>
    /// <param name="facts">What is known, of the right address.</param>
    /// <param name="actor">Who corrects it.</param>
    /// <param name="right">The right address.</param>
    public static Outcome<InvitationConsequences> Correct(StepFacts facts, Guid actor, EmailAddress right)
    {
        var wrong = facts.Invitation.Offer.Address;
        if (right.Key == wrong.Key)
            return new Refusal(
                "address.same",
                "That is the address the invitation has already.",
                "Resend it instead.",
                RefusalSort.Conflict,
                "address"
            );
        var there = facts with
        {
            Invitation = facts.Invitation with { Offer = facts.Invitation.Offer with { Address = right } },
        };
        (string, object?)[] details = [("before", wrong.ToString()), ("after", right.ToString())];
        if (facts.State == InvitationState.Draft)
            return ForbidsDraft(facts.World, actor, facts.Invitation.Offer, facts.Day) is { } own ? own
                : facts.Rules.ForbidsDomain(right) is { } rule ? rule
                : new InvitationConsequences(
                    InvitationState.Draft,
                    InvitationState.Draft,
                    "invitation.corrected"
                )
                {
                    Address = right,
                    Details = details,
                };
        if (!Take(facts, InvitationStep.Resend).Try(out var next, out var refusal))
            return refusal;
        if (ForbidsReaching(there, actor, mindBounce: true) is { } no)
            return no;
        return Sent(there, actor, next, "invitation.corrected") with { Address = right, Details = details };
    }

    /// <summary>Reminds once, and sets when to do so next by the schedule.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="actor">Who reminds; null for the clock, which does it for whoever is answerable.</param>
    public static Outcome<InvitationConsequences> Remind(StepFacts facts, Guid? actor)
    {
        if (facts.State != InvitationState.Sent)
            return new Refusal(
                "invitation.not-sent",
                $"The invitation is {facts.State.Word()}; only one that was sent and awaits its answer is reminded of.",
                "Resend it if it is still wanted.",
                RefusalSort.Conflict
            );
        if (ForbidsReaching(facts, actor ?? facts.Invitation.InvitedBy, mindBounce: false) is { } no)
            return no;
        return new InvitationConsequences(facts.Invitation.State, facts.State, "")
        {
            NextReminderAt = NextReminder(facts, facts.Invitation.Deadline),
            Answerable = actor,
            Secrets = SecretStep.MailAnother,
            Mails = [InvitationMail.Reminder],
        };
    }

    /// <summary>A later deadline; an expired one is under way again with the link it has, its seats and its reminders.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="actor">Who gives more time.</param>
    /// <param name="days">How many days from now, 1 to 365.</param>
    public static Outcome<InvitationConsequences> Extend(StepFacts facts, Guid actor, int days)
    {
        if (ForbidsMoreTime(days) is { } range)
            return range;
        if (!Take(facts, InvitationStep.Extend).Try(out var next, out var refusal))
            return refusal;
        if (facts.Rules.ForbidsAnswerTime(days) is { } rule)
            return rule with { Field = "days" };
        if (ForbidsReaching(facts, actor, mindBounce: true, mails: false) is { } no)
            return no;
        var deadline = facts.Now.AddDays(days);
        return new InvitationConsequences(facts.Invitation.State, next, "invitation.extended")
        {
            Deadline = deadline,
            NextReminderAt = next == InvitationState.Sent ? NextReminder(facts, deadline) : null,
            Answerable = actor,
            Seats = facts.Invitation.State.IsPending() ? SeatStep.Keep : SeatStep.Reserve,
            Details =
            [
                ("before", facts.Invitation.Deadline.ToString("O")),
                ("after", deadline.ToString("O")),
            ],
        };
    }

    /// <summary>Refuses more time than can be given, with <c>answer-time.out-of-range</c>.</summary>
    /// <param name="days">How many days from now; null when not said.</param>
    public static Refusal? ForbidsMoreTime(int? days) =>
        days is >= 1 and <= 365
            ? null
            : new Refusal(
                "answer-time.out-of-range",
                "More time must be 1 to 365 days.",
                "Give a number of days in that range.",
                Field: "days"
            );

    /// <summary>A further link, to be handed over by another way than mail.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="actor">Who hands it over.</param>
    public static Outcome<InvitationConsequences> HandOver(StepFacts facts, Guid actor)
    {
        if (!facts.State.AwaitsAnswer())
            return new Refusal(
                "invitation.not-pending",
                $"The invitation is {facts.State.Word()}; a link to it would let nobody in.",
                "Send, extend or resend it first.",
                RefusalSort.Conflict
            );
        if (ForbidsReaching(facts, actor, mindBounce: false, mails: false) is { } no)
            return no;
        return new InvitationConsequences(
            facts.Invitation.State,
            facts.Invitation.State,
            "invitation.link-handed-out"
        )
        {
            NextReminderAt = facts.Invitation.NextReminderAt,
            Answerable = actor,
            Secrets = SecretStep.HandOver,
        };
    }

    /// <summary>Taken back. Somebody who had accepted and waited is told, and the place they had taken is free.</summary>
    public static Outcome<InvitationConsequences> Revoke(StepFacts facts)
    {
        if (!Take(facts, InvitationStep.Revoke).Try(out var next, out var refusal))
            return refusal;
        var waited = facts.State == InvitationState.Waiting;
        return Over(facts, next, "invitation.revoked") with
        {
            Mails = waited ? [InvitationMail.TakenBack] : [],
        };
    }

    /// <summary>A draft may still lack much, but nobody writes down what they could not give.</summary>
    public static Refusal? ForbidsDraft(
        AccessWorld world,
        Guid inviter,
        InvitationOffer offer,
        DateOnly today
    ) =>
        world.DutiesOf(inviter, today).HasFlag(Duties.Invite)
            ? GivingRules.ForbidsAll(world, inviter, offer.Gives, offer.OrganisationId, today)
            : DutyWords.Missing(Duties.Invite);

    /// <summary>
    /// Whether it may reach its address by somebody: they could give it, the address may be written to, the stay is
    /// still to come; and where it is under way again, that there is room for it again.
    /// </summary>
    private static Refusal? ForbidsReaching(StepFacts facts, Guid actor, bool mindBounce, bool mails = true)
    {
        var offer = facts.Invitation.Offer;
        if (Readiness.ForbidsGiver(facts.World, facts.Rules, actor, offer, facts.Day) is { } right)
            return right;
        var standing = facts.Address with
        {
            Bounce = mindBounce ? facts.Address.Bounce : null,
            MailsLately = mails ? facts.Address.MailsLately : 0,
        };
        if (InvitingRules.Forbids(offer.Address, standing) is { } refusal)
            return refusal;
        if (facts.Rules.ForbidsDomain(offer.Address) is { } domain)
            return domain;
        if (StayPast(facts, "Revoke it and send a new invitation with a later last day.") is { } past)
            return past;
        return Readiness
            .RoomBlockers(facts.InvitingBy(actor), isUnderWay: facts.Invitation.State.IsPending())
            .FirstOrDefault();
    }

    private static InvitationConsequences Sent(
        StepFacts facts,
        Guid actor,
        InvitationState next,
        string entry
    ) =>
        new(facts.Invitation.State, next, entry)
        {
            Deadline = facts.Now + facts.Invitation.Offer.AnswerTime,
            Answerable = actor,
            Secrets = SecretStep.Renew,
            // One that had ended has let its seats go.
            Seats = facts.Invitation.State.IsPending() ? SeatStep.Keep : SeatStep.Reserve,
            WithdrawsMail = true,
            Mails = [InvitationMail.Invitation],
        };

    /// <summary>Nothing more is asked of the invitee: what was held for them is free again.</summary>
    private static InvitationConsequences Over(StepFacts facts, InvitationState next, string entry) =>
        new(facts.Invitation.State, next, entry)
        {
            Seats = SeatStep.LetGo,
            Place =
                facts.State == InvitationState.Waiting && facts.Invitation.CameByLink
                    ? PlaceStep.GiveBack
                    : PlaceStep.Keep,
            WithdrawsMail = true,
        };

    private static Outcome<InvitationState> Take(StepFacts facts, InvitationStep step) =>
        InvitationLife.Take(facts.Invitation.State, step, facts.Invitation.Deadline, facts.Now);

    private static DateTimeOffset? NextReminder(StepFacts facts, DateTimeOffset deadline) =>
        Reminders.Next(facts.Invitation.SentAt ?? facts.Now, facts.Rules.ReminderDays, deadline, facts.Now);

    private static Refusal? StayPast(StepFacts facts, string remedy) =>
        facts.Invitation.Offer.Stay.ForbidsPast(facts.Now, facts.Zone, remedy);
}
