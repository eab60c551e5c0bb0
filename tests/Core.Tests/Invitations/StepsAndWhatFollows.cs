using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>Each step of an invitation case by case: what follows from it, and what stands in its way.</summary>
public sealed class StepsAndWhatFollows
{
    private static readonly DateTimeOffset Now = Ship.Now;

    private static readonly Bundle Much = new([new GivenRole(Role.Edit.Id)], [], [Ship.Desks]);

    private static StepFacts Facts(InvitationState state, InvitationOffer? offer = null) =>
        new(
            new InvitationStanding(Ship.Id(301), offer ?? Ship.Offer(), state, Now.AddDays(5), Ship.Mira.Id)
            {
                SentAt = Now.AddDays(-1),
                NextReminderAt = Now.AddDays(2),
            },
            Ship.World,
            new HouseRules(),
            Now,
            TimeZoneInfo.Utc
        );

    [Fact]
    public void A_new_one_renews_its_secret_reserves_seats_and_is_mailed()
    {
        Assert.Equal(
            (null, InvitationState.Queued),
            (InvitationCourse.Begin.From, InvitationCourse.Begin.To)
        );
        Assert.Equal(
            (SecretStep.Renew, SeatStep.Reserve),
            (InvitationCourse.Begin.Secrets, InvitationCourse.Begin.Seats)
        );
        Assert.Equal([InvitationMail.Invitation], InvitationCourse.Begin.Mails);
        Assert.Equal(InvitationState.Draft, InvitationCourse.Draft.To);
        Assert.Equal(
            (SecretStep.Keep, SeatStep.Keep),
            (InvitationCourse.Draft.Secrets, InvitationCourse.Draft.Seats)
        );
        Assert.Empty(InvitationCourse.Draft.Mails);
    }

    [Fact]
    public void A_draft_that_is_sent_is_judged_like_any_other()
    {
        var what = InvitationCourse.Send(Facts(InvitationState.Draft), Ship.Yara.Id).Value;
        Assert.Equal((InvitationState.Draft, InvitationState.Queued), (what.From, what.To));
        Assert.Equal((Now.AddDays(10), (Guid?)Ship.Yara.Id), (what.Deadline, what.Answerable));
        Assert.Equal((SecretStep.Renew, SeatStep.Reserve), (what.Secrets, what.Seats));
        Assert.Equal([InvitationMail.Invitation], what.Mails);
        Assert.Equal("invitation.queued", what.Entry);
        Assert.Equal("right.missing", No(InvitationCourse.Send(Facts(InvitationState.Draft), Ship.Bo.Id)));
        Assert.Equal(
            "invitation.not-pending",
            No(InvitationCourse.Send(Facts(InvitationState.Queued), Ship.Yara.Id))
        );
        var over = Ship.Offer() with { Stay = new Stay(Ship.Today.AddDays(-1)) };
        Assert.Equal(
            "stay.past",
            No(InvitationCourse.Send(Facts(InvitationState.Draft, over), Ship.Yara.Id))
        );
    }

    [Fact]
    public void One_that_is_sent_again_has_a_new_secret_and_a_new_deadline()
    {
        var what = InvitationCourse.Resend(Facts(InvitationState.Sent), Ship.Yara.Id).Value;
        Assert.Equal((InvitationState.Sent, InvitationState.Queued), (what.From, what.To));
        Assert.Equal((Now.AddDays(10), (Guid?)Ship.Yara.Id), (what.Deadline, what.Answerable));
        Assert.Equal((SecretStep.Renew, SeatStep.Keep, true), (what.Secrets, what.Seats, what.WithdrawsMail));
        Assert.Equal([InvitationMail.Invitation], what.Mails);
        Assert.Null(what.NextReminderAt);
        // One that had ended has let its seats go.
        Assert.Equal(
            SeatStep.Reserve,
            InvitationCourse.Resend(Facts(InvitationState.Expired), Ship.Yara.Id).Value.Seats
        );
        // An address that bounced may be tried again by the one that bounced, and not by another.
        var bounce = new AddressStanding(null, null, false, "550 5.1.1");
        Assert.True(
            InvitationCourse
                .Resend(Facts(InvitationState.Bounced) with { Address = bounce }, Ship.Yara.Id)
                .Succeeded
        );
        Assert.Equal(
            "address.bounced",
            No(InvitationCourse.Resend(Facts(InvitationState.Sent) with { Address = bounce }, Ship.Yara.Id))
        );
        var often = new AddressStanding(null, null, false, MailsLately: InvitingRules.MostMailsADay);
        Assert.Equal(
            "address.mailed-enough",
            No(InvitationCourse.Resend(Facts(InvitationState.Sent) with { Address = often }, Ship.Yara.Id))
        );
    }

