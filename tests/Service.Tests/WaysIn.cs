using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.Configuration;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class WaysIn_on_SQLite(SqliteHarbour harbour) : WaysIn(harbour), IClassFixture<SqliteHarbour>;

public sealed class WaysIn_on_PostgreSQL(PostgresHarbour harbour)
    : WaysIn(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Passwords, sessions, tokens and limits: who gets in, and who is kept out for how long.</summary>
public abstract partial class WaysIn(Harbour harbour)
{
    private const string Other = "quite another set of words";

    [Fact]
    public async Task A_forgotten_password_is_replaced_by_mail_once_and_every_sign_in_is_closed()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines);
        using var elsewhere = await ship.BrowserOfAsync(ines);
        using var browser = Browser();
        var asked = await browser.FormAsync("/forgotten", "/forgotten", new() { ["address"] = ines });
        var nobody = await browser.FormAsync(
            "/forgotten",
            "/forgotten",
            new() { ["address"] = ship.Address("nobody") }
        );
        Assert.Equal(await asked.Content.ReadAsStringAsync(), await nobody.Content.ReadAsStringAsync());
        var path = LinkIn(await ship.MailAsync(ines, "Choose a new password"), "new-password");
        Assert.Equal(
            HttpStatusCode.UnprocessableEntity,
            (await browser.FormAsync(path, path, new() { ["password"] = "short" })).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.Redirect,
            (await browser.FormAsync(path, path, new() { ["password"] = Other })).StatusCode
        );
        Assert.Equal(HttpStatusCode.Unauthorized, (await elsewhere.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await browser.GetAsync(path)).StatusCode);
        await ship.MailAsync(ines, "Your password was changed");
        Assert.Equal("sign-in.wrong", await CodeOf(ship.ClientOfAsync(ines)));
        await ship.Client.SignInAsync(new ProgramSignInRequest(ines, Other, ship.Name));
        Assert.Empty(harbour.Inbox.To(ship.Address("nobody")));
    }

    [Fact]
    public async Task Changing_a_password_asks_for_the_old_one_and_closes_the_others()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines);
        using var elsewhere = await ship.BrowserOfAsync(ines);
        using var browser = await ship.BrowserOfAsync(ines);
        var wrong = await browser.FormAsync(
            "/password",
            "/password",
            new() { ["old"] = "a guess at it", ["password"] = Other }
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await elsewhere.GetAsync("/api/v1/me")).StatusCode);
        var right = await browser.FormAsync(
            "/password",
            "/password",
            new() { ["old"] = Ship.Password, ["password"] = Other }
        );
        Assert.Equal(HttpStatusCode.OK, right.StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await elsewhere.GetAsync("/api/v1/me")).StatusCode);
        await ship.MailAsync(ines, "Your password was changed");
    }

    [Theory]
    [InlineData("mi'ra")]
    [InlineData("mîra")]
    public async Task Twenty_wrong_guesses_at_once_count_as_twenty_and_a_known_browser_is_not_locked_out(
        string name
    )
    {
        var ship = await harbour.NewShipAsync();
        var address = ship.Address(name);
        await ship.BringAboardAsync(address);
        using var known = await ship.BrowserOfAsync(address);
        using var stranger = Browser();
        var guess = new SignInRequest(address, "a guess at it");
        await Task.WhenAll(
            Enumerable.Range(0, 20).Select(_ => stranger.PostAsJsonAsync("/api/v1/sessions", guess))
        );
        await using (var rows = harbour.Database.Open())
        {
            var key = EmailAddress.Read(address).Value.Key;
            var id = (await rows.AccountAddresses.FirstAsync(a => a.AddressKey == key)).AccountId;
            Assert.Equal(20, (await rows.Accounts.FirstAsync(a => a.Id == id)).FailedTries);
        }
        var right = guess with { Password = Ship.Password };
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await stranger.PostAsJsonAsync("/api/v1/sessions", right)).StatusCode
        );
        using var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/sessions")
        {
            Content = JsonContent.Create(right),
        };
        var token = (await known.GetFromJsonAsync<AntiforgeryView>("/api/v1/antiforgery"))!.Token;
        request.Headers.Add("X-Antiforgery", token);
        Assert.Equal(HttpStatusCode.NoContent, (await known.SendAsync(request)).StatusCode);
        // The administrators see it.
        for (var tries = 0; tries < 100; tries++)
        {
            var events = await EventsAsync(ship);
            if (
                events.Any(e =>
                    e.Kind == "sign-in.locked" && e.Who.Contains(address, StringComparison.Ordinal)
                )
            )
                return;
            await Task.Delay(50);
        }
        Assert.Fail("The lock is not among the events.");
    }

    [Fact]
    public async Task The_operator_lets_an_administrator_in_again_and_the_record_says_so()
    {
        var ship = await harbour.NewShipAsync();
        var passwords = harbour.Node.Services.GetRequiredService<Passwords>();
        await ship.BringAboardAsync(ship.Address("guest"));
        Assert.Equal(
            "account.no-administrator",
            (await passwords.RecoverAsync(ship.Address("guest"))).Refusal!.Code
        );
        var path = new Uri((await passwords.RecoverAsync(ship.Administrator)).Value).AbsolutePath;
        using var browser = Browser();
        await browser.FormAsync(path, path, new() { ["password"] = Other });
        await ship.Client.SignInAsync(new ProgramSignInRequest(ship.Administrator, Other, ship.Name));
        var said = (await ship.Client.RecordAsync()).Items.Select(e => (e.Action, e.Via)).ToList();
        Assert.Contains(("account.recovery-link", "operator"), said);
        // That link came by no mail, so it proves no address.
        Assert.False((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.IsAddressProved);
    }

    [Fact]
    public async Task The_first_administrators_address_is_proved_by_the_mail_that_waits_for_it()
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        Assert.False((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.IsAddressProved);
        var path = LinkIn(await ship.MailAsync(ship.Administrator, "Is this your mailbox?"), "prove");
        await browser.GetAsync(path);
        Assert.False((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.IsAddressProved);
        await browser.FormAsync(path, path, []);
        Assert.True((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.IsAddressProved);
    }

    [Fact]
    public async Task A_token_ends_by_itself_and_its_maker_sees_and_revokes_it()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines);
        using var own = await ship.ClientOfAsync(ines);
        var listed = Assert.Single((await own.TokensAsync()).Items);
        Assert.True(listed.IsOwn);
        Assert.InRange((listed.ExpiresAt - listed.CreatedAt).TotalDays, 89.9, 90.1);
        Assert.True((await ship.Client.TokensAsync()).Items.Count > 1);
        Assert.Equal("token.days", await CodeOf(ship.Client.AddTokenAsync(new TokenRequest("long", 366))));
        using var second = await ship.ClientOfAsync(ines);
        await own.RevokeTokenAsync((await own.TokensAsync()).Items[0].Id);
        Assert.Equal("sign-in.required", await CodeOf(second.WorkspaceAsync()));
        harbour.Clock.Offset += TimeSpan.FromDays(91);
        Assert.Equal("sign-in.required", await CodeOf(own.WorkspaceAsync()));
        harbour.Clock.Offset -= TimeSpan.FromDays(91);
    }

    [Fact]
    public async Task Limits_are_shared_by_all_nodes_told_by_network_and_say_how_long_to_wait()
    {
        var settings = new Dictionary<string, string?>
        {
            ["Listen"] = "http://127.0.0.1:0",
            ["Database:Engine"] = harbour.Engine.ToString(),
            ["Database:Path"] = harbour.Settings.DatabasePath,
            ["Database:Connection"] = harbour.Settings.DatabaseConnection,
            ["Limits:SignInsPerMinute"] = "4",
            ["Limits:Proxies"] = "127.0.0.1",
            ["Log"] = "Fatal",
        };
        var hasty = ServiceSettings.Read(new ConfigurationBuilder().AddInMemoryCollection(settings).Build());
        await using var one = ServiceHost.Build(hasty, harbour.Clock, Harbour.Quickly);
        await using var two = ServiceHost.Build(hasty, harbour.Clock, Harbour.Quickly);
        await one.StartAsync();
        await two.StartAsync();
        using var first = new HttpClient { BaseAddress = Harbour.UrlOf(one) };
        using var second = new HttpClient { BaseAddress = Harbour.UrlOf(two) };
        var statuses = new List<HttpStatusCode>();
        HttpResponseMessage? last = null;
        for (var n = 0; n < 6; n++)
        {
            last = await TryAsync(n % 2 == 0 ? first : second, $"2001:db8:7:1::{n}");
            statuses.Add(last.StatusCode);
        }
        Assert.Equal(4, statuses.Count(status => status == HttpStatusCode.Unauthorized));
        Assert.InRange(last!.Headers.RetryAfter!.Delta!.Value.TotalSeconds, 1, 60);
        // Nobody else is locked out by that: neither the next network, nor another entry point.
        Assert.Equal(HttpStatusCode.Unauthorized, (await TryAsync(second, "2001:db8:7:2::1")).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await TryAsync(first, "192.0.2.7")).StatusCode);
        await one.StopAsync();
        await two.StopAsync();

        static Task<HttpResponseMessage> TryAsync(HttpClient http, string from)
        {
            var request = new HttpRequestMessage(HttpMethod.Post, "/api/v1/sessions")
            {
                Content = JsonContent.Create(new SignInRequest("x@y.example", "x")),
            };
            request.Headers.Add("X-Forwarded-For", from);
            return http.SendAsync(request);
        }
    }

    [Fact]
    public async Task A_version_that_is_weak_or_none_is_not_taken_for_any_and_faults_carry_the_headers_too()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("ines"));
        using var http = Browser();
        foreach (var (match, status) in new[] { ("W/\"1\"", 412), ("banana", 422), ("\"1\", \"2\"", 422) })
        {
            var request = new HttpRequestMessage(
                HttpMethod.Post,
                ship.Path($"/invitations/{sent.Id}/revoke")
            );
            request.Headers.TryAddWithoutValidation("If-Match", match);
            request.Headers.Add("Authorization", "Bearer " + ship.Token);
            Assert.Equal((match, status), (match, (int)(await http.SendAsync(request)).StatusCode));
        }
        Assert.NotEqual("revoked", (await ship.Client.InvitationAsync(sent.Id)).State);
        var malformed = new HttpRequestMessage(HttpMethod.Post, "/api/v1/sessions")
        {
            Content = new StringContent("{", System.Text.Encoding.UTF8, "application/json"),
        };
        var fault = await http.SendAsync(malformed);
        Assert.Equal(HttpStatusCode.UnprocessableEntity, fault.StatusCode);
        Assert.Equal("nosniff", fault.Headers.GetValues("X-Content-Type-Options").Single());
        Assert.Contains(
            "default-src 'none'",
            fault.Headers.GetValues("Content-Security-Policy").Single(),
            StringComparison.Ordinal
        );
        // Where one value cannot be read, it says which.
        var unreadable = new HttpRequestMessage(HttpMethod.Post, ship.Path("/seats"))
        {
            Content = new StringContent(
                """{"name":"Berths","total":99999999999}""",
                System.Text.Encoding.UTF8,
                "application/json"
            ),
        };
        unreadable.Headers.Add("Authorization", "Bearer " + ship.Token);
        using var told = System.Text.Json.JsonDocument.Parse(
            await (await http.SendAsync(unreadable)).Content.ReadAsStringAsync()
        );
        Assert.Equal("request.malformed", told.RootElement.GetProperty("code").GetString());
        Assert.Equal("total", told.RootElement.GetProperty("field").GetString());
    }

    [Fact]
    public async Task A_code_overtakes_anothers_thousands_and_equals_are_served_by_turns()
    {
        var (many, few) = (await harbour.NewShipAsync(), await harbour.NewShipAsync());
        await using var rows = harbour.Database.Open();
        foreach (
            var (ship, urgency, count) in new[]
            {
                (many, Urgency.InTurn, 500),
                (few, Urgency.InTurn, 5),
                (few, Urgency.AtOnce, 1),
            }
        )
            await AddAsync(ship, urgency, count);
        var queues = harbour.Node.Services.GetRequiredService<MailQueues>();
        // By a clock of its own: the workers of the nodes do not see these mails yet.
        var later = new MailQueues(
            harbour.Database,
            harbour.Node.Services.GetRequiredService<Workspaces.WriteGate>(),
            new ShiftedClock { Offset = TimeSpan.FromDays(400) }
        );
        await using var lease = new Lease();
        var leased = (await later.LeaseAsync(lease, 32, default))
            .Where(d => d.WorkspaceId == many.Id || d.WorkspaceId == few.Id)
            .ToList();
        Assert.Contains(leased, d => d.Lane.StartsWith("0-", StringComparison.Ordinal));
        Assert.Equal(6, leased.Count(d => d.WorkspaceId == few.Id));
        Assert.True(leased.Count <= 32 && leased.Any(d => d.WorkspaceId == many.Id));
        Assert.True(await queues.RenewAsync(lease.Id, default));
        await using var other = new Lease();
        Assert.Empty(
            (await later.LeaseAsync(other, 600, default))
                .Select(d => d.Id)
                .Intersect(leased.Select(d => d.Id))
        );
        await using var all = harbour.Database.Open();
        await all.Deliveries.IgnoreQueryFilters().Where(d => d.Purpose == "test").ExecuteDeleteAsync();

        async Task AddAsync(Ship ship, Urgency urgency, int count)
        {
            await using var inside = harbour.Database.Open(ship.Id);
            var due = DateTimeOffset.UtcNow.AddDays(399);
            for (var n = 0; n < count; n++)
                inside.Deliveries.Add(
                    new DeliveryRow
                    {
                        WorkspaceId = ship.Id,
                        Id = Guid.CreateVersion7(),
                        Purpose = "test",
                        ToAddress = ship.Address("x"),
                        MessageId = "x",
                        State = DeliveryState.Due,
                        Lane = DeliveryRow.LaneOf(urgency, ship.Id),
                        DueAt = due.AddSeconds(urgency == Urgency.AtOnce ? 1_000 : n),
                        CreatedAt = due,
                    }
                );
            await inside.SaveChangesAsync();
        }
    }

    private HttpClient Browser() =>
        new(new HttpClientHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() })
        {
            BaseAddress = Harbour.UrlOf(harbour.Node),
        };

    private static async Task<IReadOnlyList<SecurityEventView>> EventsAsync(Ship ship)
    {
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(ship.Harbour.Node) };
        http.DefaultRequestHeaders.Add("Authorization", "Bearer " + ship.Token);
        return (await http.GetFromJsonAsync<Page<SecurityEventView>>(ship.Path("/security-events")))!.Items;
    }

    private static string LinkIn(string mail, string page) =>
        new Uri(Regex.Match(mail, $"http\\S+/{page}/[A-Za-z0-9_-]{{43}}").Value).AbsolutePath;
}
