using System.Net;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class WhoMayDoWhat_on_SQLite(SqliteHarbour harbour)
    : WhoMayDoWhat(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class WhoMayDoWhat_on_PostgreSQL(PostgresHarbour harbour)
    : WhoMayDoWhat(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Roles, resources, groups, organisations and seats, as an administrator works with them.</summary>
public abstract class WhoMayDoWhat(Harbour harbour)
{
    [Fact]
    public async Task A_person_named_while_setting_up_a_resource_gets_just_that_and_everybody_can_see_why()
    {
        var ship = await NewAsync();
        var (ines, petra) = (ship.Address("ines"), ship.Address("petra"));
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(ines, "guest", "reader") { Resource = "Register" },
            "k"
        );
        await ship.AcceptAsync(await ship.SecretAsync(ines), "Ines");
        await ship.BringAboardAsync(petra, "guest", "reader");
        await ship.Client.PutIntoGroupAsync("Reading room", new PeopleRequest([ines]));
        await ship.Client.GrantAsync(new GrantRequest("edit", Group: "Reading room", Resource: "Register"));

        var access = await ship.Client.ResourceAccessAsync("register", kind: "guest");
        Assert.Equal(2, access.Total);
        var line = access.Items.Single(l => l.Address == ines);
        Assert.Equal("edit", line.Level);
        var path = Assert.Single(line.Paths, p => p.Counts);
        Assert.Equal(("edit", "group", "Reading room"), (path.Role, path.Through, path.ThroughName));

        var plan = await ship.Client.TakeGrantAsync(path.GrantId, dryRun: true);
        Assert.Equal((0, 1), (plan.Difference.Gaining, plan.Difference.Losing));
        Assert.Equal(("edit", "view"), (plan.Difference.Changes[0].Before, plan.Difference.Changes[0].After));
        Assert.Equal("edit", (await ship.Client.ResourceAccessAsync("Register", ines)).Items[0].Level);
        var taken = await ship.Client.TakeGrantAsync(path.GrantId, tell: true);
        Assert.Equal(["Ines"], taken.Told);
        Assert.Contains("Register", await ship.MailAsync(ines, "has changed"), StringComparison.Ordinal);
        Assert.Equal("view", (await ship.Client.ResourceAccessAsync("Register", ines)).Items[0].Level);

        await ship.Client.SwitchOffAsync("Register", new SwitchRequest(petra));
        var off = (await ship.Client.ResourceAccessAsync("Register", petra)).Items[0];
        Assert.Equal(("none", "switched off for this resource"), (off.Level, off.Cut));
        var csv = Encoding.UTF8.GetString(
            await ship.Client.CsvAsync("resources/Register/access?format=csv&kind=guest")
        );
        Assert.Equal(3, csv.Split('\n', StringSplitOptions.RemoveEmptyEntries).Length);
    }

    [Fact]
    public async Task A_decision_follows_every_change_at_once_here_and_within_a_second_at_the_other_node()
    {
        var ship = await NewAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines, "guest", "reader");
        var question = Question(ines, "view", "resource", "Register");
        Assert.True((await ship.Client.EvaluateAsync(question)).Decision);
        Assert.True((await ship.OtherNode.EvaluateAsync(question)).Decision);
        Func<Task>[] removals =
        [
            () => ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [ines])),
            () => ship.Client.SwitchOffAsync("Register", new SwitchRequest(ines)),
            () => ship.Client.PeopleStepsAsync(new PeopleStepRequest("take", [ines], Role: "reader")),
            () => ship.Client.EndAsync(ines),
        ];
        var holder = (await ship.Client.PersonAsync(ines)).Id;
        Func<Task>[] returns =
        [
            () => ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [ines])),
            () => ship.Client.SwitchOnAsync("Register", holder),
            () => ship.Client.GrantAsync(new GrantRequest("reader", ines)),
            () => Task.CompletedTask,
        ];
        foreach (var (remove, bringBack) in removals.Zip(returns))
        {
            await remove();
            Assert.False((await ship.Client.EvaluateAsync(question)).Decision);
            var since = TimeProvider.System.GetTimestamp();
            while ((await ship.OtherNode.EvaluateAsync(question)).Decision)
            {
                Assert.True(TimeProvider.System.GetElapsedTime(since) < TimeSpan.FromSeconds(1));
                await Task.Delay(20);
            }
            await bringBack();
        }
    }

    [Fact]
    public async Task Other_systems_ask_by_the_standard_and_get_reasons_when_they_ask_for_them()
    {
        var ship = await NewAsync();
        await ship.Client.Areas.ChangeAsync("Collection", new AreaRequest("Collection", true));
        var ines = ship.Address("ines");
        await ship.Client.SendInvitationAsync(new InvitationRequest(ines, "guest", "contribute"), "k");
        await ship.AcceptAsync(await ship.SecretAsync(ines), "Ines");
        var petra = ship.Address("petra");
        await ship.BringAboardAsync(petra, "guest", "reader");
        var id = (await ship.Client.PersonAsync(ines)).Id;
        var whose = JsonDocument.Parse($"\"{petra}\"").RootElement;
        var own = JsonDocument.Parse($"\"{id}\"").RootElement;
        EvaluationRequest Entry(string action, JsonElement maker) =>
            Question(ines, action, "resource", "Register") with
            {
                Resource = new(
                    "resource",
                    "Register",
                    new Dictionary<string, JsonElement> { ["made_by"] = maker }
                ),
            };
        var answers = await ship.Client.EvaluateAllAsync(
            new EvaluationsRequest([
                Entry("view", whose),
                Entry("view", own),
                Entry("edit", own),
                Entry("edit", whose),
                Question(ines, "contribute", "area", "Collection"),
                Question(ines, "invite", "workspace", ship.Name),
                Question(ship.Administrator, "invite", "workspace", ship.Name),
                Question("nobody@tide.example", "view", "resource", "Register"),
                Question(ines, "view", "resource", "No such thing"),
                Question(ines, "scuttle", "resource", "Register"),
            ])
        );
        Assert.Equal(
            [false, true, true, false, true, false, true, false, false, false],
            answers.Evaluations.Select(a => a.Decision)
        );
        Assert.All(answers.Evaluations, a => Assert.Null(a.Context));
        var yes = JsonDocument.Parse("true").RootElement;
        var why = await ship.Client.EvaluateAsync(
            Question(petra, "edit", "resource", "Register") with
            {
                Context = new Dictionary<string, JsonElement> { ["explain"] = yes },
            }
        );
        Assert.Equal((false, "level"), (why.Decision, why.Context!.Code));
        Assert.Equal(
            (await ship.Client.PersonAccessAsync(petra)).Grants[0].Id,
            Assert.Single(why.Context.Grants)
        );

        // The member asks about themselves, and about nobody else.
        using var petras = await ship.ClientOfAsync(petra);
        Assert.True((await petras.EvaluateAsync(Question(petra, "view", "resource", "Register"))).Decision);
        Assert.False((await petras.EvaluateAsync(Question(ines, "view", "resource", "Register"))).Decision);

        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", ship.Token);
        http.DefaultRequestHeaders.Add("X-Request-ID", "question 7");
        var stopped = await http.PostAsJsonAsync(
            ship.Path("/access/v1/evaluations"),
            new
            {
                subject = new { type = "user", id = petra },
                resource = new { type = "resource", id = "Register" },
                options = new { evaluations_semantic = "deny_on_first_deny" },
                evaluations = new[]
                {
                    new { action = new { name = "view" } },
                    new { action = new { name = "edit" } },
                    new { action = new { name = "view" } },
                },
            }
        );
        Assert.Equal("question 7", stopped.Headers.GetValues("X-Request-ID").Single());
        Assert.Equal(2, (await stopped.Content.ReadFromJsonAsync<EvaluationsAnswer>())!.Evaluations.Count);
        var bad = await http.PostAsJsonAsync(ship.Path("/access/v1/evaluation"), new { subject = 1 });
        Assert.Equal(HttpStatusCode.BadRequest, bad.StatusCode);
        var described = await http.GetFromJsonAsync<JsonElement>(
            "/.well-known/authzen-configuration" + ship.Path("")
        );
        Assert.EndsWith(
            "/access/v1/evaluation",
            described.GetProperty("access_evaluation_endpoint").GetString()
        );
    }

    [Fact]
    public async Task Names_that_only_look_alike_are_two_names_wherever_they_are_asked_for()
    {
        var ship = await NewAsync();
        // The micro sign, and the Greek letter it is the same as in capitals.
        foreach (var name in new[] { "\u00b5", "\u03bc" })
            await ship.Client.Resources.AddAsync(new ResourceRequest(name, "Collection"));
        await ship.Client.SwitchOffAsync("\u03bc", new SwitchRequest(ship.Administrator));
        Assert.True(
            (
                await ship.Client.EvaluateAsync(Question(ship.Administrator, "view", "resource", "\u00b5"))
            ).Decision
        );
        Assert.False(
            (
                await ship.Client.EvaluateAsync(Question(ship.Administrator, "view", "resource", "\u03bc"))
            ).Decision
        );
        Assert.Equal(
            "resource.name-taken",
            await CodeOf(ship.Client.Resources.AddAsync(new ResourceRequest("REGISTER", "Collection")))
        );
    }

    [Fact]
    public async Task Seats_are_never_given_twice_however_many_ask_at_once()
    {
        var ship = await NewAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", 3, 1));
        List<string> people = [.. Enumerable.Range(0, 6).Select(n => ship.Address("reader" + n))];
        foreach (var person in people)
            await ship.BringAboardAsync(person, "guest", "reader");
        var given = await Task.WhenAll(
            people.Select(
                (p, n) =>
                    SuccessOf(
                        (n % 2 == 0 ? ship.Client : ship.OtherNode).GiveSeatsAsync(
                            "Desks",
                            new PeopleRequest([p])
                        )
                    )
            )
        );
        Assert.Equal(3, given.Count(done => done));
        Assert.Equal((3, 0), Held(await ship.Client.Pools.ShowAsync("Desks")));
        var holder = people[Array.IndexOf(given, true)];
        await ship.Client.EndAsync(holder);
        Assert.Equal((2, 1), Held(await ship.Client.Pools.ShowAsync("Desks")));

        // Pending invitations reserve what is left, and let it go whichever way they end.
        InvitationRequest Wanting(string who) =>
            new(ship.Address(who), "guest", "reader") { Gives = new BundleView(Seats: ["Desks"]) };
        var asked = await ship.Client.SendInvitationAsync(Wanting("a"), "a");
        Assert.Equal("seat.none-free", await CodeOf(ship.Client.SendInvitationAsync(Wanting("b"), "b")));
        Assert.Equal("full", (await ship.Client.PreviewInvitationAsync(Wanting("b"))).Verdict);
        await ship.Client.RevokeInvitationAsync(asked.Id);
        var second = await ship.Client.SendInvitationAsync(Wanting("b"), "b2");
        await ship.SecretAsync(ship.Address("b"));
        await harbour.LetPassAsync(TimeSpan.FromDays(31));
        Assert.Equal(
            (0, 1),
            (
                (await ship.Client.Pools.ShowAsync("Desks")).Reserved,
                (await ship.Client.Pools.ShowAsync("Desks")).Free
            )
        );
        Assert.Equal("queued", (await ship.Client.ResendInvitationAsync(second.Id)).State);
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("b"), 2), "B");
        var pool = await ship.Client.Pools.ShowAsync("Desks");
        Assert.Equal((3, 0, 1, 2L), (pool.Held, pool.Reserved, pool.ChangesUsed, pool.ChangesLeft!.Value));
        var passed = await ship.Client.PassSeatAsync(
            "Desks",
            new PassRequest(ship.Address("b"), people[Array.LastIndexOf(given, false)])
        );
        Assert.Equal((2L, 1L), (passed.Before.ChangesLeft!.Value, passed.After.ChangesLeft!.Value));
        Assert.Equal(
            "pool.too-small",
            await CodeOf(ship.Client.Pools.ChangeAsync("Desks", new PoolRequest("Desks", 2, 1)))
        );

        static (int, int) Held(PoolView pool) => (pool.Held, pool.Free);
    }

    [Fact]
    public async Task A_lead_brings_in_colleagues_and_nobody_else_and_an_agreement_that_ends_ends_for_all()
    {
        var ship = await NewAsync();
        var domain = $"{ship.Name}-guests.example";
        var today = (await ship.Client.WorkspaceAsync()).Today;
        await ship.Client.Organisations.AddAsync(
            new OrganisationRequest("Rope works", "partner", "ROPE", Domains: [domain], Cap: 2)
        );
        await ship.Client.GrantAsync(new GrantRequest("reader", Organisation: "ROPE"));
        var greta = ship.Address("greta");
        await ship.Client.SendInvitationAsync(
            new InvitationRequest(greta, "partner", Until: today.AddDays(40)) { Organisation = "rope works" },
            "k"
        );
        await ship.AcceptAsync(await ship.SecretAsync(greta), "Greta");
        using var lead = await ship.ClientOfAsync(greta);
        Assert.Equal("right.not-lead", await CodeOf(lead.ColleaguesAsync()));
        await ship.Client.ChangePersonAsync(greta, new DetailsRequest(Leads: true));
        Assert.Equal(
            "right.lead-only",
            await CodeOf(lead.InviteColleagueAsync(new ColleagueRequest("x@elsewhere.example")))
        );
        Assert.Equal("right.missing", await CodeOf(lead.InvitationsAsync()));
        var hugo = await lead.InviteColleagueAsync(new ColleagueRequest(ship.Address("hugo"), "Hugo"));
        Assert.Equal(("partner", today.AddDays(40)), (hugo.Kind, hugo.Until!.Value));
        Assert.Equal(
            "organisation.full",
            await CodeOf(lead.InviteColleagueAsync(new ColleagueRequest(ship.Address("ivo"))))
        );
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("hugo")), "Hugo");
        Assert.Equal(2, (await lead.ColleaguesAsync()).Here.Count);
        Assert.Equal(["reader via Rope works"], await WhyAsync(ship, ship.Address("hugo")));

        var rope = await ship.Client.Organisations.ShowAsync("ROPE");
        await ship.Client.Organisations.ChangeAsync(
            "ROPE",
            new OrganisationRequest(rope.Name, rope.Kind, rope.Code, AgreementEnds: today.AddDays(-1))
        );
        Assert.Equal("access.agreement-over", await CodeOf(lead.ColleaguesAsync()));
        var ready = await ship.Client.ReadinessAsync(new ReadinessRequest("guest", Organisation: "ROPE"));
        Assert.Equal(["organisation.over", "organisation.kind"], ready.Blockers.Select(b => b.Code));
    }

    [Fact]
    public async Task Everything_that_stops_an_invitation_is_said_at_once_and_stops_the_invitation_itself()
    {
        var ship = await NewAsync();
        await ship.Client.Pools.AddAsync(new PoolRequest("Berth", 0));
        var rules = await ship.Client.RulesAsync();
        await ship.Client.ChangeRulesAsync(
            rules with
            {
                HostForOutsiders = true,
                LongestStayDays = new Dictionary<string, int> { ["guest"] = 5 },
                Inviters = new Dictionary<string, IReadOnlyList<string>> { ["guest"] = ["reader"] },
            }
        );
        var wish = new ReadinessRequest("guest", Gives: new BundleView(Seats: ["Berth"])) { NoEnd = true };
        var answer = await ship.Client.ReadinessAsync(wish);
        Assert.False(answer.Ready);
        string[] expected =
        [
            "rule.inviter",
            "role.missing",
            "seat.none-free",
            "rule.host-needed",
            "rule.stay-too-long",
        ];
        Assert.Equal(expected, answer.Blockers.Select(b => b.Code));
        Assert.All(answer.Blockers, b => Assert.True(b.Stops && b.Path is not null));
        var request = new InvitationRequest(ship.Address("ines"), "guest")
        {
            Gives = wish.Gives,
            NoEnd = true,
        };
        Assert.Equal(
            expected,
            (await ship.Client.PreviewInvitationAsync(request)).Blockers.Select(b => b.Code)
        );
        Assert.Equal(expected[0], await CodeOf(ship.Client.SendInvitationAsync(request, "k")));
        var unknown = await ship.Client.ReadinessAsync(
            new ReadinessRequest("guest", "captain", new BundleView(Groups: ["Pirates"]))
        );
        Assert.Contains("role.unknown", unknown.Blockers.Select(b => b.Code));
        Assert.Contains("group.unknown", unknown.Blockers.Select(b => b.Code));
        Assert.Contains("rule.host-needed", unknown.Blockers.Select(b => b.Code));
    }

    [Fact]
    public async Task Details_are_changed_for_many_and_nobody_overwrites_what_another_changed()
    {
        var ship = await NewAsync();
        var (ines, petra) = (ship.Address("ines"), ship.Address("petra"));
        await ship.BringAboardAsync(ines, "guest", "reader");
        await ship.BringAboardAsync(petra, "guest", "reader");
        var seen = await ship.Client.PersonAsync(ines);
        await ship.Client.ChangePersonAsync(ines, new DetailsRequest(Title: "Professor"), seen.Version);
        Assert.Equal(
            "version.stale",
            await CodeOf(
                ship.Client.ChangePersonAsync(ines, new DetailsRequest(Title: "Doctor"), seen.Version)
            )
        );
        var many = await ship.Client.PeopleStepsAsync(
            new PeopleStepRequest(
                "change",
                [ines, petra, "nobody@tide.example"],
                Details: new DetailsRequest(Department: "Archive", Host: ship.Administrator),
                Versions: [seen.Version, (await ship.Client.PersonAsync(petra)).Version, 1]
            )
        );
        Assert.Equal(["version.stale", "person.not-found"], many.Refused.Select(r => r.Problem.Code));
        Assert.Equal(("Archive", "Mira Tollander"), (many.Done.Single().Department, many.Done.Single().Host));
        Assert.Equal("", (await ship.Client.PersonAsync(ines)).Department);
        Assert.Equal("Professor", (await ship.Client.PersonAsync(ines)).Title);

        var tried = await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [ines, petra]), true);
        Assert.Equal((2, 2), (tried.Done.Count, tried.Difference.Losing));
        Assert.Equal("active", (await ship.Client.PersonAsync(ines)).State);
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [ines]));
        using var browser = await ship.BrowserOfAsync(ines);
        Assert.Contains(
            "access.paused",
            await browser.GetStringOrProblemAsync(ship.Path("")),
            StringComparison.Ordinal
        );
        var activity = await ship.Client.PersonActivityAsync(ship.Administrator);
        Assert.Equal("member.paused", activity.Items[0].Action);
    }

    [Fact]
    public async Task Owners_hand_over_in_one_step_and_a_leavers_resources_are_never_without_one()
    {
        var ship = await NewAsync();
        var (kofi, oona) = (ship.Address("kofi"), ship.Address("oona"));
        await ship.BringAboardAsync(kofi, "staff", "edit");
        await ship.BringAboardAsync(oona, "staff", "edit");
        foreach (var name in new[] { "Rigging plans", "Refit budget" })
            await ship.Client.Resources.AddAsync(new ResourceRequest(name, "Collection", Owner: kofi));
        using var kofis = await ship.ClientOfAsync(kofi);
        Assert.Equal(2, (await kofis.FindResourcesAsync(owner: "me")).Items.Count);
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [oona]));
        Assert.Equal("person.not-active", await CodeOf(kofis.HandOverAsync(new HandoverRequest(kofi, oona))));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [oona]));
        var handed = await kofis.HandOverAsync(new HandoverRequest(kofi, oona, ["Refit budget"]));
        Assert.Equal(["Refit budget"], handed.Resources);
        Assert.Contains(
            "They own Refit budget: it passes to Mira Tollander.",
            (await ship.Client.PlanDepartureAsync(oona)).Losses
        );
        await ship.Client.EndAsync(oona);
        Assert.Equal("Mira Tollander", (await ship.Client.Resources.ShowAsync("Refit budget")).Owner);
    }

    [Fact]
    public async Task Looking_as_somebody_shows_what_they_see_is_recorded_and_acts_for_nobody()
    {
        var ship = await NewAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines, "guest", "reader");
        var seen = await ship.Client.SeeAsAsync(ines);
        Assert.True(seen.Allowed);
        Assert.Equal(["My places"], seen.Pages);
        Assert.Equal("view", seen.Areas.Single(p => p.Place == "Register").Level);
        var person = await ship.Client.PersonAsync(ines);
        Assert.Equal("person.seen-as", (await ship.Client.PersonHistoryAsync(person.Id)).Items[^1].Action);
        Assert.DoesNotContain((await ship.Client.PersonActivityAsync(ines)).Items, e => e.Via != "page");
        Assert.Contains("member", (await ship.Client.SuggestAsync("ine")).Items.Select(s => s.Source));
    }

    private async Task<Ship> NewAsync()
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Areas.AddAsync(new AreaRequest("Collection"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Register", "Collection"));
        await ship.Client.Roles.AddAsync(
            new RoleRequest("reader", "Reads the collection.", "none", [new AreaLevel("Collection", "view")])
        );
        await ship.Client.Groups.AddAsync(new GroupRequest("Reading room"));
        return ship;
    }

    private static EvaluationRequest Question(string who, string action, string type, string what) =>
        new(new("user", who), new(action), new(type, what));

    private static async Task<string[]> WhyAsync(Ship ship, string who) =>
        [
            .. (await ship.Client.PersonAccessAsync(who))
                .Places.SelectMany(place => place.Paths)
                .Select(path => $"{path.Role} via {path.ThroughName}")
                .Distinct(),
        ];

    private static async Task<bool> SuccessOf(Task call)
    {
        try
        {
            await call;
            return true;
        }
        catch (RefusedException)
        {
            return false;
        }
    }
}

internal static class Browsing
{
    public static async Task<string> GetStringOrProblemAsync(this HttpClient browser, string path) =>
        await (await browser.GetAsync(path)).Content.ReadAsStringAsync();
}
