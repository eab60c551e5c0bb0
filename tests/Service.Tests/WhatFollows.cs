using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class WhatFollows_on_SQLite(SqliteHarbour harbour)
    : WhatFollows(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class WhatFollows_on_PostgreSQL(PostgresHarbour harbour)
    : WhatFollows(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>What follows from steps: seats, places, reminders, approval, mails; and what a departure takes with it.</summary>
public abstract class WhatFollows(Harbour harbour)
{
    [Fact]
    public async Task An_expired_invitation_is_not_revived_beside_a_second_one_and_holds_up_no_other()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", 2));
        var (ines, kofi) = (ship.Address("ines"), ship.Address("kofi"));
        var first = await SendAsync(ship, ines, days: 1, seat: "Desks");
        var other = await SendAsync(ship, kofi, days: 1, seat: "Desks");
        await SentAsync(ship, first.Id, other.Id);
        await harbour.LetPassAsync(TimeSpan.FromDays(2));
        Assert.Equal(2, (await ship.Client.Pools.ShowAsync("Desks")).Free);
        var second = await ship.InviteAsync(ines);

        Assert.Equal("address.invited", await CodeOf(ship.Client.ExtendAsync(first.Id, 30)));
        var step = new StepsRequest("extend", State: "expired", Days: 30);
        var tried = await ship.Client.TakeStepsAsync(step with { DryRun = true });
        var taken = await ship.Client.TakeStepsAsync(step);
        foreach (var answer in new[] { tried, taken })
        {
            Assert.Equal((1, 1), (answer.Done, answer.RefusedCount));
            Assert.Equal((first.Id, ines), (answer.Refused[0].Id, answer.Refused[0].Address));
        }
        // What is under way again holds its seat again, and is reminded of again.
        Assert.Equal(1, (await ship.Client.Pools.ShowAsync("Desks")).Reserved);
        var revived = await ship.Client.InvitationAsync(other.Id);
        Assert.Equal("sent", revived.State);
        Assert.NotNull(revived.NextReminderAt);
        Assert.Equal(
            "queued",
            (await ship.Client.InvitationAsync(second.Id)).State.Replace("sent", "queued")
        );
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Fact]
    public async Task An_acceptance_that_waited_and_is_taken_back_frees_its_place_and_tells_the_person()
    {
        var ship = await harbour.NewShipAsync();
        var link = await ship.Client.AddLinkAsync(
            new JoinLinkRequest("Harbour day", "guest", "view", Cap: 1, NeedsApproval: true)
        );
        var waiting = await WaitAsync(ship, link, ship.Address("ines"));
        Assert.Equal(("used up", 1), await StateAsync());
        await ship.Client.RevokeInvitationAsync(waiting.Id);
        Assert.Equal(("open", 0), await StateAsync());
        Assert.Contains(
            "taken back before it was approved",
            await ship.MailAsync(ship.Address("ines"), "Taken back"),
            StringComparison.Ordinal
        );
        // The place is there for somebody else.
        await ship.Client.ApproveAsync((await WaitAsync(ship, link, ship.Address("hamish"))).Id);
        Assert.Equal(("used up", 1), await StateAsync());

        async Task<(string, int)> StateAsync()
        {
            var shown = await ship.Client.LinkAsync(link.Link.Id);
            return (shown.State, shown.Uses);
        }
    }

    [Fact]
    public async Task A_draft_and_a_join_link_older_than_the_rule_wait_for_approval_like_any_other()
    {
        var ship = await harbour.NewShipAsync();
        var (ines, hamish) = (ship.Address("ines"), ship.Address("hamish"));
        var draft = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ines, "guest", "view") { Draft = true },
            "d"
        );
        var sent = await ship.InviteAsync(ship.Address("kofi"));
        var link = await ship.Client.AddLinkAsync(new JoinLinkRequest("Harbour day", "guest", "view"));
        await ship.Client.ChangeRulesAsync((await ship.Client.RulesAsync()) with { Approval = ["guest"] });
        await ship.Client.SendDraftAsync(draft.Id);
        var secret = await ship.SecretAsync(ines);
        Assert.True((await ship.Client.ReadLinkAsync(secret)).NeedsApproval);
        Assert.Null((await ship.AcceptAsync(secret, "Ines")).MemberId);
        Assert.Null((await ship.AcceptAsync(await ship.SecretAsync(sent.Address), "Kofi")).MemberId);
        await WaitAsync(ship, link, hamish);
        Assert.True((await ship.Client.LinkAsync(link.Link.Id)).NeedsApproval);
        // And without the rule nobody waits any more.
        await ship.Client.ChangeRulesAsync((await ship.Client.RulesAsync()) with { Approval = [] });
        await ship.Client.AskByLinkAsync(new JoinRequest(SecretOf(link), ship.Address("ada")));
        Assert.NotNull((await ship.AcceptAsync(await ship.SecretAsync(ship.Address("ada")), "Ada")).MemberId);
    }

    [Fact]
    public async Task Nothing_open_names_a_leaver_and_the_plan_says_all_of_it_beforehand()
    {
        var ship = await harbour.NewShipAsync();
        var kofi = ship.Address("kofi");
        var left = await ship.BringAboardAsync(kofi, "staff", "manage");
        using var leaver = await ship.ClientOfAsync(kofi);
        await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Register", "Collection", Owner: kofi));
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", 2));
        await ship.Client.GiveSeatsAsync("Desks", new PeopleRequest([kofi]));
        var link = await leaver.AddLinkAsync(new JoinLinkRequest("Harbour day", "guest", "view"));
        var guest = ship.Address("guest");
        await ship.BringAboardAsync(guest);
        await ship.Client.ChangePersonAsync(guest, new DetailsRequest(Host: kofi));
        var hosted = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("hosted"), "guest", "view") { Host = kofi },
            "h"
        );
        await leaver.SendInvitationAsync(new InvitationRequest(ship.Address("ines"), "guest", "view"), "i");

        var plan = await ship.Client.PlanDepartureAsync(kofi);
        Assert.Null(plan.Problem);
        Assert.Contains("Their join link \"Harbour day\" is closed.", plan.Losses);
        Assert.Contains("Mira Tollander becomes the host of Somebody guest.", plan.Losses);
        Assert.Equal("open", (await ship.Client.LinkAsync(link.Link.Id)).State);
        var done = await ship.Client.EndAsync(kofi);
        // Plan and deed are the same list.
        Assert.Equal(plan.Steps.Select(StepsOf.Planned), done.Steps.Select(StepsOf.Planned));
        Assert.Equal("closed", (await ship.Client.LinkAsync(link.Link.Id)).State);
        Assert.Equal("Mira Tollander", (await ship.Client.PersonAsync(guest)).Host);
        Assert.Equal("Mira Tollander", (await ship.Client.InvitationAsync(hosted.Id)).Host);
        Assert.Equal("link.closed", await CodeOf(ship.Client.ReadJoinLinkAsync(SecretOf(link))));
        await OpenThings.NameNobodyGoneAsync(harbour, ship);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
        Assert.NotNull(left.MemberId);
    }

    [Fact]
    public async Task A_step_for_many_that_is_tried_answers_what_the_real_one_answers()
    {
        var ship = await harbour.NewShipAsync();
        // Several lots, with seats for fewer than ask for one.
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", 130));
        for (var n = 0; n < 130; n++)
            await SendAsync(ship, ship.Address("p" + n), days: 1, seat: "Desks");
        await harbour.LetPassAsync(TimeSpan.FromDays(2));
        await ship.Client.Pools.ChangeAsync("Desks", new PoolRequest("Desks", 110));
        var step = new StepsRequest("extend", State: "expired", Days: 30);
        var tried = await ship.Client.TakeStepsAsync(step with { DryRun = true });
        Assert.Equal(130, (await ship.Client.InvitationsAsync()).Counts["expired"]);
        var taken = await ship.Client.TakeStepsAsync(step);
        Assert.Equal((110, 20), (taken.Done, taken.RefusedCount));
        Assert.Equal(tried.Done, taken.Done);
        Assert.Equal(
            tried.Refused.Select(no => (no.Id, no.Address, no.Problem.Code)),
            taken.Refused.Select(no => (no.Id, no.Address, no.Problem.Code))
        );
        Assert.Equal(0, (await ship.Client.Pools.ShowAsync("Desks")).Free);
    }

    [Fact]
    public async Task Nobody_acts_on_somebody_with_duties_they_do_not_hold()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Roles.AddAsync(
            new RoleRequest("mate", "Looks after people.", "view", null, ["people", "invite"])
        );
        var (mate, officer) = (ship.Address("mate"), ship.Address("officer"));
        await ship.BringAboardAsync(mate, "staff", "mate");
        await ship.BringAboardAsync(officer, "staff", "manage");
        using var lesser = await ship.ClientOfAsync(mate);
        foreach (
            var step in new[]
            {
                new PeopleStepRequest("pause", [officer]),
                new PeopleStepRequest("sign-out", [officer]),
                new PeopleStepRequest("kind", [officer], "guest"),
                new PeopleStepRequest("change", [officer], Details: new DetailsRequest(Note: "mine now")),
            }
        )
        {
            var tried = await lesser.PeopleStepsAsync(step, dryRun: true);
            var taken = await lesser.PeopleStepsAsync(step);
            Assert.Equal("right.acting-on", Assert.Single(tried.Refused).Problem.Code);
            Assert.Equal("right.acting-on", Assert.Single(taken.Refused).Problem.Code);
        }
        Assert.Equal("right.acting-on", await CodeOf(lesser.EndAsync(officer)));
        Assert.Equal("right.acting-on", (await lesser.PlanDepartureAsync(officer)).Problem!.Code);
        // Not even while they are kept out.
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [officer]));
        var resumed = await lesser.PeopleStepsAsync(new PeopleStepRequest("resume", [officer]));
        Assert.Equal("right.acting-on", Assert.Single(resumed.Refused).Problem.Code);
        // On their own kind, and on themselves, they do.
        await ship.BringAboardAsync(ship.Address("guest"));
        await lesser.EndAsync(ship.Address("guest"));
        await lesser.EndAsync(mate);
    }

    private static Task<InvitationView> SendAsync(Ship ship, string address, int days, string seat) =>
        ship.Client.SendInvitationAsync(
            new InvitationRequest(address, "guest", "view", AnswerDays: days)
            {
                Gives = new BundleView(null, null, [seat]),
            },
            address
        );

    private static async Task SentAsync(Ship ship, params Guid[] invitations)
    {
        foreach (var id in invitations)
            while ((await ship.Client.InvitationAsync(id)).State != "sent")
                await Task.Delay(20);
    }

    private static string SecretOf(NewJoinLink link) => link.Address[^43..];

    private static async Task<InvitationView> WaitAsync(Ship ship, NewJoinLink link, string address)
    {
        await ship.Client.AskByLinkAsync(new JoinRequest(SecretOf(link), address));
        Assert.Null((await ship.AcceptAsync(await ship.SecretAsync(address), "Somebody")).MemberId);
        return (await ship.Client.InvitationsAsync("waiting", address)).Items.Single();
    }
}
