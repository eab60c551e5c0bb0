using System.Net;
using System.Text;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Tests.World;
using ComeAboard.Standins.Mail;
using Microsoft.Extensions.DependencyInjection;
using MimeKit;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class FollowingUp_on_SQLite(SqliteHarbour harbour)
    : FollowingUp(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class FollowingUp_on_PostgreSQL(PostgresHarbour harbour)
    : FollowingUp(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Following up: drafts, corrections, more time, reminders, fresh links, steps for many, reports, wordings.</summary>
public abstract class FollowingUp(Harbour harbour)
{
    [Fact]
    public async Task A_draft_gets_nothing_until_it_is_sent_and_can_be_changed_before()
    {
        var ship = await harbour.NewShipAsync();
        var (wrong, right) = (ship.Address("inse"), ship.Address("ines"));
        var draft = await ship.Client.SendInvitationAsync(
            new InvitationRequest(wrong, "guest", "view") { Draft = true, Note = "wait" },
            "k"
        );
        Assert.Equal(("draft", "wait"), (draft.State, draft.Note));
        await ship.InviteAsync(wrong); // a draft stands in nobody's way
        draft = await ship.Client.ChangeDraftAsync(draft.Id, new InvitationRequest(right, "partner", "edit"));
        Assert.Equal(
            (right, "partner", "edit", "draft"),
            (draft.Address, draft.Kind, draft.Role, draft.State)
        );
        Assert.Empty(harbour.Inbox.To(right));
        Assert.Equal("queued", (await ship.Client.SendDraftAsync(draft.Id)).State);
        await ship.AcceptAsync(await ship.SecretAsync(right), "Ines");
        Assert.Equal(
            "invitation.no-draft",
            await CodeOf(
                ship.Client.ChangeDraftAsync(draft.Id, new InvitationRequest(right, "guest", "view"))
            )
        );
    }

    [Fact]
    public async Task A_corrected_address_gets_a_new_link_and_the_wrong_ones_is_dead()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("inse"));
        var old = await ship.SecretAsync(ship.Address("inse"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "sent");
        await ship.Client.CorrectAsync(sent.Id, ship.Address("ines"));
        Assert.Equal("link.unknown", await CodeOf(ship.Client.ReadLinkAsync(old)));
        var joined = await ship.AcceptAsync(await ship.SecretAsync(ship.Address("ines")), "Ines");
        Assert.Equal(ship.Address("ines"), joined.Address);
        Assert.Single((await ship.Client.InvitationsAsync(search: "ines@")).Items);
        Assert.Empty((await ship.Client.InvitationsAsync(search: "inse@")).Items);
    }

    [Fact]
    public async Task An_expired_invitation_is_revived_by_more_time_and_a_link_can_be_handed_over()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("ines"), "guest", "view", AnswerDays: 1),
            "k"
        );
        var mailed = await ship.SecretAsync(ship.Address("ines"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "sent");
        await harbour.LetPassAsync(TimeSpan.FromDays(2));
        Assert.Equal("link.expired", await CodeOf(ship.Client.ReadLinkAsync(mailed)));
        Assert.Equal("invitation.not-pending", await CodeOf(ship.Client.FreshLinkAsync(sent.Id)));
        Assert.Equal("sent", (await ship.Client.ExtendAsync(sent.Id, 14)).State);
        var fresh = (await ship.Client.FreshLinkAsync(sent.Id)).Link[^43..];
        Assert.NotEqual(mailed, fresh);
        foreach (var secret in new[] { mailed, fresh })
            Assert.Equal(ship.Address("ines"), (await ship.Client.ReadLinkAsync(secret)).Address);
        // What was handed over shows no mailbox; what was mailed does.
        Assert.Equal("code.needed", await CodeOf(ship.AcceptAsync(fresh, "Ines")));
        await ship.AcceptAsync(mailed, "Ines");
        Assert.Equal("link.used", await CodeOf(ship.AcceptAsync(fresh, "Ines")));
    }

    [Fact]
    public async Task Reminders_go_out_by_schedule_in_the_invitees_language_and_stop_with_the_answer()
    {
        var ship = await harbour.NewShipAsync();
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(rules with { ReminderDays = [2, 4, 29] });
        var (ines, kofi) = (ship.Address("ines"), ship.Address("kofi"));
        var sent = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ines, "guest", "view", Language: "de"),
            "k"
        );
        await ship.InviteAsync(kofi);
        var first = await ship.SecretAsync(ines);
        var kofis = await ship.SecretAsync(kofi);
        await UntilAsync(async () => (await ship.Client.InvitationsAsync("sent")).Items.Count == 2);
        await ship.AcceptAsync(kofis, "Kofi");
        await harbour.LetPassAsync(TimeSpan.FromDays(2.1));
        Assert.Contains(
            "noch nicht geantwortet",
            await ship.MailAsync(ines, "Noch offen"),
            StringComparison.Ordinal
        );
        var shown = await ship.Client.InvitationAsync(sent.Id);
        Assert.Equal((1, "sent"), (shown.Reminders, shown.State));
        Assert.Equal(ines, (await ship.Client.ReadLinkAsync(first)).Address); // the first link goes on counting
        await harbour.LetPassAsync(TimeSpan.FromDays(2));
        await UntilAsync(() =>
            Task.FromResult(
                harbour
                    .Inbox.To(ines)
                    .Count(m => m.Message.Subject!.StartsWith("Noch", StringComparison.Ordinal)) == 2
            )
        );
        await ship.Client.RemindAsync(sent.Id);
        await ship.Client.DeclineAsync(new DeclineRequest(first));
        await harbour.LetPassAsync(TimeSpan.FromDays(26));
        Assert.Equal(3, (await ship.Client.InvitationAsync(sent.Id)).Reminders);
        Assert.Equal(
            0,
            harbour
                .Inbox.To(kofi)
                .Count(m => m.Message.Subject!.StartsWith("Still", StringComparison.Ordinal))
        );
    }

    [Fact]
    public async Task A_step_is_taken_by_all_that_match_and_those_that_cannot_say_why()
    {
        var ship = await harbour.NewShipAsync();
        for (var n = 0; n < 5; n++)
            await ship.InviteAsync(ship.Address("deck" + n));
        var declined = await ship.SecretAsync(ship.Address("deck0"));
        await ship.Client.DeclineAsync(new DeclineRequest(declined));
        var step = new StepsRequest("revoke", Search: "deck");
        var plan = await ship.Client.TakeStepsAsync(step with { DryRun = true });
        Assert.Equal((4, 1, 0), (plan.Done, plan.RefusedCount, plan.Left));
        Assert.Equal("invitation.final", plan.Refused.Single().Problem.Code);
        Assert.Equal(0, (await ship.Client.InvitationsAsync()).Counts["revoked"]);
        await ship.Client.TakeStepsAsync(step);
        var counts = (await ship.Client.InvitationsAsync()).Counts;
        Assert.Equal((4L, 1L, 5L), (counts["revoked"], counts["declined"], counts.Values.Sum()));
        Assert.Equal("steps.which", await CodeOf(ship.Client.TakeStepsAsync(new StepsRequest("revoke"))));
        Assert.Equal(
            "step.unknown",
            await CodeOf(ship.Client.TakeStepsAsync(new StepsRequest("sink", Search: "x")))
        );
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
    }

    [Theory]
    [InlineData("newest")]
    [InlineData("oldest")]
    [InlineData("deadline")]
    [InlineData("last-step")]
    public async Task Every_order_shows_every_invitation_once_and_searches_any_part(string sort)
    {
        var ship = await harbour.NewShipAsync();
        var all = new List<string>();
        for (var n = 0; n < 9; n++)
        {
            var address = ship.Address($"sailor-{n}%_x");
            await ship.Client.SendInvitationAsync(
                new InvitationRequest(address, "guest", "view", AnswerDays: 30 - n),
                $"k{n}"
            );
            all.Add(address);
        }
        // While mails go out, last steps change, and with them that order.
        await UntilAsync(async () => (await ship.Client.InvitationsAsync()).Counts["sent"] == 9);
        var seen = new List<InvitationView>();
        string? cursor = null;
        do
        {
            var page = await ship.Client.InvitationsAsync("pending", "LOR-", cursor, 2, sort);
            seen.AddRange(page.Items);
            cursor = page.Next;
        } while (cursor is not null);
        Assert.Equal(all.Order(), seen.Select(i => i.Address).Order());
        if (sort == "deadline")
            Assert.Equal(seen.OrderBy(i => i.Deadline).Select(i => i.Id), seen.Select(i => i.Id));
        Assert.Equal(all[3], (await ship.Client.InvitationsAsync(search: "r-3%_X")).Items.Single().Address);
        Assert.Empty((await ship.Client.InvitationsAsync(search: "r-3%%X")).Items);
        Assert.Equal("cursor.malformed", await CodeOf(ship.Client.InvitationsAsync(cursor: "zzz")));
    }

    [Fact]
    public async Task What_is_searched_for_is_what_reading_the_whole_list_finds_page_by_page()
    {
        var ship = await harbour.NewShipAsync();
        // Near-copies; some hold a part often, so that the first few of the list fill a page, some at its very end, some nowhere.
        await Parallel.ForAsync(
            0,
            60,
            async (n, stop) =>
            {
                var word = n % 3 == 0 ? "SAIL" : "sall";
                await ship.Client.SendInvitationAsync(
                    new InvitationRequest(
                        ship.Address($"{word}-{n * 7919}{(n is 3 or 59 ? "_%x" : "")}"),
                        n % 4 == 0 ? "client" : "guest",
                        "view",
                        Name: $"{(n > 40 ? "Ines" : "Inés")} Calloway{n % 7}",
                        AnswerDays: 1 + n * 17 % 31
                    ),
                    $"k{n}",
                    stop
                );
            }
        );
        // While mails go out, last steps change, and with them that order.
        await UntilAsync(async () => (await ship.Client.InvitationsAsync()).Counts["sent"] == 60);
        // Some of those that come first in one order or another are not waited for any more.
        foreach (var one in (await PagesAsync(null, null, "newest", 200)).Where((_, at) => at % 6 == 0))
            await ship.Client.RevokeInvitationAsync(one.Id);
        foreach (var sort in (string[])["newest", "oldest", "deadline", "last-step"])
        {
            var all = await PagesAsync(null, null, sort, 200);
            Assert.Equal(50, all.Count);
            foreach (
                var part in (string[])
                    [
                        "sail",
                        "ALL-",
                        "way3",
                        "ines c",
                        "inés",
                        "1_%x",
                        "_%",
                        "l",
                        "sxil",
                        // Of these the index is asked for the number only, which is the other's in the second.
                        $"ail-{57 * 7919}@",
                        $"ail-{59 * 7919}_",
                    ]
            )
            foreach (
                var (kind, limit) in ((string?, int)[])[(null, 1), (null, 50), ("client", 3), ("guest", 4)]
            )
                Assert.Equal(
                    all.Where(i =>
                            (kind is null || i.Kind == kind)
                            && (
                                i.Name.Contains(part, StringComparison.OrdinalIgnoreCase)
                                || i.Address.Contains(part, StringComparison.OrdinalIgnoreCase)
                            )
                        )
                        .Select(i => i.Id),
                    (await PagesAsync(part, kind, sort, limit)).Select(i => i.Id)
                );
        }

        async Task<List<InvitationView>> PagesAsync(string? search, string? kind, string sort, int limit)
        {
            var seen = new List<InvitationView>();
            string? cursor = null;
            do
            {
                var page = await ship.Client.InvitationsAsync("pending", search, cursor, limit, sort, kind);
                seen.AddRange(page.Items);
                cursor = page.Next;
            } while (cursor is not null);
            return seen;
        }
    }

    [Fact]
    public async Task What_the_newest_are_like_hides_nothing_among_thousands_of_others()
    {
        var ship = await harbour.NewShipAsync();
        await HandInAsync(
            Enumerable
                .Range(0, 2_100)
                .Select(n => $"sailor{n}@{ship.Name}-old.example,{(n == 1_000 ? "Pilot" : "Scout")} Sailor")
        );
        await HandInAsync(Enumerable.Range(0, 40).Select(n => $"pilot{n}@{ship.Name}-new.example,Pilot {n}"));
        // Of the first the index is asked for "t sailor", which all the others hold, and so for everything.
        foreach (var (part, count) in ((string, int)[])[("pilot sailor", 1), ("pilot 3", 11), ("pilots", 0)])
            Assert.Equal(count, (await ship.Client.InvitationsAsync(search: part)).Items.Count);

        async Task HandInAsync(IEnumerable<string> rows)
        {
            var list = await ship.Client.AddBatchAsync(
                new MemoryStream(Encoding.UTF8.GetBytes("Address,Name\n" + string.Join('\n', rows))),
                "list.csv",
                new BatchDefaults("guest", "view"),
                true
            );
            await foreach (var _ in ship.Client.WatchBatchAsync(list.Id)) { }
        }
    }

    [Fact]
    public async Task A_report_that_mail_came_back_is_noted_and_a_forged_or_foreign_one_is_not()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var sent = await ship.InviteAsync(ines);
        await ship.SecretAsync(ines);
        await UntilAsync(async () => (await ship.Client.InvitationAsync(sent.Id)).State == "sent");
        var mail = harbour.Inbox.To(ines)[0].Message;
        Assert.Equal(0, (await HandIn(other, DeliveryReport.Failed(ines, mail, "5.1.1 gone"))).Matched);
        Assert.Equal(
            0,
            (await HandIn(ship, DeliveryReport.Failed("kofi@tide.example", mail, "5.1.1 gone"))).Matched
        );
        Assert.Equal(
            "delivered",
            (await HandIn(ship, DeliveryReport.Of(ines, mail, "delivered", "2.0.0 ok")))
                .Results.Single()
                .State
        );
        Assert.Equal(
            "The mail is in the recipient's mailbox.",
            (await ship.Client.InvitationAsync(sent.Id)).Delivery!.Sentence
        );

        var full = DeliveryReport.Failed(ines, mail, "5.2.2 The mailbox is full");
        // Tried first: it is read, and nothing comes of it.
        Assert.Equal("bounced", (await HandIn(ship, full, dryRun: true)).Results.Single().State);
        Assert.Equal("sent", (await ship.Client.InvitationAsync(sent.Id)).State);
        var answer = await HandIn(ship, full);
        Assert.Equal(
            ("bounced", sent.Id),
            (answer.Results.Single().State, answer.Results.Single().InvitationId!.Value)
        );
        Assert.Equal("bounced", (await ship.Client.InvitationAsync(sent.Id)).State);
        Assert.Equal("address.bounced", await CodeOf(ship.InviteAsync(ines)));
        Assert.Contains(
            "full",
            (await ship.Client.BouncedAddressesAsync()).Items.Single().Sentence,
            StringComparison.Ordinal
        );
        await ship.Client.ForgetBounceAsync(ines, dryRun: true);
        Assert.Single((await ship.Client.BouncedAddressesAsync()).Items);
        await ship.Client.ForgetBounceAsync(ines);
        Assert.Equal("queued", (await ship.Client.ResendInvitationAsync(sent.Id)).State);

        static Task<ReportAnswer> HandIn(Ship to, MimeMessage report, bool dryRun = false)
        {
            var stream = new MemoryStream();
            report.WriteTo(stream);
            stream.Position = 0;
            return to.Client.TakeReportAsync(stream, dryRun);
        }
    }

    [Fact]
    public async Task A_server_that_says_later_is_asked_again_and_one_further_on_may_send_it_back()
    {
        var ship = await harbour.NewShipAsync();
        harbour.Smtp.OnReturn = report =>
            harbour.Node.Services.GetRequiredService<DeliveryReports>().TakeAsync(report);
        var later = await ship.InviteAsync("later." + ship.Address("ines"));
        var full = await ship.InviteAsync("full." + ship.Address("kofi"));
        await UntilAsync(async () => (await ship.Client.InvitationAsync(full.Id)).State == "bounced");
        Assert.Equal(
            "The mail came back: the mailbox is full.",
            (await ship.Client.InvitationAsync(full.Id)).Delivery!.Sentence
        );
        await UntilAsync(async () => (await ship.Client.InvitationAsync(later.Id)).State == "sent");
        Assert.Equal(2, (await ship.Client.InvitationAsync(later.Id)).Delivery!.Tries);
    }

    [Fact]
    public async Task A_mail_program_can_stop_invitations_with_one_click_and_opening_the_page_cannot()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var sent = await ship.InviteAsync(ines);
        await ship.SecretAsync(ines);
        var mail = harbour.Inbox.To(ines)[0].Message;
        Assert.Equal("List-Unsubscribe=One-Click", mail.Headers["List-Unsubscribe-Post"]);
        var path = new Uri(mail.Headers["List-Unsubscribe"]!.Trim('<', '>')).PathAndQuery;
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.OtherNode) };
        Assert.Equal(HttpStatusCode.OK, (await http.GetAsync(path)).StatusCode);
        Assert.NotEqual("declined", (await ship.Client.InvitationAsync(sent.Id)).State);
        using var form = new FormUrlEncodedContent([new("List-Unsubscribe", "One-Click")]);
        Assert.Equal(HttpStatusCode.OK, (await http.PostAsync(path, form)).StatusCode);
        Assert.Equal("declined", (await ship.Client.InvitationAsync(sent.Id)).State);
        Assert.Equal("address.opted-out", await CodeOf(ship.InviteAsync(ines)));
    }

    [Fact]
    public async Task A_workspace_words_its_own_mail_and_a_template_can_do_no_harm()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.ChangeWordingAsync(
            "invitation",
            "en",
            new WordingRequest(
                "Ahoy {{ name }}",
                "Ahoy,\n\n{% if host != '' %}{{ host }}{% else %}the crew{% endif %} of {{ workspace }} waits. {{ stay }}"
            )
        );
        var request = new InvitationRequest(ship.Address("ines"), "guest", "view", Name: "Ines <b>")
        {
            Host = ship.Administrator,
        };
        var letter = (await ship.Client.PreviewInvitationAsync(request)).Letter!;
        Assert.Equal("Ahoy Ines <b>", letter.Subject);
        Assert.Contains("Mira Tollander of The Lantern Tide waits.", letter.Text, StringComparison.Ordinal);
        await ship.Client.TestInvitationAsync(request);
        Assert.Contains(
            "waits.",
            await ship.MailAsync(ship.Administrator, "Ahoy Ines"),
            StringComparison.Ordinal
        );
        await ship.Client.SendInvitationAsync(request, "k");
        Assert.Contains(
            "waits.",
            await ship.MailAsync(ship.Address("ines"), "Ahoy Ines"),
            StringComparison.Ordinal
        );
        foreach (
            var (body, code) in new[]
            {
                ("{% for i in (1..100000000) %}x{% endfor %}", "wording.template"),
                ("{{ workspace", "wording.template"),
                ("See https://elsewhere.example", "message.link"),
                ("", "wording.too-long"),
                ("{% include 'etc' %}", "wording.template"),
                ("{{ name | replace: 'a', 'b' }}", "wording.template"),
                ("{% if organisation == '' %}Look at harbour.example{% endif %} Ahoy", "message.link"),
                ("{{ 'harbour' | append: '.example' }}", "message.link"),
            }
        )
            Assert.Equal(
                code,
                await CodeOf(
                    ship.Client.ChangeWordingAsync("invitation", "en", new WordingRequest("s", body))
                )
            );
        // What no sample shows is seen where it comes to a link: that mail goes out in the words that ship.
        await ship.Client.ChangeWordingAsync(
            "invitation",
            "en",
            new WordingRequest(
                "Psst {{ name }}",
                "{% if name == 'Kofi' %}{{ 'harbour' | append: '.example' }}{% endif %} Ahoy."
            )
        );
        Assert.Equal("Psst Ines <b>", (await ship.Client.PreviewInvitationAsync(request)).Letter!.Subject);
        var kofi = (await ship.Client.PreviewInvitationAsync(request with { Name = "Kofi" })).Letter!;
        Assert.DoesNotContain("harbour.example", kofi.Text, StringComparison.Ordinal);
        Assert.DoesNotContain("Psst", kofi.Subject, StringComparison.Ordinal);
        Assert.Equal(
            "name.link",
            (await ship.Client.PreviewInvitationAsync(request with { Name = "Win at harbour.example" }))
                .Problem!
                .Code
        );
        await ship.Client.RemoveWordingAsync("invitation", "en");
        Assert.DoesNotContain((await ship.Client.WordingsAsync()).Items, w => w.IsOwn);
        var colour = new AppearanceView("The Ship", null, "de", "#5a2d0c");
        await ship.Client.ChangeAppearanceAsync(colour);
        Assert.Contains(
            "#5a2d0c",
            (
                await ship.Client.PreviewInvitationAsync(
                    new InvitationRequest("a@tide.example", "guest", "view")
                )
            )
                .Letter!
                .Html,
            StringComparison.Ordinal
        );
        Assert.Equal(
            "colour.too-light",
            await CodeOf(ship.Client.ChangeAppearanceAsync(colour with { Colour = "#ffffff" }))
        );
    }

    [Fact]
    public async Task Figures_count_what_was_sent_and_answered()
    {
        var ship = await harbour.NewShipAsync();
        for (var n = 0; n < 4; n++)
            await ship.Client.SendInvitationAsync(
                new InvitationRequest(ship.Address("s" + n), n == 0 ? "client" : "guest", "view")
                {
                    Organisation = n < 2 ? "Tide" : null,
                },
                "k" + n
            );
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("s0")), "S");
        await ship.Client.DeclineAsync(new DeclineRequest(await ship.SecretAsync(ship.Address("s1"))));
        var figures = await ship.Client.FiguresAsync();
        Assert.Equal(
            (4, 1, 1, 0.5),
            (figures.Total.Sent, figures.Total.Accepted, figures.Total.Declined, figures.Total.AnswerRate)
        );
        Assert.Equal(figures.Total.Sent, figures.Groups.Where(g => g.By == "kind").Sum(g => g.Figures.Sent));
        Assert.Equal(1.0, figures.Groups.Single(g => g.By == "organisation").Figures.AnswerRate);
        Assert.Equal((4, 2), (figures.Days.Sum(d => d.Sent), figures.Days.Sum(d => d.Accepted + d.Declined)));
        Assert.Equal(
            "figures.span",
            await CodeOf(ship.Client.FiguresAsync(new(2026, 1, 2), new(2026, 1, 1)))
        );
    }

    private static async Task UntilAsync(Func<Task<bool>> isTrue)
    {
        for (var tries = 0; tries < 300; tries++)
        {
            if (await isTrue())
                return;
            await Task.Delay(50);
        }
        Assert.Fail("It did not come true in 15 seconds.");
    }
}
