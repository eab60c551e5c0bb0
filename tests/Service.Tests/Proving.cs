using System.Net;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Proving_on_SQLite(SqliteHarbour harbour) : Proving(harbour), IClassFixture<SqliteHarbour>;

public sealed class Proving_on_PostgreSQL(PostgresHarbour harbour)
    : Proving(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>What proves a mailbox, and what does not.</summary>
public abstract partial class Proving(Harbour harbour)
{
    [Fact]
    public async Task A_link_that_was_handed_over_proves_the_address_only_with_a_code()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var fresh = await HandOverAsync(ship, ines);
        var offer = await ship.Client.ReadLinkAsync(fresh);
        Assert.Equal("Mira Tollander", offer.HandedBy);
        var yes = new AcceptRequest(fresh, Ship.Password, "Ines");
        Assert.Equal("code.needed", await CodeOf(ship.Client.AcceptAsync(yes)));
        await ship.Client.AskCodeAsync(new CodeRequest(fresh));
        var code = await CodeAsync(ship, ines);
        Assert.Equal("code.wrong", await CodeOf(ship.Client.AcceptAsync(yes with { Code = "12345678" })));
        // A code for one mailbox says nothing of another.
        Assert.Equal(
            "code.wrong",
            await CodeOf(
                ship.Client.AcceptAsync(yes with { Code = code, ComeAs = ship.Address("somebody.else") })
            )
        );
        var joined = await ship.Client.AcceptAsync(yes with { Code = code });
        Assert.Equal(ines, joined.Address);
    }

    [Fact]
    public async Task Whoever_cannot_read_the_invited_mailbox_comes_with_an_address_they_can_and_it_is_said()
    {
        var ship = await harbour.NewShipAsync();
        var (invited, own) = (ship.Address("ines"), ship.Address("ines.private"));
        var fresh = await HandOverAsync(ship, invited);
        await ship.Client.AskCodeAsync(new CodeRequest(fresh, ComeAs: own));
        var joined = await ship.Client.AcceptAsync(
            new AcceptRequest(fresh, Ship.Password, "Ines", Code: await CodeAsync(ship, own), ComeAs: own)
        );
        Assert.Equal(own, joined.Address);
        var person = await ship.Client.PersonAsync(own);
        Assert.Equal((invited, "Mira Tollander"), (person.InvitedAs, person.VouchedBy));
        // The invited address is nobody's by that: its owner can be invited, and makes their own account.
        await ship.InviteAsync(invited);
        Assert.NotNull(
            (await ship.AcceptAsync(await ship.SecretAsync(invited, 2), "The real Ines")).MemberId
        );
        // And somebody with an account comes with that, without a code.
        var again = await HandOverAsync(ship, ship.Address("third"));
        await ship.BringAboardAsync(ship.Address("held"));
        await ship.Client.EndAsync(ship.Address("held"));
        var held = await ship.Client.AcceptAsync(
            new AcceptRequest(again, Ship.Password, Address: ship.Address("held"))
        );
        Assert.Equal(ship.Address("held"), held.Address);
    }

    [Fact]
    public async Task Where_the_house_wants_it_whoever_comes_with_another_address_waits_for_approval()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.ChangeRulesAsync(
            (await ship.Client.RulesAsync()) with
            {
                ApproveOtherAddress = true,
            }
        );
        var (invited, own) = (ship.Address("ines"), ship.Address("ines.private"));
        var fresh = await HandOverAsync(ship, invited);
        await ship.Client.AskCodeAsync(new CodeRequest(fresh, ComeAs: own));
        var answered = await ship.Client.AcceptAsync(
            new AcceptRequest(fresh, Ship.Password, "Ines", Code: await CodeAsync(ship, own), ComeAs: own)
        );
        Assert.Null(answered.MemberId);
        var waiting = Assert.Single((await ship.Client.InvitationsAsync("waiting")).Items);
        Assert.Equal((invited, own), (waiting.Address, waiting.CameAs));
        await ship.Client.ApproveAsync(waiting.Id);
        Assert.Equal(invited, (await ship.Client.PersonAsync(own)).InvitedAs);
        // The invited address itself needs no approval, however it was reached.
        var third = ship.Address("third");
        var handed = await HandOverAsync(ship, third);
        await ship.Client.AskCodeAsync(new CodeRequest(handed));
        Assert.NotNull(
            (
                await ship.Client.AcceptAsync(
                    new AcceptRequest(handed, Ship.Password, "Third", Code: await CodeAsync(ship, third))
                )
            ).MemberId
        );
    }

    [Fact]
    public async Task By_a_handed_over_link_nobody_is_silenced_elsewhere_and_an_owner_lifts_it_with_a_code()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var fresh = await HandOverAsync(ship, ines);
        await ship.Client.DeclineAsync(new DeclineRequest(fresh, DoNotInviteAgain: true));
        Assert.Equal("address.opted-out", await CodeOf(ship.InviteAsync(ines)));
        await other.InviteAsync(ines);
        // With the mail itself it counts everywhere, and is lifted by whoever reads that mailbox.
        var mailed = await ship.SecretAsync(ines, 2);
        await other.Client.DeclineAsync(new DeclineRequest(mailed, DoNotInviteAgain: true));
        Assert.Equal("address.opted-out", await CodeOf(other.InviteAsync(ines)));
        using var browser = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var page = await PostAsync(browser, $"/i/{mailed}/stop", $"/i/{mailed}/allow", []);
        Assert.Contains("A code is on its way", page, StringComparison.Ordinal);
        Assert.Equal("address.opted-out", await CodeOf(other.InviteAsync(ines)));
        await PostAsync(
            browser,
            $"/i/{mailed}/stop",
            $"/i/{mailed}/allow",
            new() { ["code"] = await CodeAsync(ship, ines) }
        );
        await other.InviteAsync(ines);
    }

    [Fact]
    public async Task A_handed_over_link_sends_no_more_than_a_few_codes_wherever_they_go()
    {
        var ship = await harbour.NewShipAsync();
        var fresh = await HandOverAsync(ship, ship.Address("ines"));
        var codes = new List<string>();
        for (var n = 0; n < 15; n++)
            codes.Add(
                await CodeOfAnyAsync(
                    ship.Client.AskCodeAsync(new CodeRequest(fresh, ComeAs: ship.Address("victim" + n)))
                )
            );
        Assert.Equal(12, codes.Count(code => code == ""));
        Assert.Equal(3, codes.Count(code => code == "too-many"));

        static async Task<string> CodeOfAnyAsync(Task call)
        {
            try
            {
                await call;
                return "";
            }
            catch (RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task An_inviter_does_not_come_in_by_a_renewed_link_with_more_than_they_hold()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Roles.AddAsync(new("clerk", "Invites.", "view", null, ["invite"]));
        var clerk = ship.Address("clerk");
        await ship.BringAboardAsync(clerk, "staff", "clerk");
        using var lesser = await ship.ClientOfAsync(clerk);
        var link = await ship.Client.AddLinkAsync(new JoinLinkRequest("Officers", "staff", "manage"));
        Assert.Equal("right.beyond-own", await CodeOf(lesser.RenewLinkAsync(link.Link.Id)));
        await ship.Client.ReadJoinLinkAsync(link.Address[^43..]); // the old one goes on counting
        var sent = await ship.InviteAsync(ship.Address("officer"), "staff", "manage");
        var expired = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("late"), "staff", "manage", AnswerDays: 1),
            "late"
        );
        await ship.SecretAsync(expired.Address);
        await ship.SecretAsync(sent.Address);
        Func<Task>[] ways =
        [
            () => lesser.ResendInvitationAsync(sent.Id),
            () => lesser.RemindAsync(sent.Id),
            () => lesser.ExtendAsync(sent.Id, 20),
            () => lesser.ExtendAsync(expired.Id, 20),
            () => lesser.CorrectAsync(sent.Id, ship.Address("accomplice")),
            () => lesser.FreshLinkAsync(sent.Id),
        ];
        foreach (var way in ways)
            Assert.Equal("right.beyond-own", await CodeOf(way()));
        foreach (var step in new[] { "resend", "remind", "extend" })
        {
            var answer = await lesser.TakeStepsAsync(new StepsRequest(step, [sent.Id, expired.Id], Days: 9));
            Assert.Equal((0, 2), (answer.Done, answer.RefusedCount));
            Assert.All(answer.Refused, no => Assert.Equal("right.beyond-own", no.Problem.Code));
        }
        // Whoever sends again what they could give answers for it from then on.
        var own = await ship.InviteAsync(ship.Address("guest"));
        Assert.Equal("Mira Tollander", own.InvitedBy);
        Assert.Equal("Somebody clerk", (await lesser.ResendInvitationAsync(own.Id)).InvitedBy);
    }

    [Fact]
    public async Task The_first_administrator_keeps_a_way_in_whoever_proves_their_address()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        // Somebody else is invited at the address the administrator set up and never proved, and reads that mailbox.
        await other.InviteAsync(ship.Administrator);
        var secret = await other.SecretAsync(ship.Administrator);
        Assert.True((await other.Client.ReadLinkAsync(secret)).IsBorneUnproved);
        await other.Client.AcceptAsync(new AcceptRequest(secret, "another password altogether", "Somebody"));
        await ship.ClientOfAsync(ship.Administrator);
        await Assert.ThrowsAsync<RefusedException>(() =>
            other.Client.SignInAsync(new ProgramSignInRequest(ship.Administrator, Ship.Password, other.Name))
        );
    }

    private static async Task<string> HandOverAsync(Ship ship, string address)
    {
        var sent = await ship.InviteAsync(address);
        await ship.SecretAsync(address);
        return (await ship.Client.FreshLinkAsync(sent.Id)).Link[^43..];
    }

    private static async Task<string> CodeAsync(Ship ship, string address) =>
        CodePattern().Match(await ship.MailAsync(address, "Your code")).Value;

    private static async Task<string> PostAsync(
        HttpClient browser,
        string page,
        string path,
        Dictionary<string, string> form
    )
    {
        var answer = await browser.FormAsync(page, path, form);
        return await answer.Content.ReadAsStringAsync();
    }

    [GeneratedRegex("[0-9]{8}")]
    private static partial Regex CodePattern();
}
