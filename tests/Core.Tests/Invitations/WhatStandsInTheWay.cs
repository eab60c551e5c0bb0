using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>What stops an invitation, all of it at once: for inviters, for leads of an organisation, for want of room.</summary>
public sealed class WhatStandsInTheWay
{
    private static InvitingFacts By(Person inviter, InvitationOffer? offer = null) =>
        InvitingFacts.Of(offer ?? Ship.Offer(), Ship.World, new HouseRules(), inviter.Id, Ship.Today);

    private static IEnumerable<string> Codes(InvitingFacts facts) =>
        Readiness.Blockers(facts).Select(refusal => refusal.Code);

    [Fact]
    public void Nothing_stands_in_the_way_of_what_is_right()
    {
        Assert.Empty(Codes(By(Ship.Yara)));
        Assert.Null(
            Readiness.ForbidsGiver(Ship.World, new HouseRules(), Ship.Yara.Id, Ship.Offer(), Ship.Today)
        );
        var facts = By(Ship.Yara, Ship.Offer() with { Host = "mira@ship.example" });
        Assert.True(facts.NamesHost);
        Assert.False(By(Ship.Yara).NamesHost);
        Assert.Equal(10, facts.AnswerDays);
        Assert.Null(facts.Organisation);
        Assert.Equal(
            Ship.Tide,
            By(Ship.Yara, Ship.Offer() with { OrganisationId = Ship.Tide.Id }).Organisation
        );
        Assert.Null(By(Ship.Yara, Ship.Offer() with { OrganisationId = Ship.Id(99) }).Organisation);
    }

    [Fact]
    public void Everything_that_stands_in_the_way_is_said_at_once_the_inviters_rights_first()
    {
        var tide = Ship.Tide with { AgreementEnds = Ship.Today.AddDays(-1) };
        var facts = new InvitingFacts(
            Ship.World,
            new HouseRules
            {
                Inviters = new Dictionary<Kind, IReadOnlyList<Guid>> { [Kind.Guest] = [Ship.Warden.Id] },
                BlockedDomains = ["orlo.example"],
                HostForOutsiders = true,
                LongestStayDays = new Dictionary<Kind, int> { [Kind.Guest] = 5 },
                LongestAnswerDays = 5,
            },
            Ship.Bo.Id,
            Kind.Guest,
            new Bundle([new GivenRole(Role.View.Id)], [], [Ship.Desks]),
            tide,
            new Stay(Ship.Today.AddDays(9)),
            6,
            Ship.Today
        )
        {
            Address = Ship.At("hamish@orlo.example"),
            Standing = new AddressStanding(Ship.Kofi.Id, null, false),
            OfOrganisation = 3,
            Seats = new Dictionary<Guid, SeatAccount> { [Ship.Desks] = new(0) },
        };
        Assert.Equal(
            [
                "right.missing",
                "rule.inviter",
                "right.beyond-own",
                "address.member",
                "organisation.over",
                "organisation.kind",
                "organisation.full",
                "seat.none-free",
                "rule.domain-blocked",
                "rule.host-needed",
                "rule.stay-too-long",
                "rule.answer-time",
            ],
            Codes(facts)
        );
        Assert.StartsWith(
            "Reading desks: ",
            Readiness.Blockers(facts).Single(no => no.Code == "seat.none-free").Sentence,
            StringComparison.Ordinal
        );
        var over = Readiness.Blockers(facts).Single(no => no.Code == "organisation.over");
        Assert.Equal(("organisation", RefusalSort.Conflict), (over.Field, over.Sort));
        Assert.Contains("2026-11-22", over.Sentence, StringComparison.Ordinal);
        // A host who is nobody here is said in place of the want of one.
        Assert.Contains("host.unknown", Codes(facts with { NamesHost = true }));
        Assert.DoesNotContain("rule.host-needed", Codes(facts with { NamesHost = true }));
        Assert.DoesNotContain("rule.host-needed", Codes(facts with { HasHost = true }));
        Assert.Equal(
            "host",
            Readiness.Blockers(facts with { NamesHost = true }).Single(no => no.Code == "host.unknown").Field
        );
        // Looking ahead, without an address and without a stay, what hangs on them is not said.
        var ahead = facts with
        {
            Address = null,
            Stay = null,
        };
        Assert.DoesNotContain("address.member", Codes(ahead));
        Assert.DoesNotContain("rule.domain-blocked", Codes(ahead));
        Assert.DoesNotContain("rule.stay-too-long", Codes(ahead));
    }

    [Fact]
    public void An_invitation_gives_something_by_itself_or_by_an_organisation()
    {
        var empty = Ship.Offer() with { Gives = Bundle.Nothing };
        Assert.Equal(["role.missing"], Codes(By(Ship.Yara, empty)));
        Assert.Equal("role", Readiness.Blockers(By(Ship.Yara, empty)).First().Field);
        Assert.Equal(["role.missing"], Codes(By(Ship.Yara, empty with { OrganisationId = Ship.Pier.Id })));
        Assert.Empty(Codes(By(Ship.Yara, empty with { OrganisationId = Ship.Tide.Id, Kind = Kind.Partner })));
    }