    [Fact]
    public void A_corrected_address_is_reached_anew()
    {
        var right = Ship.At("hamish@tide.example");
        var what = InvitationCourse.Correct(Facts(InvitationState.Sent), Ship.Yara.Id, right).Value;
        Assert.Equal(
            (right, InvitationState.Queued, SecretStep.Renew),
            (what.Address, what.To, what.Secrets)
        );
        Assert.Equal("invitation.corrected", what.Entry);
        Assert.Equal([("before", "hamish@orlo.example"), ("after", "hamish@tide.example")], what.Details);
        var same = InvitationCourse.Correct(
            Facts(InvitationState.Sent),
            Ship.Yara.Id,
            Ship.At("HAMISH@orlo.example")
        );
        Assert.Equal(
            ("address.same", "address", RefusalSort.Conflict),
            (same.Refusal!.Code, same.Refusal.Field, same.Refusal.Sort)
        );
        var bounced = Facts(InvitationState.Bounced) with
        {
            Address = new AddressStanding(null, null, false, "550 5.1.1"),
        };
        Assert.Equal("address.bounced", No(InvitationCourse.Correct(bounced, Ship.Yara.Id, right)));
        Assert.Equal(
            "invitation.final",
            No(InvitationCourse.Correct(Facts(InvitationState.Accepted), Ship.Yara.Id, right))
        );
        // The right address is held to the rules, and not the wrong one.
        var rules = new HouseRules { AllowedDomains = ["tide.example"] };
        Assert.True(
            InvitationCourse
                .Correct(Facts(InvitationState.Sent) with { Rules = rules }, Ship.Yara.Id, right)
                .Succeeded
        );
        Assert.Equal(
            "rule.domain-not-allowed",
            No(
                InvitationCourse.Correct(
                    Facts(InvitationState.Sent) with
                    {
                        Rules = rules,
                    },
                    Ship.Yara.Id,
                    Ship.At("h@orlo.example")
                )
            )
        );
        // A draft stays one; nothing is mailed.
        var draft = InvitationCourse.Correct(Facts(InvitationState.Draft), Ship.Yara.Id, right).Value;
        Assert.Equal(
            (InvitationState.Draft, InvitationState.Draft, right),
            (draft.From, draft.To, draft.Address)
        );
        Assert.Equal(2, draft.Details.Count);
        Assert.Equal(SecretStep.Keep, draft.Secrets);
        Assert.Empty(draft.Mails);
        Assert.Equal(
            "right.missing",
            No(InvitationCourse.Correct(Facts(InvitationState.Draft), Ship.Bo.Id, right))
        );
        Assert.Equal(
            "rule.domain-not-allowed",
            No(
                InvitationCourse.Correct(
                    Facts(InvitationState.Draft) with
                    {
                        Rules = rules,
                    },
                    Ship.Yara.Id,
                    Ship.At("h@orlo.example")
                )
            )
        );
    }

