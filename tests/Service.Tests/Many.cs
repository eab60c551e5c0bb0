using System.Text;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Standins.Mail;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Many_on_SQLite(SqliteHarbour harbour) : Many(harbour), IClassFixture<SqliteHarbour>;

public sealed class Many_on_PostgreSQL(PostgresHarbour harbour)
    : Many(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Inviting many at once: lists, verdicts, join links, presets, approval.</summary>
public abstract partial class Many(Harbour harbour)
{
    [Fact]
    public async Task One_person_gets_no_more_than_a_few_mails_a_day_whoever_causes_them()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        var sent = await ship.InviteAsync(ines);
        for (var n = 1; n < Core.Invitations.InvitingRules.MostMailsADay; n++)
        {
            await ship.SecretAsync(ines, n);
            while ((await ship.Client.InvitationAsync(sent.Id)).State != "sent")
                await Task.Delay(20);
            await ship.Client.ResendInvitationAsync(sent.Id);
        }
        await ship.SecretAsync(ines, Core.Invitations.InvitingRules.MostMailsADay);
        while ((await ship.Client.InvitationAsync(sent.Id)).State != "sent")
            await Task.Delay(20);
        Assert.Equal("address.mailed-enough", await CodeOf(ship.Client.ResendInvitationAsync(sent.Id)));
        Assert.Equal("address.mailed-enough", await CodeOf(ship.Client.RemindAsync(sent.Id)));
        await ship.Client.RevokeInvitationAsync(sent.Id);
        Assert.Equal("address.mailed-enough", await CodeOf(ship.InviteAsync(ines)));
        await harbour.LetPassAsync(TimeSpan.FromDays(1.1));
        await ship.InviteAsync(ines);
    }

    [Fact]
    public async Task A_file_is_judged_mended_and_sent_and_running_it_again_invites_nobody_twice()
    {
        var ship = await harbour.NewShipAsync();
        await ship.BringAboardAsync(ship.Address("kofi"));
        var invited = await ship.InviteAsync(ship.Address("sunniva"));
        var csv = $"""
            Nachname;E-Mail;Art;Ende;Shoe size
            Calloway;{ship.Address("ines")};Gast;31.1.2030;38
            Ines;{ship.Address("INES")};guest;;
            Kofi;{ship.Address("kofi")};guest;;
            Sunniva;{ship.Address("sunniva")};guest;;
            Odd;odd@@{ship.Name}-guests.example;guest;;
            Late;{ship.Address("late")};guest;2020-01-01;
            Loom;{ship.Address("loom")};crewmate;;
            Quay;{ship.Address("quay")};;;
            """;
        var check = await ship.Client.CheckBatchAsync(
            FileOf(csv),
            "crew.csv",
            new BatchDefaults("partner", "view")
        );
        Assert.Equal(
            [
                (1, "ready"),
                (2, "repeated"),
                (3, "member"),
                (4, "invited"),
                (5, "wrong"),
                (6, "wrong"),
                (7, "wrong"),
                (8, "ready"),
            ],
            check.Items.OrderBy(e => e.Number).Select(e => (e.Number, e.Verdict))
        );
        Assert.Equal(["Shoe size"], check.UnknownColumns);
        Assert.Equal(invited.Id, check.Items.Single(e => e.Number == 4).Problem!.Related);
        Assert.Equal(check.Entries, check.Counts.Values.Sum());
        Assert.Empty((await ship.Client.BatchesAsync()).Items);

        var batch = await AddAsync(ship, csv, new BatchDefaults("partner", "view"), send: false);
        Assert.Equal(0, batch.Counts["sent"]);
        Assert.Equal("batch.nothing-ready", await CodeOf(SendNothingAsync(ship)));
        foreach (
            var (number, mend) in new (int, MendRequest)[]
            {
                (5, new(Address: ship.Address("odd"))),
                (6, new(Until: new DateOnly(2030, 5, 1))),
                (7, new(Kind: "client")),
            }
        )
            Assert.Equal("ready", (await ship.Client.MendAsync(batch.Id, number, mend)).Verdict);
        Assert.Equal(
            "repeated",
            (await ship.Client.MendAsync(batch.Id, 8, new(Address: ship.Address("odd")))).Verdict
        );
        await ship.Client.MendAsync(batch.Id, 8, new(Address: ship.Address("quay")));
        await ship.Client.SendBatchAsync(batch.Id);
        batch = await RestAsync(ship, batch.Id);
        Assert.Equal((5, 8), (batch.Counts["sent"], batch.Counts.Values.Sum()));
        Assert.Equal("entry.sent", await CodeOf(ship.Client.MendAsync(batch.Id, 1, new(Name: "x"))));

        var loom = (await ship.Client.InvitationsAsync(search: "loom")).Items.Single();
        Assert.Equal(("client", "Loom", batch.Id), (loom.Kind, loom.FamilyName, loom.BatchId!.Value));
        await ship.Client.DeclineAsync(new DeclineRequest(await ship.SecretAsync(ship.Address("ines"))));
        // The very same file is its first run, whoever hands it in and however often at once.
        var record = (await ship.Client.VerifyRecordAsync()).Entries;
        var same = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ =>
                    ship.OtherNode.AddBatchAsync(
                        FileOf(csv),
                        "again.csv",
                        new BatchDefaults("partner", "view"),
                        true
                    )
                )
        );
        Assert.All(same, list => Assert.Equal((batch.Id, true), (list.Id, list.HandedInBefore)));
        Assert.Equal(record, (await ship.Client.VerifyRecordAsync()).Entries);
        // With other wishes it is a list of its own, and still invites nobody twice.
        var again = await AddAsync(ship, csv, new BatchDefaults("client", "view"), send: true);
        Assert.Equal((0, 8), (again.Counts["sent"], again.Counts.Values.Sum()));
        Assert.Equal("declined", (await ship.Client.InvitationsAsync(search: "ines")).Items.Single().State);
        var results = Encoding.UTF8.GetString(await ship.Client.BatchResultsAsync(batch.Id));
        Assert.Contains("declined", results, StringComparison.Ordinal);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        async Task SendNothingAsync(Ship of)
        {
            var empty = await AddAsync(
                of,
                $"Address\n{of.Administrator}\n",
                new BatchDefaults(Kind: "guest", Role: "view"),
                false
            );
            await of.Client.SendBatchAsync(empty.Id);
        }
    }

    [Fact]
    public async Task A_file_that_was_held_is_sent_when_it_is_handed_in_to_be_sent()
    {
        var ship = await harbour.NewShipAsync();
        var csv = $"Address\n{ship.Address("a")}\n{ship.Address("b")}\n";
        var defaults = new BatchDefaults("guest", "view");
        var held = await AddAsync(ship, csv, defaults, send: false);
        var sent = await AddAsync(ship, csv, defaults, send: true);
        Assert.Equal((held.Id, 2), (sent.Id, sent.Counts["sent"]));
        Assert.Single((await ship.Client.BatchesAsync()).Items);
    }

    [Fact]
    public async Task No_more_people_come_in_by_a_join_link_than_it_is_for_however_many_try_at_once()
    {
        var ship = await harbour.NewShipAsync();
        var made = await ship.Client.AddLinkAsync(
            new JoinLinkRequest(
                "harbour day",
                "guest",
                "view",
                Cap: 7,
                StayDays: 3,
                Domains: [$"{ship.Name}-guests.example"]
            )
        );
        Assert.StartsWith("<svg", made.QrSvg, StringComparison.Ordinal);
        Assert.Equal([0x89, (byte)'P', (byte)'N', (byte)'G'], Convert.FromBase64String(made.QrPng)[..4]);
        var secret = made.Address[^43..];
        Assert.Equal(
            "link.domain",
            await CodeOf(ship.Client.AskByLinkAsync(new JoinRequest(secret, "x@elsewhere.example")))
        );
        var addresses = Enumerable.Range(1, 30).Select(n => ship.Address("deckhand" + n)).ToList();
        foreach (var address in addresses)
            await ship.Client.AskByLinkAsync(new JoinRequest(secret, address, "Deck Hand"));
        // Asking again, or for somebody who is here, tells the same.
        await ship.Client.AskByLinkAsync(new JoinRequest(secret, addresses[0]));
        var secrets = await Task.WhenAll(addresses.Select(address => ship.SecretAsync(address)));
        var codes = await Task.WhenAll(
            secrets
                .Concat(secrets.Take(20))
                .Select((one, n) => AcceptAsync(n % 2 == 0 ? ship.Client : ship.OtherNode, one))
        );
        Assert.Equal(7, codes.Count(code => code == "in"));
        Assert.All(
            codes,
            code => Assert.Contains(code, new[] { "in", "link.used-up", "link.used", "account.exists" })
        );
        var link = await ship.Client.LinkAsync(made.Link.Id);
        Assert.Equal((7, "used up"), (link.Uses, link.State));
        Assert.Equal("link.used-up", await CodeOf(ship.Client.ReadJoinLinkAsync(secret)));

        var plan = await ship.Client.EndLinkPeopleAsync(link.Id, dryRun: true);
        Assert.Equal(7, plan.Ended.Count);
        await ship.Client.EndLinkPeopleAsync(link.Id, dryRun: false);
        Assert.Empty((await ship.Client.EndLinkPeopleAsync(link.Id, true)).Ended);

        static async Task<string> AcceptAsync(Client.AboardClient client, string secret)
        {
            try
            {
                await client.AcceptAsync(new AcceptRequest(secret, Ship.Password, "Deck Hand"));
                return "in";
            }
            catch (Client.RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task A_closed_or_renewed_link_lets_nobody_in_not_even_by_invitations_it_led_to()
    {
        var ship = await harbour.NewShipAsync();
        var made = await ship.Client.AddLinkAsync(new JoinLinkRequest("day", "guest", "view"));
        var ines = ship.Address("ines");
        await ship.Client.AskByLinkAsync(new JoinRequest(made.Address[^43..], ines));
        var secret = await ship.SecretAsync(ines);
        var renewed = await ship.Client.RenewLinkAsync(made.Link.Id);
        Assert.Equal("link.unknown", await CodeOf(ship.Client.ReadJoinLinkAsync(made.Address[^43..])));
        Assert.Equal("guest", (await ship.Client.ReadJoinLinkAsync(renewed.Address[^43..])).Kind);
        await ship.Client.CloseLinkAsync(made.Link.Id);
        Assert.Equal("link.closed", await CodeOf(ship.AcceptAsync(secret, "Ines")));
    }

    [Fact]
    public async Task Where_approval_is_due_nobody_is_in_before_it_and_a_refusal_is_final()
    {
        var ship = await harbour.NewShipAsync();
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(rules with { Approval = ["guest"] });
        var (ines, kofi) = (ship.Address("ines"), ship.Address("kofi"));
        var waiting = new List<Guid>();
        foreach (var address in new[] { ines, kofi })
        {
            var sent = await ship.InviteAsync(address);
            var answer = await ship.AcceptAsync(await ship.SecretAsync(address), address.Split('@')[0]);
            Assert.Null(answer.MemberId);
            waiting.Add(sent.Id);
        }
        Assert.Equal("person.not-found", await CodeOf(ship.Client.PersonAsync(ines)));
        Assert.Equal(2, (await ship.Client.InvitationsAsync("waiting")).Items.Count);
        Assert.Equal("address.invited", await CodeOf(ship.InviteAsync(ines)));
        Assert.Equal("accepted", (await ship.Client.ApproveAsync(waiting[0])).State);
        Assert.Equal("active", (await ship.Client.PersonAsync(ines)).State);
        await ship.MailAsync(ines, "You are aboard");
        Assert.Equal("refused", (await ship.Client.RefuseAsync(waiting[1], "The deck is full.")).State);
        Assert.Contains(
            "The deck is full.",
            await ship.MailAsync(kofi, "Not approved"),
            StringComparison.Ordinal
        );
        Assert.Equal("invitation.final", await CodeOf(ship.Client.ApproveAsync(waiting[1])));
        Assert.Equal("person.not-found", await CodeOf(ship.Client.PersonAsync(kofi)));
    }

    [Fact]
    public async Task A_preset_fills_in_what_is_not_said_and_rules_guard_the_rest()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Presets.AddAsync(
            new PresetRequest("Researcher", "guest", "edit", 10, "Tide", "Welcome.")
        );
        Assert.Equal(
            "preset.name-taken",
            await CodeOf(ship.Client.Presets.AddAsync(new PresetRequest("RESEARCHER", "guest", "view")))
        );
        var sent = await ship.Client.SendInvitationAsync(
            new InvitationRequest(ship.Address("ines")) { Preset = "researcher" },
            "k1"
        );
        Assert.Equal(
            ("guest", "edit", "Tide", "Welcome."),
            (sent.Kind, sent.Role, sent.Organisation, sent.Message)
        );
        Assert.Equal((await ship.Client.WorkspaceAsync()).Today.AddDays(9), sent.Until);
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(
            rules with
            {
                HostForOutsiders = true,
                LongestStayDays = new Dictionary<string, int> { ["guest"] = 5 },
            }
        );
        Assert.Equal("rule.host-needed", await CodeOf(ship.InviteAsync(ship.Address("kofi"))));
        var hosted = new InvitationRequest(ship.Address("kofi"), "guest", "view", Until: sent.Until)
        {
            Host = ship.Administrator,
        };
        Assert.Equal("rule.stay-too-long", await CodeOf(ship.Client.SendInvitationAsync(hosted, "k2")));
        Assert.Equal("blocked", (await ship.Client.PreviewInvitationAsync(hosted)).Verdict);
        Assert.Equal(
            "host.unknown",
            await CodeOf(ship.Client.SendInvitationAsync(hosted with { Host = "x@tide.example" }, "k3"))
        );
        await ship.Client.Presets.ChangeAsync("Researcher", new PresetRequest("Guest", "guest", "view"));
        await ship.Client.Presets.RemoveAsync("guest");
        Assert.Equal("preset.unknown", await CodeOf(ship.Client.Presets.ShowAsync("Guest")));
    }

    [Fact]
    public async Task Before_the_first_day_of_a_stay_there_is_no_access_and_after_it_there_is()
    {
        var ship = await harbour.NewShipAsync();
        var today = (await ship.Client.WorkspaceAsync()).Today;
        var ines = ship.Address("ines");
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(ines, "staff", "manage") { From = today.AddDays(400) },
            "k"
        );
        await ship.AcceptAsync(await ship.SecretAsync(ines), "Ines");
        Assert.Equal("upcoming", (await ship.Client.PersonAsync(ines)).State);
        Assert.Equal("access.not-begun", await CodeOf(ship.ClientOfAsync(ines)));
        using var browser = await ship.BrowserOfAsync(ines);
        Assert.Contains(
            "access.not-begun",
            await (await browser.GetAsync(ship.Path(""))).Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        // A second administrator who is not here yet does not make the first one dispensable.
        Assert.Equal("administrator.last", await CodeOf(ship.Client.EndAsync(ship.Administrator)));
    }

    private static Task<BatchCheck> CheckAsync(Ship ship, string csv) =>
        ship.Client.CheckBatchAsync(FileOf(csv), "crew.csv", new BatchDefaults("guest", "view"));

    private static MemoryStream FileOf(string csv) => new(Encoding.UTF8.GetBytes(csv));

    private static async Task<BatchView> AddAsync(Ship ship, string csv, BatchDefaults defaults, bool send) =>
        await RestAsync(ship, (await ship.Client.AddBatchAsync(FileOf(csv), "crew.csv", defaults, send)).Id);

    /// <summary>The batch once it rests, as its progress says.</summary>
    private static async Task<BatchView> RestAsync(Ship ship, Guid id)
    {
        BatchView? last = null;
        await foreach (var view in ship.Client.WatchBatchAsync(id))
            last = view;
        Assert.Equal("resting", last!.State);
        return last;
    }
}