    [Fact]
    public void A_seat_of_the_new_year_is_reserved_by_the_new_years_account()
    {
        var facts = By(
            Ship.Yara,
            Ship.Offer() with
            {
                Gives = Bundle.Of(Role.View) with { Pools = [Ship.Desks, Ship.Id(52)] },
            }
        );
        var spent = new SeatAccount(1, EverHeld: 1, ChangesPerSeat: 1, Year: 2026, ChangesUsed: 1);
        Assert.Equal(["seat.no-changes"], Codes(facts with { Seats = Of(spent) }));
        Assert.Empty(Codes(facts with { Seats = Of(spent with { Year = 2025 }) }));
        // A pool that is not known is not looked at.
        Assert.Empty(Codes(facts));

        static Dictionary<Guid, SeatAccount> Of(SeatAccount account) => new() { [Ship.Desks] = account };
    }

    [Fact]
    public void Who_leads_an_organisation_is_said_by_the_person_and_the_day()
    {
        Assert.Equal(Ship.Tide, Readiness.LeadsOf(Ship.World, Ship.Ines.Id, Ship.Today));
        Assert.Null(Readiness.LeadsOf(Ship.World, Ship.Kofi.Id, Ship.Today));
        Assert.Null(Readiness.LeadsOf(Ship.World, Guid.NewGuid(), Ship.Today));
        Assert.Null(Readiness.LeadsOf(Ship.World, Ship.Ines.Id, Ship.Today.AddDays(6)));
        Assert.Null(Leading(Ship.Ines with { Leads = false }));
        Assert.Null(Leading(Ship.Ines with { OrganisationId = null }));
        Assert.Null(Leading(Ship.Ines with { IsPaused = true }));
        Assert.True(Readiness.IsLead(By(Ship.Ines)));
        Assert.False(Readiness.IsLead(By(Ship.Yara)));
        Assert.False(Readiness.IsLead(By(Ship.Bo)));
        // Somebody who may invite anyhow does not do it as a lead.
        var both = Ship.Yara with
        {
            Leads = true,
            OrganisationId = Ship.Tide.Id,
        };
        Assert.False(Readiness.IsLead(By(both) with { World = Ship.World.With(both) }));

        static Organisation? Leading(Person person) =>
            Readiness.LeadsOf(Ship.World.With(person), person.Id, Ship.Today);
    }

    [Fact]
    public void A_lead_invites_their_own_people_until_their_own_end_and_gives_nothing_beside()
    {
        var own = Ship.Offer("hamish@lab.tide.example") with
        {
            Kind = Kind.Partner,
            OrganisationId = Ship.Tide.Id,
            Gives = Bundle.Nothing,
            Stay = new Stay(Ship.Today.AddDays(5)),
        };
        Assert.Empty(Codes(By(Ship.Ines, own)));
        // A lead needs no host where one is wanted: it is themselves.
        Assert.Empty(Codes(By(Ship.Ines, own) with { Rules = new HouseRules { HostForOutsiders = true } }));
        Says("organisation", own with { OrganisationId = Ship.Pier.Id });
        Says("organisation", own with { OrganisationId = null });
        Says("kind", own with { Kind = Kind.Guest });
        Says("role", own with { Gives = Bundle.Of(Role.View) });
        Says("role", own with { Gives = Bundle.Nothing with { Groups = [Ship.Crew.Id] } });
        Says("role", own with { Gives = Bundle.Nothing with { Pools = [Ship.Desks] } });
        Says("address", own with { Address = Ship.At("hamish@orlo.example") });
        Says("until", own with { Stay = new Stay(Ship.Today.AddDays(6)) });
        Says("until", own with { Stay = Stay.Endless });
        // Without an end of their own, any.
        var endless = Ship.Ines with
        {
            Stay = Stay.Endless,
        };
        Assert.Empty(
            Codes(By(endless, own with { Stay = Stay.Endless }) with { World = Ship.World.With(endless) })
        );
        Assert.Empty(Codes(By(Ship.Ines, own) with { Stay = null, Address = null }));
        // Of several domains one is enough; of none nobody is of it.
        Assert.Empty(Codes(Knowing(["other.example", "tide.example"])));
        var none = Assert.Single(Readiness.Blockers(Knowing([])));
        Assert.Contains(
            "no mail domain of your organisation is known",
            none.Sentence,
            StringComparison.Ordinal
        );
        var far = Assert.Single(Readiness.Blockers(Knowing(["a.example", "b.example"])));
        Assert.Contains("addresses at a.example, b.example", far.Sentence, StringComparison.Ordinal);

        InvitingFacts Knowing(string[] domains)
        {
            var tide = Ship.Tide with { Domains = [.. domains] };
            var world = Ship.World with { Organisations = Ship.World.Organisations.SetItem(tide.Id, tide) };
            return InvitingFacts.Of(own, world, new HouseRules(), Ship.Ines.Id, Ship.Today);
        }
        static void Says(string field, InvitationOffer offer)
        {
            var no = Readiness.Blockers(By(Ship.Ines, offer)).First();
            Assert.Equal(("right.lead-only", field, RefusalSort.NotAllowed), (no.Code, no.Field, no.Sort));
            Assert.NotNull(
                Readiness.ForbidsGiver(Ship.World, new HouseRules(), Ship.Ines.Id, offer, Ship.Today)
            );
        }
    }