    [Fact]
    public void A_reminder_is_another_mail_with_another_secret_and_the_next_one_is_set()
    {
        var facts = Facts(InvitationState.Sent) with { Rules = new HouseRules { ReminderDays = [2, 4] } };
        var what = InvitationCourse.Remind(facts, Ship.Yara.Id).Value;
        Assert.Equal((InvitationState.Sent, InvitationState.Sent), (what.From, what.To));
        Assert.Equal((Now.AddDays(1), (Guid?)Ship.Yara.Id), (what.NextReminderAt, what.Answerable));
        Assert.Equal((SecretStep.MailAnother, SeatStep.Keep), (what.Secrets, what.Seats));
        Assert.Equal([InvitationMail.Reminder], what.Mails);
        // By the clock it is measured by whoever is answerable, who stays so.
        Assert.Null(InvitationCourse.Remind(facts, null).Value.Answerable);
        var byBo = facts with { Invitation = facts.Invitation with { InvitedBy = Ship.Bo.Id } };
        Assert.Equal("right.missing", No(InvitationCourse.Remind(byBo, null)));
        Assert.True(InvitationCourse.Remind(byBo, Ship.Yara.Id).Succeeded);
        // A bounce of another mail does not stop it; too many mails do.
        var bounce = facts with
        {
            Address = new AddressStanding(null, null, false, "552 5.2.2"),
        };
        Assert.True(InvitationCourse.Remind(bounce, Ship.Yara.Id).Succeeded);
        var often = facts with
        {
            Address = new AddressStanding(null, null, false, MailsLately: InvitingRules.MostMailsADay),
        };
        Assert.Equal("address.mailed-enough", No(InvitationCourse.Remind(often, null)));
        foreach (var state in Enum.GetValues<InvitationState>().Where(state => state != InvitationState.Sent))
            Assert.Equal("invitation.not-sent", No(InvitationCourse.Remind(Facts(state), Ship.Yara.Id)));
        Assert.Equal(
            "invitation.not-sent",
            No(InvitationCourse.Remind(facts with { Now = Now.AddDays(5) }, null))
        );
    }

    [Theory]
    [InlineData(0, "answer-time.out-of-range")]
    [InlineData(366, "answer-time.out-of-range")]
    [InlineData(1, null)]
    [InlineData(365, null)]
    public void More_time_is_one_day_to_a_year(int days, string? code)
    {
        Assert.Equal(code, InvitationCourse.ForbidsMoreTime(days)?.Code);
        Assert.Equal(code, No(InvitationCourse.Extend(Facts(InvitationState.Sent), Ship.Yara.Id, days)));
        Assert.Equal("days", InvitationCourse.ForbidsMoreTime(null)!.Field);
    }

    [Fact]
    public void More_time_moves_the_deadline_and_mails_nothing()
    {
        var what = InvitationCourse.Extend(Facts(InvitationState.Sent), Ship.Yara.Id, 20).Value;
        Assert.Equal((InvitationState.Sent, Now.AddDays(20)), (what.To, what.Deadline));
        Assert.Equal(Now.AddDays(6), what.NextReminderAt); // a week after it was sent
        Assert.Equal((SeatStep.Keep, SecretStep.Keep), (what.Seats, what.Secrets));
        Assert.Empty(what.Mails);
        Assert.Equal(
            [("before", Now.AddDays(5).ToString("O")), ("after", Now.AddDays(20).ToString("O"))],
            what.Details
        );
        Assert.Null(
            InvitationCourse.Extend(Facts(InvitationState.Queued), Ship.Yara.Id, 20).Value.NextReminderAt
        );
        // Expired by the clock only, it goes back to where it stood; noticed, to sent, and takes seats anew.
        var late = Facts(InvitationState.Queued) with
        {
            Now = Now.AddDays(6),
        };
        var back = InvitationCourse.Extend(late, Ship.Yara.Id, 3).Value;
        Assert.Equal((InvitationState.Queued, SeatStep.Keep), (back.To, back.Seats));
        var noticed = InvitationCourse.Extend(Facts(InvitationState.Expired), Ship.Yara.Id, 3).Value;
        Assert.Equal((InvitationState.Sent, SeatStep.Reserve), (noticed.To, noticed.Seats));

        var rules = new HouseRules { LongestAnswerDays = 10 };
        var no = InvitationCourse.Extend(
            Facts(InvitationState.Sent) with
            {
                Rules = rules,
            },
            Ship.Yara.Id,
            11
        );
        Assert.Equal(("rule.answer-time", "days"), (no.Refusal!.Code, no.Refusal.Field));
        // No mail goes out, so too many do not matter; a bounce does.
        var address = new AddressStanding(null, null, false, MailsLately: InvitingRules.MostMailsADay);
        Assert.True(
            InvitationCourse
                .Extend(Facts(InvitationState.Sent) with { Address = address }, Ship.Yara.Id, 3)
                .Succeeded
        );
        var bounce = new AddressStanding(null, null, false, "550 5.1.1");
        Assert.Equal(
            "address.bounced",
            No(
                InvitationCourse.Extend(
                    Facts(InvitationState.Sent) with
                    {
                        Address = bounce,
                    },
                    Ship.Yara.Id,
                    3
                )
            )
        );
        Assert.Equal(
            "invitation.final",
            No(InvitationCourse.Extend(Facts(InvitationState.Accepted), Ship.Yara.Id, 3))
        );
    }

