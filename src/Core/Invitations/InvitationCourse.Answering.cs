using ComeAboard.Core.Access;

namespace ComeAboard.Core.Invitations;

/// <content>What the invitee answers, and what becomes of an answer that waits.</content>
public static partial class InvitationCourse
{
    /// <summary>
    /// Answered with yes. It takes effect at once, or waits for approval: where the rules of this moment want it, where
    /// whoever made the join link does, and where the one answerable could not give it any more.
    /// </summary>
    public static Outcome<InvitationConsequences> Accept(StepFacts facts)
    {
        var (invitation, offer) = (facts.Invitation, facts.Invitation.Offer);
        if (LinkRules.Forbids(invitation.State, invitation.Deadline, facts.Now) is { } closed)
            return closed;
        if (StayPast(facts, "Ask whoever invited you for a new one.") is { } past)
            return past with { Sentence = "The time this invitation was for is over." };
        if (
            offer.OrganisationId is { } own
            && facts.World.Organisations.TryGetValue(own, out var organisation)
            && organisation.IsOver(facts.Day)
        )
            return EntryRules.AgreementOver;
        if (invitation.Link is { } link)
        {
            if (JoinLinkRules.Forbids(link.State) is { } shut)
                return shut;
            if (JoinLinkRules.ForbidsDomain(link.Domains, facts.CameAs ?? offer.Address) is { } domain)
                return domain;
        }
        if (facts.CameAs is { } other && ForbidsComingAs(facts, other) is { } elsewhere)
            return elsewhere;
        var waits = NeedsApproval(facts);
        if (
            !Take(facts, waits ? InvitationStep.Wait : InvitationStep.Accept)
                .Try(out var next, out var refusal)
        )
            return refusal;
        return new InvitationConsequences(
            invitation.State,
            next,
            waits ? "invitation.waiting" : "invitation.accepted"
        )
        {
            IsAnswer = true,
            WithdrawsMail = true,
            Place = invitation.CameByLink ? PlaceStep.Use : PlaceStep.Keep,
            Seats = waits ? SeatStep.Keep : SeatStep.Settle,
            Joins = !waits,
            Mails = waits ? [InvitationMail.Waiting, InvitationMail.AwaitsApproval] : [],
        };
    }

    /// <summary>Whether an answer with yes would wait for approval at this moment.</summary>
    public static bool NeedsApproval(StepFacts facts) =>
        facts.Invitation.WantsApproval
        || facts.Rules.NeedsApproval(
            facts.Invitation.Offer.Kind,
            facts.Invitation.Offer.Gives,
            facts.CameAs is not null
        )
        || Readiness.ForbidsGiver(
            facts.World,
            facts.Rules,
            facts.Invitation.InvitedBy,
            facts.Invitation.Offer,
            facts.Day
        )
            is not null;

    /// <summary>What was answered takes effect. Nobody lets in with more than they hold themselves.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="approver">Who approves; that they hold the duty is known.</param>
    public static Outcome<InvitationConsequences> Approve(StepFacts facts, Guid approver)
    {
        if (!Take(facts, InvitationStep.Approve).Try(out var next, out var refusal))
            return refusal;
        if (facts.AnswererIsMember)
            return new Refusal(
                "account.member",
                "The account that accepted is a member here by now.",
                "Refuse it.",
                RefusalSort.Conflict
            );
        var offer = facts.Invitation.Offer;
        if (
            GivingRules.ForbidsAll(facts.World, approver, offer.Gives, offer.OrganisationId, facts.Day) is
            { } right
        )
            return right;
        if (StayPast(facts, "Refuse it and send a new invitation with a later last day.") is { } past)
            return past;
        return new InvitationConsequences(facts.Invitation.State, next, "invitation.approved")
        {
            Seats = SeatStep.Settle,
            Joins = true,
        };
    }

    /// <summary>What was answered is turned down; the person is told, with the reason if one is given.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="reason">In plain words; empty for none.</param>
    public static Outcome<InvitationConsequences> Refuse(StepFacts facts, string? reason)
    {
        if (!PlainText.ReadMessage(reason).Try(out var words, out var refusal))
            return refusal with { Field = "reason" };
        if (!Take(facts, InvitationStep.Refuse).Try(out var next, out refusal))
            return refusal;
        return Over(facts, next, "invitation.refused") with
        {
            Words = words,
            Details = [("reason", words.Length > 0 ? words : null)],
            Mails = [InvitationMail.NotApproved],
        };
    }

    /// <summary>Answered with no.</summary>
    /// <param name="facts">What is known.</param>
    /// <param name="notMe">Whether they say that somebody else was meant.</param>
    /// <param name="stops">Whether they want no invitations any more.</param>
    public static Outcome<InvitationConsequences> Decline(StepFacts facts, bool notMe, bool stops)
    {
        if (LinkRules.Forbids(facts.Invitation.State, facts.Invitation.Deadline, facts.Now) is { } closed)
            return closed;
        if (!Take(facts, InvitationStep.Decline).Try(out var next, out var refusal))
            return refusal;
        return Over(facts, next, "invitation.declined") with
        {
            IsAnswer = true,
            IsNotMe = notMe,
            StopsInvitations = stops,
            Details = [("reason", notMe ? "somebody else was meant" : null)],
            Mails = [InvitationMail.Declined],
        };
    }

    /// <summary>Whoever comes with another address than the invited one comes by the same rules of the house.</summary>
    private static Refusal? ForbidsComingAs(StepFacts facts, EmailAddress other) =>
        facts.Rules.ForbidsDomain(other) is { } rule ? rule with { Sentence = $"{other}: {rule.Sentence}" }
        : Readiness.ForbidsGiver(
            facts.World,
            facts.Rules,
            facts.Invitation.InvitedBy,
            facts.Invitation.Offer with
            {
                Address = other,
            },
            facts.Day
        )
            is { Code: "right.lead-only" } lead
            ? lead
        : null;
}