    [Theory]
    [InlineData(null, Verdict.Ready)]
    [InlineData("address.member", Verdict.Member)]
    [InlineData("address.invited", Verdict.Invited)]
    [InlineData("address.invited-by-file", Verdict.Invited)]
    [InlineData("address.repeated", Verdict.Repeated)]
    [InlineData("address.opted-out", Verdict.Stopped)]
    [InlineData("seat.none-free", Verdict.Full)]
    [InlineData("seat.no-changes", Verdict.Full)]
    [InlineData("organisation.full", Verdict.Full)]
    [InlineData("address.bounced", Verdict.Blocked)]
    [InlineData("address.mailed-enough", Verdict.Blocked)]
    [InlineData("access.ended", Verdict.Blocked)]
    [InlineData("organisation.over", Verdict.Blocked)]
    [InlineData("right.missing", Verdict.Blocked)]
    [InlineData("rule.answer-time", Verdict.Blocked)]
    [InlineData("address.malformed", Verdict.Wrong)]
    [InlineData("stay.past", Verdict.Wrong)]
    public void A_refusal_amounts_to_a_verdict(string? code, Verdict verdict)
    {
        var refusal = code is null ? null : new Refusal(code, "", "");
        Assert.Equal(verdict, Verdicts.Of(refusal, false));
        Assert.Equal(code is null ? Verdict.Personal : verdict, Verdicts.Of(refusal, true));
        Assert.Equal(verdict is Verdict.Ready or Verdict.Personal, verdict.CanBeSent());
        Assert.True(Verdict.Personal.CanBeSent());
    }

    [Fact]
    public void The_first_thing_in_the_way_of_an_entry_decides()
    {
        var (fault, inviter) = (new Refusal("stay.past", "", ""), new Refusal("access.ended", "", ""));
        var earlier = (Ship.Id(301), InvitationState.Expired);
        Refusal Later() => new("rule.host-needed", "", "");
        Assert.Equal("stay.past", Verdicts.Judge(fault, inviter, earlier, Later, false).Refusal!.Code);
        Assert.Equal("access.ended", Verdicts.Judge(null, inviter, earlier, Later, false).Refusal!.Code);
        var file = Verdicts.Judge(null, null, earlier, Later, false).Refusal!;
        Assert.Equal(
            ("address.invited-by-file", "address", Ship.Id(301), "Resend that invitation."),
            (file.Code, file.Field, file.Related, file.Remedy)
        );
        Assert.Equal("rule.host-needed", Verdicts.Judge(null, null, null, Later, false).Refusal!.Code);
        Assert.Equal((Verdict.Personal, null), Verdicts.Judge(null, null, null, () => null, true));
        Assert.Equal(
            "Resend that invitation.",
            Verdicts.InvitedByFile(Ship.Id(1), InvitationState.Bounced).Remedy
        );
        Assert.StartsWith(
            "To invite again nevertheless",
            Verdicts.InvitedByFile(Ship.Id(1), InvitationState.Sent).Remedy,
            StringComparison.Ordinal
        );
        Assert.Contains("entry 7", Verdicts.Repeated(7).Sentence, StringComparison.Ordinal);
        Assert.Equal(
            ("address", RefusalSort.Conflict),
            (Verdicts.Repeated(7).Field, Verdicts.Repeated(7).Sort)
        );
    }

    [Fact]
    public void An_address_is_stopped_for_what_is_worst_about_it()
    {
        var all = new AddressStanding(Ship.Id(1), Ship.Id(2), true, "550 5.1.1", MailsLately: 6);
        Says("address.member", Ship.Id(1), all);
        Says("address.opted-out", null, all with { MemberId = null });
        Says("address.invited", Ship.Id(2), all with { MemberId = null, OptedOut = false });
        var mail = all with { MemberId = null, OptedOut = false, PendingId = null };
        Says("address.bounced", null, mail);
        Says("address.mailed-enough", null, mail with { Bounce = null });
        Assert.Null(
            InvitingRules.Forbids(Ship.At("a@tide.example"), mail with { Bounce = null, MailsLately = 5 })
        );

        static void Says(string code, Guid? related, AddressStanding standing)
        {
            var no = InvitingRules.Forbids(Ship.At("a@tide.example"), standing)!;
            Assert.Equal(
                (code, related, "address", RefusalSort.Conflict),
                (no.Code, no.Related, no.Field, no.Sort)
            );
        }
    }
}