    [Fact]
    public void A_link_is_handed_over_while_an_answer_is_awaited()
    {
        var what = InvitationCourse.HandOver(Facts(InvitationState.Sent), Ship.Yara.Id).Value;
        Assert.Equal(
            (InvitationState.Sent, InvitationState.Sent, SecretStep.HandOver),
            (what.From, what.To, what.Secrets)
        );
        Assert.Equal((Now.AddDays(2), (Guid?)Ship.Yara.Id), (what.NextReminderAt, what.Answerable));
        Assert.Equal((SeatStep.Keep, null), (what.Seats, what.Deadline));
        Assert.Empty(what.Mails);
        Assert.True(InvitationCourse.HandOver(Facts(InvitationState.Queued), Ship.Yara.Id).Succeeded);
        Assert.Equal(
            "invitation.not-pending",
            No(InvitationCourse.HandOver(Facts(InvitationState.Waiting), Ship.Yara.Id))
        );
        Assert.Equal("right.missing", No(InvitationCourse.HandOver(Facts(InvitationState.Sent), Ship.Bo.Id)));
        // It is another way than mail: neither a bounce nor many mails stand in the way.
        var bad = new AddressStanding(null, null, false, "550 5.1.1", MailsLately: 9);
        Assert.True(
            InvitationCourse
                .HandOver(Facts(InvitationState.Sent) with { Address = bad }, Ship.Yara.Id)
                .Succeeded
        );
        var stopped = new AddressStanding(null, null, true);
        Assert.Equal(
            "address.opted-out",
            No(
                InvitationCourse.HandOver(
                    Facts(InvitationState.Sent) with
                    {
                        Address = stopped,
                    },
                    Ship.Yara.Id
                )
            )
        );
    }

    [Fact]
    public void Taken_back_it_frees_what_it_held_and_whoever_waited_is_told()
    {
        var what = InvitationCourse.Revoke(Facts(InvitationState.Sent)).Value;
        Assert.Equal(
            (InvitationState.Revoked, SeatStep.LetGo, true),
            (what.To, what.Seats, what.WithdrawsMail)
        );
        Assert.Equal(PlaceStep.Keep, what.Place);
        Assert.Empty(what.Mails);
        var waiting = Facts(InvitationState.Waiting);
        Assert.Equal([InvitationMail.TakenBack], InvitationCourse.Revoke(waiting).Value.Mails);
        Assert.Equal(PlaceStep.Keep, InvitationCourse.Revoke(waiting).Value.Place);
        var byLink = waiting with { Invitation = waiting.Invitation with { CameByLink = true } };
        Assert.Equal(PlaceStep.GiveBack, InvitationCourse.Revoke(byLink).Value.Place);
        var sent = Facts(InvitationState.Sent);
        var sentByLink = sent with { Invitation = sent.Invitation with { CameByLink = true } };
        Assert.Equal(PlaceStep.Keep, InvitationCourse.Revoke(sentByLink).Value.Place);
        Assert.Equal("invitation.final", No(InvitationCourse.Revoke(Facts(InvitationState.Declined))));
    }

