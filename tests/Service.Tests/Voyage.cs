using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;
using Inviting = ComeAboard.Service.Invitations.Inviting;

namespace ComeAboard.Service.Tests;

public sealed class Voyage_on_SQLite(SqliteHarbour harbour) : Voyage(harbour), IClassFixture<SqliteHarbour>;

public sealed class Voyage_on_PostgreSQL(PostgresHarbour harbour)
    : Voyage(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Inviting, answering and being here.</summary>
public abstract class Voyage(Harbour harbour)
{
    [Fact]
    public async Task Somebody_is_invited_comes_aboard_is_seen_and_is_let_go()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var until = DateOnly.FromDateTime(DateTime.UtcNow).AddDays(40);
        var wish = new InvitationRequest(
            ines,
            "guest",
            "edit",
            "Dr Ines Calloway",
            "Welcome to the chart room.",
            until
        );

        var preview = await ship.Client.PreviewInvitationAsync(wish);
        Assert.True(preview.Ready);
        Assert.Empty((await ship.Client.InvitationsAsync()).Items);

        var sent = await ship.Client.SendInvitationAsync(wish, "first");
        var secret = await ship.SecretAsync(ines);
        var mail = await ship.MailAsync(ines, "invites you");
        Assert.Equal(
            preview.Letter!.Text,
            mail.ReplaceLineEndings("\n")
                .Replace(secret, Inviting.SecretPlaceholder, StringComparison.Ordinal),
            AboutTheMinute
        );

        var offer = await ship.Client.ReadLinkAsync(secret);
        Assert.Equal(
            ("The Lantern Tide", "guest", "edit", until),
            (offer.Workspace, offer.Kind, offer.Role, offer.Until)
        );
        var joined = await ship.AcceptAsync(secret, "Ines Calloway");
        Assert.Equal("accepted", (await ship.Client.InvitationAsync(sent.Id)).State);
        Assert.Contains(
            "Ines Calloway accepted",
            await ship.MailAsync(ship.Administrator, "accepted your invitation"),
            StringComparison.Ordinal
        );

        var person = await ship.Client.PersonAsync(ines);
        Assert.Equal(
            (joined.MemberId!.Value, "active", "edit", until),
            (person.Id, person.State, person.Role, person.Until)
        );
        using var own = await ship.ClientOfAsync(ines);
        Assert.Equal("Ines Calloway", (await own.WhoAmIAsync()).Name);

        var plan = await ship.Client.PlanDepartureAsync(ines);
        Assert.Contains("Their API token \"command line\" of this workspace is revoked.", plan.Losses);
        Assert.Equal("done", (await ship.Client.EndAsync(ines)).State);
        Assert.Equal("sign-in.required", await CodeOf(own.WhoAmIAsync()));
        Assert.Equal("ended", (await ship.Client.PersonAsync(ines)).State);
        await ship.MailAsync(ines, "has ended");

        var history = (await ship.Client.PersonHistoryAsync(person.Id)).Items.Select(entry => entry.Action);
        Assert.Equal(
            [
                "invitation.queued",
                "invitation.sent",
                "invitation.accepted",
                "member.joined",
                "token.added",
                "member.ended",
            ],
            history
        );
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Theory]
    [InlineData("mira", "guest", null, null, null, "address.malformed")]
    [InlineData("a@b.example\r\nBcc: all@harbour.example", "guest", null, null, null, "address.malformed")]
    [InlineData("ines@harbour.example", "pirate", null, null, null, "kind.unknown")]
    [InlineData("ines@harbour.example", "guest", "captain", null, null, "role.unknown")]
    [InlineData(
        "ines@harbour.example",
        "guest",
        null,
        "Ines\r\nBcc: all@harbour.example",
        null,
        "name.characters"
    )]
    [InlineData("ines@harbour.example", "guest", null, null, "See http://harbour.example", "message.link")]
    public async Task Bad_input_is_refused_with_its_own_code_and_nothing_is_written(
        string address,
        string kind,
        string? role,
        string? name,
        string? message,
        string code
    )
    {
        var ship = await harbour.NewShipAsync();
        var request = new InvitationRequest(address, kind, role, name, message);
        Assert.Equal(code, await CodeOf(ship.Client.SendInvitationAsync(request, "once")));
        Assert.Equal(code, (await ship.Client.PreviewInvitationAsync(request)).Problem!.Code);
        Assert.Empty((await ship.Client.InvitationsAsync()).Items);
    }

    [Fact]
    public async Task A_day_in_the_past_and_an_answer_time_out_of_range_are_refused()
    {
        var ship = await harbour.NewShipAsync();
        var good = new InvitationRequest(ship.Address("ines"), "guest", "view");
        var yesterday = DateOnly.FromDateTime(harbour.Clock.GetUtcNow().UtcDateTime).AddDays(-2);
        Assert.Equal(
            "stay.past",
            await CodeOf(ship.Client.SendInvitationAsync(good with { Until = yesterday }, "a"))
        );
        Assert.Equal(
            "answer-time.out-of-range",
            await CodeOf(ship.Client.SendInvitationAsync(good with { AnswerDays = 0 }, "b"))
        );
        Assert.Equal(
            "answer-time.out-of-range",
            await CodeOf(ship.Client.SendInvitationAsync(good with { AnswerDays = 366 }, "c"))
        );
    }

    [Fact]
    public async Task Somebody_here_or_invited_is_pointed_to_and_not_invited_again()
    {
        var ship = await harbour.NewShipAsync();
        var (ines, wren) = (ship.Address("ines"), ship.Address("wren"));
        var first = await ship.InviteAsync(ines);
        var again = await Assert.ThrowsAsync<RefusedException>(() =>
            ship.InviteAsync(ines.ToUpperInvariant())
        );
        Assert.Equal(("address.invited", first.Id), (again.Problem.Code, again.Problem.Related!.Value));

        var joined = await ship.BringAboardAsync(wren);
        var here = await Assert.ThrowsAsync<RefusedException>(() => ship.InviteAsync(wren));
        Assert.Equal(("address.member", joined.MemberId), (here.Problem.Code, here.Problem.Related!.Value));
    }

    [Fact]
    public async Task The_same_idempotency_key_sends_once_even_at_the_same_moment()
    {
        var ship = await harbour.NewShipAsync();
        var request = new InvitationRequest(ship.Address("ines"), "guest", "view");
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 12)
                .Select(i =>
                    (i % 2 == 0 ? ship.Client : ship.OtherNode).SendInvitationAsync(request, "the same")
                )
        );
        Assert.Single(answers.Select(a => a.Id).Distinct());
        await ship.SecretAsync(request.Address);
        await Task.Delay(300);
        Assert.Single(harbour.Inbox.To(request.Address));
        Assert.Equal(
            "idempotency.reused",
            await CodeOf(ship.Client.SendInvitationAsync(request with { Kind = "staff" }, "the same"))
        );
    }

    [Fact]
    public async Task Two_accepts_at_the_same_moment_let_one_in()
    {
        var ship = await harbour.NewShipAsync();
        await ship.InviteAsync(ship.Address("ines"));
        var secret = await ship.SecretAsync(ship.Address("ines"));
        var outcomes = await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select(async i =>
                {
                    try
                    {
                        await (i % 2 == 0 ? ship.Client : ship.OtherNode).AcceptAsync(
                            new AcceptRequest(secret, Ship.Password, "Ines " + i)
                        );
                        return "in";
                    }
                    catch (RefusedException refused)
                    {
                        return refused.Problem.Code;
                    }
                })
        );
        Assert.Single(outcomes, "in");
        Assert.All(outcomes.Where(o => o != "in"), code => Assert.Equal("link.used", code));
        Assert.Equal(2, (await ship.Client.PeopleAsync()).Items.Count);
    }

    [Fact]
    public async Task Wrong_truncated_replaced_revoked_and_late_links_each_say_so()
    {
        var ship = await harbour.NewShipAsync();
        var (ines, wren, olu) = (ship.Address("ines"), ship.Address("wren"), ship.Address("olu"));
        var sent = await ship.InviteAsync(ines);
        var first = await ship.SecretAsync(ines);
        Assert.Equal("link.malformed", await CodeOf(ship.Client.ReadLinkAsync(first[..30])));
        Assert.Equal("link.unknown", await CodeOf(ship.Client.ReadLinkAsync(new string('A', 43))));

        Assert.Equal(1, (await ship.Client.ResendInvitationAsync(sent.Id)).Resends);
        var second = await ship.SecretAsync(ines, mails: 2);
        Assert.NotEqual(first, second);
        Assert.Equal("link.unknown", await CodeOf(ship.AcceptAsync(first, "Ines")));
        Assert.Equal(ines, (await ship.Client.ReadLinkAsync(second)).Address);

        await ship.Client.RevokeInvitationAsync(sent.Id);
        Assert.Equal("link.revoked", await CodeOf(ship.AcceptAsync(second, "Ines")));
        Assert.Equal("invitation.final", await CodeOf(ship.Client.ResendInvitationAsync(sent.Id)));

        var late = await ship.InviteAsync(wren);
        var used = await ship.BringAboardAsync(olu);
        Assert.Equal("link.used", await CodeOf(ship.AcceptAsync(await ship.SecretAsync(olu), "Olu")));
        var lateSecret = await ship.SecretAsync(wren);
        await harbour.LetPassAsync(TimeSpan.FromDays(31));
        Assert.Equal("link.expired", await CodeOf(ship.AcceptAsync(lateSecret, "Wren")));
        var page = await ship.Client.InvitationsAsync("expired");
        Assert.Equal((late.Id, 1), (page.Items.Single().Id, page.Counts["expired"]));
        Assert.Equal("queued", (await ship.Client.ResendInvitationAsync(late.Id)).State);
        Assert.NotEqual(default, used.MemberId);
    }

    [Fact]
    public async Task A_forwarded_invitation_does_not_let_a_stranger_in_unnoticed()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var stranger = other.Administrator;
        var ines = ship.Address("ines");
        await ship.InviteAsync(ines);
        var secret = await ship.SecretAsync(ines);
        var asHeld = new AcceptRequest(secret, Ship.Password, Address: stranger);

        Assert.Equal("code.needed", await CodeOf(ship.Client.AcceptAsync(asHeld)));
        await ship.Client.AskCodeAsync(new CodeRequest(secret, stranger, Ship.Password));
        var words = await ship.MailAsync(ines, "Your code");
        Assert.Contains(stranger, words, StringComparison.Ordinal);
        var code = System.Text.RegularExpressions.Regex.Match(words, @"\b\d{8}\b").Value;
        for (var i = 0; i < 4; i++)
            Assert.Equal(
                "code.wrong",
                await CodeOf(ship.Client.AcceptAsync(asHeld with { Code = "00000000" }))
            );
        var joined = await ship.Client.AcceptAsync(asHeld with { Code = code });
        Assert.Equal((ines, "Mira Tollander"), (joined.Address, joined.Name));
    }

    [Fact]
    public async Task A_code_tried_too_often_is_dead_even_when_it_is_right_at_last()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        await ship.InviteAsync(ship.Address("ines"));
        var secret = await ship.SecretAsync(ship.Address("ines"));
        var ask = new CodeRequest(secret, other.Administrator, Ship.Password);
        await ship.Client.AskCodeAsync(ask);
        Assert.Equal("too-many", await CodeOf(ship.Client.AskCodeAsync(ask)));
        var words = await ship.MailAsync(ship.Address("ines"), "Your code");
        var code = System.Text.RegularExpressions.Regex.Match(words, @"\b\d{8}\b").Value;
        var accept = new AcceptRequest(secret, Ship.Password, Address: other.Administrator);
        for (var i = 0; i < 5; i++)
            await CodeOf(ship.Client.AcceptAsync(accept with { Code = "00000000" }));
        Assert.Equal("code.wrong", await CodeOf(ship.Client.AcceptAsync(accept with { Code = code })));
    }

    [Fact]
    public async Task Asking_again_while_a_code_is_on_its_way_uses_up_none_of_those_of_the_hour()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        await ship.InviteAsync(ship.Address("ines"));
        var secret = await ship.SecretAsync(ship.Address("ines"));
        var ask = new CodeRequest(secret, other.Administrator, Ship.Password);
        await ship.Client.AskCodeAsync(ask);
        for (var i = 0; i < 15; i++)
            Assert.Equal("too-many", await CodeOf(ship.Client.AskCodeAsync(ask)));
        // Seven more are mailed within the hour, and no eighth.
        for (var i = 0; i < 7; i++)
        {
            await harbour.LetPassAsync(TimeSpan.FromSeconds(31));
            await ship.Client.AskCodeAsync(ask);
        }
        await harbour.LetPassAsync(TimeSpan.FromSeconds(31));
        Assert.Equal("too-many", await CodeOf(ship.Client.AskCodeAsync(ask)));
    }

    [Fact]
    public async Task An_account_made_beforehand_with_an_unproved_address_gets_nothing()
    {
        var ship = await harbour.NewShipAsync();
        var planted = await harbour.NewShipAsync();
        // The planter set up a workspace under somebody else's address; its owner is now invited and comes.
        var victim = planted.Administrator;
        await ship.InviteAsync(victim);
        var secret = await ship.SecretAsync(victim);
        Assert.False((await ship.Client.ReadLinkAsync(secret)).HasAccount);
        await ship.Client.AcceptAsync(new AcceptRequest(secret, "the owner's own words", "The Owner"));

        Assert.Equal("workspace.not-found", await CodeOf(ship.ClientOfAsync(victim)));
        using var anonymous = new AboardClient(Harbour.UrlOf(harbour.Node));
        var own = await anonymous.SignInAsync(
            new ProgramSignInRequest(victim, "the owner's own words", ship.Name)
        );
        Assert.Equal(ship.Name, own.Workspace);
    }

    [Fact]
    public async Task One_account_in_two_workspaces_loses_only_the_one_that_ends()
    {
        var ship = await harbour.NewShipAsync();
        var museum = await harbour.NewShipAsync();
        var greta = ship.Address("greta");
        await ship.BringAboardAsync(greta, "partner");
        await museum.InviteAsync(greta, "staff", "edit");
        var secret = await museum.SecretAsync(greta, mails: 2);
        Assert.True((await museum.Client.ReadLinkAsync(secret)).HasAccount);
        Assert.Equal("account.exists", await CodeOf(museum.AcceptAsync(secret, "Greta")));
        await museum.Client.AcceptAsync(new AcceptRequest(secret, Ship.Password, Address: greta));

        using var browser = await ship.BrowserOfAsync(greta);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync(ship.Path(""))).StatusCode);
        await ship.Client.EndAsync(greta);
        Assert.Equal(HttpStatusCode.Forbidden, (await browser.GetAsync(ship.Path(""))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync(museum.Path(""))).StatusCode);
        var places = (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.Places;
        Assert.Equal(museum.Name, places.Single().Workspace);
    }

    [Fact]
    public async Task Declining_and_opting_out_are_honoured_everywhere()
    {
        var ship = await harbour.NewShipAsync();
        var museum = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var sent = await ship.InviteAsync(ines);
        var secret = await ship.SecretAsync(ines);
        await ship.Client.DeclineAsync(new DeclineRequest(secret));
        Assert.Equal("declined", (await ship.Client.InvitationAsync(sent.Id)).State);
        await ship.MailAsync(ship.Administrator, "declined your invitation");
        Assert.Equal("link.used", await CodeOf(ship.AcceptAsync(secret, "Ines")));

        await ship.Client.DeclineAsync(new DeclineRequest(secret, DoNotInviteAgain: true));
        Assert.Equal("address.opted-out", await CodeOf(ship.InviteAsync(ines)));
        Assert.Equal("address.opted-out", await CodeOf(museum.InviteAsync(ines)));
    }

    [Fact]
    public async Task Somebody_who_was_not_meant_says_so_and_the_inviter_hears_it()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("ines"));
        await ship.Client.DeclineAsync(
            new DeclineRequest(await ship.SecretAsync(ship.Address("ines")), NotMe: true)
        );
        var words = await ship.MailAsync(ship.Administrator, "declined your invitation");
        Assert.Contains("somebody else was meant", words, StringComparison.Ordinal);
        var last = (await ship.Client.InvitationHistoryAsync(sent.Id)).Items[^1];
        Assert.Equal("somebody else was meant", last.Details!.Value.GetProperty("reason").GetString());
    }

    [Fact]
    public async Task An_invitation_can_be_answered_for_as_long_as_the_inviter_chose()
    {
        var ship = await harbour.NewShipAsync();
        var (brief, usual) = (ship.Address("brief"), ship.Address("usual"));
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(brief, "guest", "view", AnswerDays: 2),
            "brief"
        );
        await ship.InviteAsync(usual);
        var (briefSecret, usualSecret) = (await ship.SecretAsync(brief), await ship.SecretAsync(usual));
        await harbour.LetPassAsync(TimeSpan.FromDays(3));
        Assert.Equal("link.expired", await CodeOf(ship.Client.ReadLinkAsync(briefSecret)));
        Assert.Equal(usual, (await ship.Client.ReadLinkAsync(usualSecret)).Address);
        // An expired one no longer stands in the way of a new invitation, noticed or not.
        Assert.Equal("queued", (await ship.InviteAsync(brief)).State);
    }

    [Fact]
    public async Task A_token_of_ones_own_works_until_it_is_revoked_and_its_secret_is_never_shown_again()
    {
        var ship = await harbour.NewShipAsync();
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Authorization = new("Bearer", ship.Token);
        var made = await http.PostAsJsonAsync(ship.Path("/tokens"), new TokenRequest("nightly list"));
        var token = (await made.Content.ReadFromJsonAsync<NewToken>())!;
        using var program = new AboardClient(Harbour.UrlOf(harbour.OtherNode), ship.Name, token.Token);
        using var beside = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, token.Token);
        Assert.Single((await program.PeopleAsync()).Items);
        Assert.Single((await beside.PeopleAsync()).Items);
        Assert.DoesNotContain(
            token.Token,
            await http.GetStringAsync(ship.Path("/tokens")),
            StringComparison.Ordinal
        );
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await http.DeleteAsync(ship.Path("/tokens/" + token.Id))).StatusCode
        );
        // At once where it was revoked; elsewhere as soon as that was heard of, and looked at in any case within a second.
        Assert.Equal("sign-in.required", await CodeOf(beside.PeopleAsync()));
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            await Patience.UntilAsync(
                async () =>
                {
                    try
                    {
                        await program.PeopleAsync();
                        return HttpStatusCode.OK;
                    }
                    catch (RefusedException no)
                    {
                        return (HttpStatusCode)no.Problem.Status;
                    }
                },
                status => status == HttpStatusCode.Unauthorized,
                40
            )
        );
    }

    [Fact]
    public async Task What_holds_for_a_workspace_and_who_somebody_is_holds_at_once_where_it_was_changed()
    {
        var ship = await harbour.NewShipAsync();
        var bo = ship.Address("bo");
        await ship.BringAboardAsync(bo, "staff", "contribute");
        var token = await ship.Client.SignInAsync(new ProgramSignInRequest(bo, Ship.Password, ship.Name));
        // Without having heard of anything else than what this node itself did.
        using var program = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, token.Token);
        using var manager = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, ship.Token);
        Assert.Equal("Europe/Lisbon", await ZoneAfterAsync("Europe/Lisbon"));
        Assert.Equal("Pacific/Auckland", await ZoneAfterAsync("Pacific/Auckland"));
        for (var n = 0; n < 3; n++)
        {
            await StepAsync("pause");
            Assert.Equal("access.paused", await CodeOf(program.WorkspaceAsync()));
            await StepAsync("resume");
            Assert.Equal(ship.Name, (await program.WorkspaceAsync()).ShortName);
        }
        await manager.EndAsync(bo);
        Assert.Equal("sign-in.required", await CodeOf(program.WorkspaceAsync()));

        Task StepAsync(string step) => manager.PeopleStepsAsync(new(step, [bo]));

        async Task<string> ZoneAfterAsync(string zone)
        {
            await manager.ChangeAppearanceAsync(
                new("The Lantern Tide", null, "en", null) { TimeZone = zone }
            );
            return (await program.WorkspaceAsync()).TimeZone;
        }
    }

    [Fact]
    public async Task Many_who_invite_one_address_at_the_same_moment_send_one_mail()
    {
        var ship = await harbour.NewShipAsync();
        var codes = await Task.WhenAll(
            Enumerable
                .Range(0, 16)
                .Select(async i =>
                {
                    try
                    {
                        var client = i % 2 == 0 ? ship.Client : ship.OtherNode;
                        var request = new InvitationRequest(ship.Address("ines"), "guest", "view");
                        return (await client.SendInvitationAsync(request, "key " + i)).State;
                    }
                    catch (RefusedException refused)
                    {
                        return refused.Problem.Code;
                    }
                })
        );
        Assert.Single(codes, "queued");
        Assert.All(codes.Where(code => code != "queued"), code => Assert.Equal("address.invited", code));
        Assert.Equal(1, (await ship.Client.InvitationsAsync()).Counts.Values.Sum());
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Fact]
    public async Task Every_invitation_is_on_exactly_one_page_and_the_counts_add_up()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await Task.WhenAll(
            Enumerable.Range(0, 23).Select(i => ship.InviteAsync(ship.Address("guest" + i)))
        );
        await ship.Client.RevokeInvitationAsync(sent[3].Id);
        var seen = new List<Guid>();
        string? cursor = null;
        do
        {
            var page = await ship.Client.InvitationsAsync(cursor: cursor, limit: 5);
            seen.AddRange(page.Items.Select(i => i.Id));
            Assert.Equal(23, page.Counts.Values.Sum());
            cursor = page.Next;
        } while (cursor is not null);
        Assert.Equal(sent.Select(i => i.Id).Order(), seen.Order());
        Assert.Equal(22, (await ship.Client.InvitationsAsync("pending", limit: 200)).Items.Count);
        Assert.Equal(4, (await ship.Client.InvitationsAsync(search: "UEST2")).Items.Count);
        Assert.Empty((await ship.Client.InvitationsAsync(search: "gu%2")).Items);
        Assert.Equal("state.unknown", await CodeOf(ship.Client.InvitationsAsync("sunk")));
        Assert.Equal("cursor.malformed", await CodeOf(ship.Client.InvitationsAsync(cursor: "x")));
    }

    /// <summary>The preview is written a moment before the mail, so the minute in it may differ.</summary>
    private static bool AboutTheMinute(string preview, string mail) =>
        WithoutTimes(preview).TrimEnd() == WithoutTimes(mail).TrimEnd();

    private static string WithoutTimes(string text) =>
        System.Text.RegularExpressions.Regex.Replace(text, @"\d\d:\d\d", "");
}
