using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>
/// Invitations taken through random steps, laid beside a naive book-keeping of what they hold: seats, places of their
/// link, live secrets, and who is answerable.
/// </summary>
public sealed class InvitationCourses
{
    private static readonly DateTimeOffset Start = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);
    private static readonly Guid Pool = Worlds.Ids[8];
    private static readonly Guid Mira = Worlds.Ids[0];
    private static readonly Guid Clerk = Worlds.Ids[1];

    // Mira may give everything; the clerk may invite, and give no more than to look on.
    private static readonly Role ClerkRole = new(
        Worlds.Ids[9],
        "clerk",
        "Invites.",
        Level.View,
        System.Collections.Immutable.ImmutableSortedDictionary<Guid, Level>.Empty,
        Duties.Invite | Duties.Approve
    );

    private static readonly AccessWorld World = (
        Worlds.WithAdministrator(AccessWorld.Empty, Mira) with
        {
            Roles = AccessWorld.Empty.Roles.Add(ClerkRole.Id, ClerkRole),
        }
    ).With(
        new Person(
            Clerk,
            Kind.Staff,
            Stay.Endless,
            false,
            null,
            false,
            [new Grant(Guid.NewGuid(), ClerkRole.Id, null, Stay.Endless)],
            []
        )
        {
            AddressKey = "clerk@ship.example",
        }
    );

    private static InvitationOffer OfferOf(bool much) =>
        InvitationOffer
            .Read(
                new InvitationWish("ines@tide.example", "guest", much ? "edit" : "view"),
                new UsualOffer(new DateOnly(2026, 11, 23), "en", TimeSpan.FromDays(10), new HouseRules()),
                World
            )
            .Value with
        {
            Gives = new Bundle([new GivenRole(much ? Role.Edit.Id : Role.View.Id)], [], [Pool]),
        };

    private sealed record Step(string Name, Guid Actor, int Hours, bool RuleWanted);

    private static readonly Gen<Step> GenStep = Gen.Select(
        Gen.OneOf([
            Gen.Const("send"),
            Gen.Const("resend"),
            Gen.Const("remind"),
            Gen.Const("extend"),
            Gen.Const("hand-over"),
            Gen.Const("revoke"),
            Gen.Const("accept"),
            Gen.Const("approve"),
            Gen.Const("refuse"),
            Gen.Const("decline"),
            Gen.Const("expire"),
            Gen.Const("sent"),
            Gen.Const("bounced"),
            Gen.Const("correct"),
        ]),
        Gen.Bool,
        Gen.Int[0, 200],
        Gen.Int[0, 4],
        (name, mira, hours, rule) => new Step(name, mira ? Mira : Clerk, hours, rule == 0)
    );

    [Fact]
    public void What_an_invitation_holds_is_what_its_steps_have_taken_and_not_given_back() =>
        Gen.Select(Gen.Bool, Gen.Bool, Gen.Bool, GenStep.Array[1, 30])
            .Sample(
                (much, byLink, isDraft, walk) =>
                {
                    var at = new InvitationStanding(
                        Guid.NewGuid(),
                        OfferOf(much),
                        isDraft ? InvitationState.Draft : InvitationState.Queued,
                        Start.AddDays(10),
                        Mira
                    )
                    {
                        CameByLink = byLink,
                        Link = byLink ? new JoinLinkStanding(JoinLinkState.Open, []) : null,
                    };
                    var (reserved, given, places, members) = (isDraft ? 0 : 1, 0, 0, 0);
                    var now = Start;
                    foreach (var step in walk)
                    {
                        now += TimeSpan.FromHours(step.Hours);
                        var rules = new HouseRules { Approval = step.RuleWanted ? [Kind.Guest] : [] };
                        var facts = new StepFacts(at, World, rules, now, TimeZoneInfo.Utc)
                        {
                            HasHost = true,
                            Seats = new Dictionary<Guid, SeatAccount>
                            {
                                [Pool] = new SeatAccount(1, given, reserved, given, 0),
                            },
                        };
                        if (!Take(facts, step).Try(out var what, out _))
                            continue;
                        reserved += what.Seats switch
                        {
                            SeatStep.Reserve => 1,
                            SeatStep.LetGo or SeatStep.Settle => reserved > 0 ? -1 : 0,
                            _ => 0,
                        };
                        given += what.Seats == SeatStep.Settle ? 1 : 0;
                        places += what.Place switch
                        {
                            PlaceStep.Use => 1,
                            PlaceStep.GiveBack => -1,
                            _ => 0,
                        };
                        members += what.Joins ? 1 : 0;
                        Assert.Equal(at.State, what.From);
                        // Whoever mails, shows or revives a secret could give what it gives, and answers for it.
                        if (what.Secrets != SecretStep.Keep || what.Revives)
                        {
                            Assert.True(!much || step.Actor == Mira, $"{step.Name} by the clerk");
                            Assert.Equal(step.Actor, what.Answerable);
                        }
                        at = at with
                        {
                            State = what.To,
                            Deadline = what.Deadline ?? at.Deadline,
                            NextReminderAt = what.NextReminderAt,
                            InvitedBy = what.Answerable ?? at.InvitedBy,
                            SentAt =
                                what.IsSent ? now
                                : what.Secrets == SecretStep.Renew ? null
                                : at.SentAt,
                        };

                        // A seat is held exactly while it is under way; a place exactly while it waits or is taken.
                        Assert.Equal(at.State.IsPending() ? 1 : 0, reserved);
                        Assert.Equal(at.State == InvitationState.Accepted ? 1 : 0, given);
                        Assert.Equal(given, members);
                        Assert.Equal(
                            byLink
                            && at.State is InvitationState.Waiting or InvitationState.Accepted
                            && byLink
                                ? 1
                                : 0,
                            places
                        );
                        // A mail of a sort that could still be answered is reminded of, or nothing is.
                        if (at.NextReminderAt is not null)
                            Assert.True(at.State == InvitationState.Sent && at.NextReminderAt < at.Deadline);
                        // Nobody got in past a rule of that moment but by somebody's approval.
                        if (what.Joins && step.Name == "accept")
                            Assert.False(step.RuleWanted || much && at.InvitedBy != Mira);
                    }
                }
            );

    private static Outcome<InvitationConsequences> Take(StepFacts facts, Step step) =>
        step.Name switch
        {
            "send" => InvitationCourse.Send(facts, step.Actor),
            "resend" => InvitationCourse.Resend(facts, step.Actor),
            "remind" => InvitationCourse.Remind(facts, step.Actor),
            "extend" => InvitationCourse.Extend(facts, step.Actor, 10),
            "hand-over" => InvitationCourse.HandOver(facts, step.Actor),
            "correct" => InvitationCourse.Correct(
                facts,
                step.Actor,
                EmailAddress.Read("ines.calloway@tide.example").Value
            ),
            "revoke" => InvitationCourse.Revoke(facts),
            "accept" => InvitationCourse.Accept(facts),
            "approve" => InvitationCourse.Approve(facts, step.Actor),
            "refuse" => InvitationCourse.Refuse(facts, null),
            "decline" => InvitationCourse.Decline(facts, false, false),
            "expire" => InvitationCourse.Expire(facts),
            "sent" => InvitationCourse.NoteSent(facts),
            _ => InvitationCourse.NoteBounced(facts, "550 5.1.1"),
        };

    [Fact]
    public void One_that_was_revived_elsewhere_is_not_revived_a_second_time()
    {
        var expired = new InvitationStanding(
            Guid.NewGuid(),
            OfferOf(false),
            InvitationState.Expired,
            Start.AddDays(-1),
            Mira
        );
        var facts = new StepFacts(expired, World, new HouseRules(), Start, TimeZoneInfo.Utc)
        {
            Address = new AddressStanding(null, Guid.NewGuid(), false),
        };
        Assert.Equal("address.invited", InvitationCourse.Extend(facts, Mira, 5).Refusal!.Code);
        Assert.Equal("address.invited", InvitationCourse.Resend(facts, Mira).Refusal!.Code);
        var alone = facts with { Address = new AddressStanding(null, null, false) };
        var what = InvitationCourse.Extend(alone, Mira, 30).Value;
        Assert.Equal((InvitationState.Sent, SeatStep.Reserve), (what.To, what.Seats));
        Assert.NotNull(what.NextReminderAt);
    }
}