    [Fact]
    public void An_answer_with_yes_takes_effect_or_waits()
    {
        var what = InvitationCourse.Accept(Facts(InvitationState.Sent)).Value;
        Assert.Equal(
            (InvitationState.Accepted, "invitation.accepted", SeatStep.Settle, PlaceStep.Keep),
            (what.To, what.Entry, what.Seats, what.Place)
        );
        Assert.True(what.IsAnswer && what.WithdrawsMail && what.Joins);
        Assert.Empty(what.Mails);

        var wanted = Facts(InvitationState.Queued);
        wanted = wanted with
        {
            Invitation = wanted.Invitation with { WantsApproval = true, CameByLink = true },
        };
        var waits = InvitationCourse.Accept(wanted).Value;
        Assert.Equal(
            (InvitationState.Waiting, "invitation.waiting", SeatStep.Keep, PlaceStep.Use),
            (waits.To, waits.Entry, waits.Seats, waits.Place)
        );
        Assert.True(waits.IsAnswer && waits.WithdrawsMail && !waits.Joins);
        Assert.Equal([InvitationMail.Waiting, InvitationMail.AwaitsApproval], waits.Mails);
    }

    [Fact]
    public void An_answer_waits_where_link_rules_or_rights_of_the_moment_want_it()
    {
        var facts = Facts(InvitationState.Sent);
        Assert.False(InvitationCourse.NeedsApproval(facts));
        Assert.True(
            InvitationCourse.NeedsApproval(
                facts with
                {
                    Invitation = facts.Invitation with { WantsApproval = true },
                }
            )
        );
        Assert.True(
            InvitationCourse.NeedsApproval(facts with { Rules = new HouseRules { Approval = [Kind.Guest] } })
        );
        var strict = facts with { Rules = new HouseRules { ApproveOtherAddress = true } };
        Assert.False(InvitationCourse.NeedsApproval(strict));
        Assert.True(InvitationCourse.NeedsApproval(strict with { CameAs = Ship.At("h@tide.example") }));
        // Whoever is answerable could not give it any more.
        Assert.True(
            InvitationCourse.NeedsApproval(
                facts with
                {
                    Invitation = facts.Invitation with { InvitedBy = Ship.Bo.Id },
                }
            )
        );
    }

    [Fact]
    public void An_answer_comes_too_late_in_its_own_words()
    {
        foreach (var state in Enum.GetValues<InvitationState>().Where(state => !state.AwaitsAnswer()))
        {
            Assert.StartsWith("link.", No(InvitationCourse.Accept(Facts(state))), StringComparison.Ordinal);
            Assert.StartsWith(
                "link.",
                No(InvitationCourse.Decline(Facts(state), false, false)),
                StringComparison.Ordinal
            );
        }
        var over = Facts(InvitationState.Sent, Ship.Offer() with { Stay = new Stay(Ship.Today.AddDays(-1)) });
        var past = InvitationCourse.Accept(over).Refusal!;
        Assert.Equal(("stay.past", "The time this invitation was for is over."), (past.Code, past.Sentence));

        var ofTide = Facts(
            InvitationState.Sent,
            Ship.Offer() with
            {
                Kind = Kind.Partner,
                OrganisationId = Ship.Tide.Id,
                Stay = Stay.Endless,
            }
        );
        ofTide = ofTide with { Invitation = ofTide.Invitation with { Deadline = Now.AddDays(99) } };
        Assert.True(InvitationCourse.Accept(ofTide).Succeeded);
        Assert.True(InvitationCourse.Accept(ofTide with { Now = Now.AddDays(10) }).Succeeded);
        Assert.Same(
            EntryRules.AgreementOver,
            InvitationCourse.Accept(ofTide with { Now = Now.AddDays(11) }).Refusal
        );
    }

    [Fact]
    public void Whoever_comes_by_a_link_or_with_another_address_comes_by_the_same_rules()
    {
        var facts = Facts(InvitationState.Sent);
        Assert.Null(No(InvitationCourse.Accept(ByLink(JoinLinkState.Open))));
        Assert.Equal("link.closed", No(InvitationCourse.Accept(ByLink(JoinLinkState.Closed))));
        Assert.Equal("link.used-up", No(InvitationCourse.Accept(ByLink(JoinLinkState.UsedUp))));
        Assert.Equal("link.expired", No(InvitationCourse.Accept(ByLink(JoinLinkState.Expired))));
        Assert.Equal("link.domain", No(InvitationCourse.Accept(ByLink(JoinLinkState.Open, "tide.example"))));
        Assert.Null(No(InvitationCourse.Accept(ByLink(JoinLinkState.Open, "orlo.example"))));
        // The address they come with decides.
        var other = Ship.At("h@tide.example");
        Assert.Null(
            No(InvitationCourse.Accept(ByLink(JoinLinkState.Open, "tide.example") with { CameAs = other }))
        );
        Assert.Equal(
            "link.domain",
            No(InvitationCourse.Accept(ByLink(JoinLinkState.Open, "orlo.example") with { CameAs = other }))
        );
        var blocked = facts with
        {
            Rules = new HouseRules { BlockedDomains = ["tide.example"] },
            CameAs = other,
        };
        var no = InvitationCourse.Accept(blocked).Refusal!;
        Assert.Equal("rule.domain-blocked", no.Code);
        Assert.StartsWith("h@tide.example: ", no.Sentence, StringComparison.Ordinal);
        // A lead's invitation is for addresses of their organisation, whichever somebody comes with.
        var lead = Facts(
            InvitationState.Sent,
            Ship.Offer("hamish@tide.example") with
            {
                Kind = Kind.Partner,
                OrganisationId = Ship.Tide.Id,
                Gives = Bundle.Nothing,
                Stay = new Stay(Ship.Today.AddDays(2)),
            }
        );
        lead = lead with { Invitation = lead.Invitation with { InvitedBy = Ship.Ines.Id } };
        Assert.Equal(InvitationState.Accepted, InvitationCourse.Accept(lead).Value.To);
        Assert.Equal(
            "right.lead-only",
            No(InvitationCourse.Accept(lead with { CameAs = Ship.At("hamish@orlo.example") }))
        );

        StepFacts ByLink(JoinLinkState state, params string[] domains) =>
            facts with
            {
                Invitation = facts.Invitation with
                {
                    CameByLink = true,
                    Link = new JoinLinkStanding(state, domains),
                },
            };
    }

    [Fact]
    public void What_waits_is_approved_by_somebody_who_could_give_it()
    {
        var facts = Facts(InvitationState.Waiting);
        var what = InvitationCourse.Approve(facts, Ship.Yara.Id).Value;
        Assert.Equal((InvitationState.Accepted, SeatStep.Settle, true), (what.To, what.Seats, what.Joins));
        Assert.Equal(
            "account.member",
            No(InvitationCourse.Approve(facts with { AnswererIsMember = true }, Ship.Yara.Id))
        );
        var much = Facts(InvitationState.Waiting, Ship.Offer() with { Gives = Much });
        Assert.Equal("right.beyond-own", No(InvitationCourse.Approve(much, Ship.Yara.Id)));
        Assert.True(InvitationCourse.Approve(much, Ship.Mira.Id).Succeeded);
        var over = Facts(
            InvitationState.Waiting,
            Ship.Offer() with
            {
                Stay = new Stay(Ship.Today.AddDays(-1)),
            }
        );
        Assert.Equal("stay.past", No(InvitationCourse.Approve(over, Ship.Yara.Id)));
        Assert.Equal(
            "invitation.not-pending",
            No(InvitationCourse.Approve(Facts(InvitationState.Sent), Ship.Yara.Id))
        );
    }

    [Fact]
    public void What_waits_is_turned_down_with_a_reason_or_without()
    {
        var facts = Facts(InvitationState.Waiting);
        var what = InvitationCourse.Refuse(facts, " Not this year. ").Value;
        Assert.Equal(
            (InvitationState.Refused, "Not this year.", SeatStep.LetGo),
            (what.To, what.Words, what.Seats)
        );
        Assert.Equal([("reason", "Not this year.")], what.Details);
        Assert.Equal([InvitationMail.NotApproved], what.Mails);
        Assert.Equal([("reason", null)], InvitationCourse.Refuse(facts, null).Value.Details);
        var link = InvitationCourse.Refuse(facts, "see www.elsewhere.example").Refusal!;
        Assert.Equal(("message.link", "reason"), (link.Code, link.Field));
        Assert.Equal(
            "invitation.not-pending",
            No(InvitationCourse.Refuse(Facts(InvitationState.Sent), null))
        );
    }

    [Fact]
    public void An_answer_with_no_says_why_where_somebody_else_was_meant()
    {
        var what = InvitationCourse.Decline(Facts(InvitationState.Sent), notMe: true, stops: true).Value;
        Assert.Equal((InvitationState.Declined, SeatStep.LetGo), (what.To, what.Seats));
        Assert.True(what.IsAnswer && what.IsNotMe && what.StopsInvitations && what.WithdrawsMail);
        Assert.Equal([("reason", "somebody else was meant")], what.Details);
        Assert.Equal([InvitationMail.Declined], what.Mails);
        var plain = InvitationCourse.Decline(Facts(InvitationState.Queued), notMe: false, stops: false).Value;
        Assert.False(plain.IsNotMe || plain.StopsInvitations);
        Assert.Equal([("reason", null)], plain.Details);
    }

    [Fact]
    public void What_happens_by_itself_is_noted()
    {
        var sent = InvitationCourse
            .NoteSent(Facts(InvitationState.Queued) with { Rules = new HouseRules { ReminderDays = [3] } })
            .Value;
        Assert.Equal(
            (InvitationState.Sent, true, Now.AddDays(3)),
            (sent.To, sent.IsSent, sent.NextReminderAt)
        );
        Assert.Equal("invitation.not-pending", No(InvitationCourse.NoteSent(Facts(InvitationState.Sent))));
        var bounced = InvitationCourse.NoteBounced(Facts(InvitationState.Sent), "550 5.1.1 no").Value;
        Assert.Equal(
            (InvitationState.Bounced, SeatStep.LetGo, true),
            (bounced.To, bounced.Seats, bounced.WithdrawsMail)
        );
        Assert.Equal([("answer", "550 5.1.1 no")], bounced.Details);
        Assert.Equal("invitation.not-pending", No(InvitationCourse.Expire(Facts(InvitationState.Sent))));
        var expired = InvitationCourse
            .Expire(Facts(InvitationState.Sent) with { Now = Now.AddDays(5) })
            .Value;
        Assert.Equal((InvitationState.Expired, SeatStep.LetGo), (expired.To, expired.Seats));
    }

    [Fact]
    public void Where_it_is_under_way_again_there_must_be_room_for_it_again()
    {
        var full = new Dictionary<Guid, SeatAccount> { [Ship.Desks] = new(1, Held: 1, EverHeld: 1) };
        var offer = Ship.Offer() with { Gives = Bundle.Of(Role.View) with { Pools = [Ship.Desks] } };
        // One that is pending holds its seat already.
        Assert.True(
            InvitationCourse
                .Resend(Facts(InvitationState.Sent, offer) with { Seats = full }, Ship.Yara.Id)
                .Succeeded
        );
        Assert.Equal(
            "seat.none-free",
            No(
                InvitationCourse.Resend(
                    Facts(InvitationState.Expired, offer) with
                    {
                        Seats = full,
                    },
                    Ship.Yara.Id
                )
            )
        );
        var ofTide = Ship.Offer() with { Kind = Kind.Partner, OrganisationId = Ship.Tide.Id };
        Assert.True(
            InvitationCourse
                .Resend(Facts(InvitationState.Sent, ofTide) with { OfOrganisation = 3 }, Ship.Mira.Id)
                .Succeeded
        );
        Assert.Equal(
            "organisation.full",
            No(
                InvitationCourse.Resend(
                    Facts(InvitationState.Expired, ofTide) with
                    {
                        OfOrganisation = 3,
                    },
                    Ship.Mira.Id
                )
            )
        );
    }

    [Fact]
    public void Nobody_writes_down_a_draft_of_what_they_could_not_give()
    {
        Assert.Null(InvitationCourse.ForbidsDraft(Ship.World, Ship.Yara.Id, Ship.Offer(), Ship.Today));
        Assert.Equal(
            "right.missing",
            InvitationCourse.ForbidsDraft(Ship.World, Ship.Bo.Id, Ship.Offer(), Ship.Today)!.Code
        );
        Assert.Equal(
            "right.beyond-own",
            InvitationCourse
                .ForbidsDraft(Ship.World, Ship.Yara.Id, Ship.Offer() with { Gives = Much }, Ship.Today)!
                .Code
        );
    }

    [Theory]
    [InlineData(InvitationState.Draft, "link.unknown", RefusalSort.NotFound)]
    [InlineData(InvitationState.Queued, null, default(RefusalSort))]
    [InlineData(InvitationState.Sent, null, default(RefusalSort))]
    [InlineData(InvitationState.Waiting, "link.waiting", RefusalSort.Conflict)]
    [InlineData(InvitationState.Accepted, "link.used", RefusalSort.Conflict)]
    [InlineData(InvitationState.Refused, "link.refused", RefusalSort.Conflict)]
    [InlineData(InvitationState.Declined, "link.used", RefusalSort.Conflict)]
    [InlineData(InvitationState.Expired, "link.expired", RefusalSort.Conflict)]
    [InlineData(InvitationState.Revoked, "link.revoked", RefusalSort.Conflict)]
    [InlineData(InvitationState.Bounced, "link.expired", RefusalSort.Conflict)]
    public void A_link_says_why_it_opens_nothing(InvitationState state, string? code, RefusalSort sort)
    {
        var no = LinkRules.Forbids(state, Now.AddTicks(1), Now);
        Assert.Equal((code, sort), (no?.Code, no?.Sort ?? default));
        // A deadline is the first instant that is too late.
        if (state.AwaitsAnswer())
            Assert.Equal("link.expired", LinkRules.Forbids(state, Now, Now)!.Code);
    }

    [Fact]
    public void What_is_over_says_what_to_do_instead()
    {
        Assert.Equal("Look the person up under people.", Instead(InvitationState.Accepted));
        Assert.Equal(
            "Send the person a new invitation if that is wanted.",
            Instead(InvitationState.Declined)
        );
        Assert.Equal("Send it first.", Instead(InvitationState.Draft, InvitationStep.Accept));
        Assert.Equal("Approve or refuse it.", Instead(InvitationState.Waiting, InvitationStep.Accept));
        Assert.Equal(
            "Resend it first if it is still wanted.",
            Instead(InvitationState.Bounced, InvitationStep.Accept)
        );
        foreach (var state in Enum.GetValues<InvitationState>())
            Assert.Equal(
                state
                    is InvitationState.Accepted
                        or InvitationState.Refused
                        or InvitationState.Declined
                        or InvitationState.Revoked,
                state.IsFinal()
            );
        Assert.True(
            InvitationLife.Take(InvitationState.Sent, InvitationStep.Resend, Now.AddDays(1), Now).Value
                == InvitationState.Queued
        );

        static string Instead(InvitationState state, InvitationStep step = InvitationStep.Resend)
        {
            var no = InvitationLife.Take(state, step, Now.AddDays(1), Now).Refusal!;
            Assert.Equal(state.IsFinal() ? "invitation.final" : "invitation.not-pending", no.Code);
            return no.Remedy;
        }
    }

    private static string? No(Outcome<InvitationConsequences> outcome) => outcome.Refusal?.Code;
}
