using System.Net;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Applications;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class LettingIn_on_SQLite(SqliteHarbour harbour)
    : LettingIn(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class LettingIn_on_PostgreSQL(PostgresHarbour harbour)
    : LettingIn(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Programs that people sign in to with us, devices they approve, programs that act by themselves.</summary>
public abstract partial class LettingIn(Harbour harbour)
{
    [Fact]
    public async Task A_device_is_signed_in_by_a_browser_and_acts_as_the_person_everywhere()
    {
        var ship = await harbour.NewShipAsync();
        var other = await harbour.NewShipAsync();
        var rui = ship.Address("rui");
        await ship.BringAboardAsync(rui, "staff", "manage");
        await other.InviteAsync(rui, "guest");
        await other.Client.AcceptAsync(
            new AcceptRequest(await other.SecretAsync(rui, 2), Ship.Password, Address: rui)
        );
        using var device = new Relying(harbour.Node, "aboard");
        var begun = await device.BeginDeviceAsync();
        Assert.Equal(HttpStatusCode.OK, begun.Status);
        Assert.Matches("^[B-DF-HJ-NP-TV-XZ]{4}-[B-DF-HJ-NP-TV-XZ]{4}$", begun["user_code"]);
        Assert.EndsWith("/device", begun["verification_uri"], StringComparison.Ordinal);
        Assert.EndsWith(
            "/device?code=" + begun["user_code"],
            begun["verification_uri_complete"],
            StringComparison.Ordinal
        );
        Assert.Equal("5", begun["interval"]);
        Assert.Equal("authorization_pending", (await device.DeviceAsync(begun["device_code"])).Error);
        Assert.Equal("slow_down", (await device.DeviceAsync(begun["device_code"])).Error);

        using var browser = await ship.BrowserOfAsync(rui);
        var page = await browser.GetStringAsync("/device?code=" + begun["user_code"].ToLowerInvariant());
        Assert.Contains(begun["user_code"], page, StringComparison.Ordinal);
        Assert.Contains("rigging/1.0", page, StringComparison.Ordinal);
        // In the zone of the place they came to.
        Assert.Matches(@"<dt>Since</dt><dd>\d+ \w+ 20\d\d, \d\d:\d\d \(Europe/Lisbon\)</dd>", page);
        Assert.Equal("/device/done", await AnswerAsync(browser, begun["user_code"], "yes"));
        // Once more, as when somebody goes back: it is over, and nothing that came of it is.
        Assert.Equal("device.code-wrong", await AnswerAsync(browser, begun["user_code"], "yes"));

        harbour.Clock.Offset += TimeSpan.FromSeconds(6);
        var signedIn = await device.DeviceAsync(begun["device_code"]);
        Assert.Equal(("", HttpStatusCode.OK), (signedIn.Error, signedIn.Status));
        Assert.Equal("invalid_grant", (await device.DeviceAsync(begun["device_code"])).Error);
        Assert.Equal("device.code-wrong", await AnswerAsync(browser, begun["user_code"], "no"));
        using var here = new AboardClient(Harbour.UrlOf(harbour.OtherNode), ship.Name, signedIn.Access);
        var me = await here.WhoAmIAsync();
        Assert.Equal(
            new HashSet<string> { ship.Name, other.Name },
            me.Places.Select(place => place.Workspace).ToHashSet()
        );
        await here.WorkspaceAsync();
        using var there = new AboardClient(Harbour.UrlOf(harbour.Node), other.Name, signedIn.Access);
        await there.WorkspaceAsync();
        // What it had is still good, and is good once.
        var again = await device.RefreshAsync(signedIn.Refresh);
        Assert.Equal("", again.Error);
        using var renewed = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, again.Access);
        await renewed.WorkspaceAsync();

        // It stands among the sign-ins, and is closed as they are.
        var account = await browser.GetStringAsync("/account");
        Assert.Contains("rigging, Linux", account, StringComparison.Ordinal);
        await browser.SendAsync(HttpMethod.Post, "/api/v1/me/account/sign-ins/close-others", new { });
        Assert.Equal("sign-in.required", await Refusing.CodeOf(renewed.WorkspaceAsync()));
        Assert.Equal("invalid_grant", (await device.RefreshAsync(again.Refresh)).Error);
    }

    [Fact]
    public async Task A_device_that_is_refused_forgotten_or_not_wanted_any_more_gets_nothing()
    {
        var ship = await harbour.NewShipAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        using var device = new Relying(harbour.OtherNode, "aboard");
        var refused = await device.BeginDeviceAsync();
        Assert.Equal("/device/refused", await AnswerAsync(browser, refused["user_code"], "no"));
        Assert.Equal("access_denied", (await device.DeviceAsync(refused["device_code"])).Error);

        // Approved, and then every sign-in closed before it was fetched.
        var closed = await device.BeginDeviceAsync();
        using var second = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal("/device/done", await AnswerAsync(second, closed["user_code"], "yes"));
        await browser.SendAsync(HttpMethod.Post, "/api/v1/me/account/sign-ins/close-others", new { });
        Assert.Equal("invalid_grant", (await device.DeviceAsync(closed["device_code"])).Error);

        // Two devices with one code: one of them is signed in.
        var shared = await device.BeginDeviceAsync();
        Assert.Equal("/device/done", await AnswerAsync(browser, shared["user_code"], "yes"));
        using var thief = new Relying(harbour.Node, "aboard");
        var both = await Task.WhenAll(
            device.DeviceAsync(shared["device_code"]),
            thief.DeviceAsync(shared["device_code"])
        );
        Assert.Single(both, answer => answer.Access.Length > 0);

        var late = await device.BeginDeviceAsync();
        harbour.Clock.Offset += TimeSpan.FromMinutes(11);
        using var fresh = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal("device.code-wrong", await AnswerAsync(fresh, late["user_code"], "yes"));
        Assert.Equal("expired_token", (await device.DeviceAsync(late["device_code"])).Error);

        // Nobody but the page hands an answer on, and whoever guesses codes is held up.
        var straight = await fresh.FormAsync(
            "/device",
            "/device/answer",
            new() { ["user_code"] = "BCDF-GHJK" }
        );
        Assert.Equal("/device", straight.Headers.Location?.OriginalString);
        for (var tries = 0; tries < 10; tries++)
            await fresh.GetAsync(new Uri($"/device?code=BCDF-GHJ{"BCDFGHJKLM"[tries]}", UriKind.Relative));
        var held = await fresh.GetAsync(new Uri("/device?code=BCDF-GHJK", UriKind.Relative));
        Assert.Equal(HttpStatusCode.TooManyRequests, held.StatusCode);
        // It asks for no more than it may.
        Assert.Equal("invalid_request", (await device.BeginDeviceAsync("as_me settings")).Error);
        using var stranger = new Relying(harbour.Node, "nobody");
        Assert.Equal("invalid_client", (await stranger.BeginDeviceAsync()).Error);
    }

    [Fact]
    public async Task People_sign_in_to_a_program_that_is_a_resource_they_have_access_to()
    {
        var (ship, rigging) = await RiggingAsync();
        var (kit, ana) = (ship.Address("kit"), ship.Address("ana"));
        await ship.BringAboardAsync(kit);
        await ship.BringAboardAsync(ana, "guest", "nothing");
        using var browser = await ship.BrowserOfAsync(kit);
        var back = await rigging.AskAsync(browser, "openid profile email");
        Assert.Equal(rigging.State, back["state"]);
        Assert.Equal("http://127.0.0.1:1/", back["iss"]);
        var tokens = await rigging.FetchAsync(back["code"]);
        Assert.Equal(("", ""), (tokens.Error, tokens.Refresh));
        var person = await ship.Client.PersonAsync(kit);
        var told = tokens.Identity;
        Assert.Equal(
            (person.Id.ToString(), "Somebody kit", kit, "view", rigging.Nonce),
            (
                told.GetProperty("sub").GetString(),
                told.GetProperty("name").GetString(),
                told.GetProperty("email").GetString(),
                told.GetProperty("level").GetString(),
                told.GetProperty("nonce").GetString()
            )
        );
        Assert.True(told.GetProperty("email_verified").GetBoolean());
        Assert.True(told.TryGetProperty("sid", out _) && told.TryGetProperty("auth_time", out _));
        Assert.DoesNotContain("aboard_", told.ToString(), StringComparison.Ordinal);
        var who = await rigging.WhoAsync(tokens.Access);
        Assert.Equal(
            (person.Id.ToString(), "Somebody kit", kit, "view"),
            (who["sub"], who["name"], who["email"], who["level"])
        );
        // To know who somebody is opens nothing else.
        using var looking = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, tokens.Access);
        Assert.Equal("sign-in.required", await Refusing.CodeOf(looking.WorkspaceAsync()));
        // Without being asked for they are not told.
        var bare = (await rigging.SignInAsync(browser, "openid")).Identity;
        Assert.False(bare.TryGetProperty("name", out _) || bare.TryGetProperty("email", out _));
        Assert.Contains(
            "You signed in to Rigging log, of The Lantern Tide.",
            await browser.GetStringAsync("/account"),
            StringComparison.Ordinal
        );

        // Whoever has nothing there does not get in, and neither does anybody else.
        using var without = await ship.BrowserOfAsync(ana);
        Assert.Equal("access_denied", (await rigging.AskAsync(without, "openid"))["error"]);
        var elsewhere = await harbour.NewShipAsync();
        using var stranger = await elsewhere.BrowserOfAsync(elsewhere.Administrator);
        Assert.Equal("access_denied", (await rigging.AskAsync(stranger, "openid"))["error"]);
    }

    [Fact]
    public async Task What_comes_back_to_a_program_is_of_use_to_it_alone_and_once()
    {
        var (ship, rigging) = await RiggingAsync();
        var kit = ship.Address("kit");
        await ship.BringAboardAsync(kit);
        using var browser = await ship.BrowserOfAsync(kit);
        Assert.Equal(
            "invalid_grant",
            (
                await rigging.FetchAsync(
                    (await rigging.AskAsync(browser, "openid"))["code"],
                    new string('x', 43)
                )
            ).Error
        );
        var plain = await rigging.AskAsync(browser, "openid", more: ("code_challenge_method", "plain"));
        Assert.Equal("said here", plain["error"]);
        var none = await rigging.AskAsync(
            browser,
            "openid",
            more: [("code_challenge", null), ("code_challenge_method", null)]
        );
        Assert.Equal("said here", none["error"]);
        var code = (await rigging.AskAsync(browser, "openid offline_access"))["code"];
        var first = await rigging.FetchAsync(code);
        Assert.Equal(("", true), (first.Error, first.Refresh.Length > 0));
        var renewed = await rigging.RefreshAsync(first.Refresh);
        Assert.Equal("", renewed.Error);
        // Whoever has the code as well ends all that came of it, and so does an old refresh token.
        Assert.Equal("invalid_grant", (await rigging.FetchAsync(code)).Error);
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(renewed.Refresh)).Error);
        var other = await rigging.SignInAsync(browser, "openid offline_access");
        var next = await rigging.RefreshAsync(other.Refresh);
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(other.Refresh)).Error);
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(next.Refresh)).Error);
        Assert.Equal("invalid_token", (await rigging.WhoAsync(next.Access)).Error);

        // What was let in to stay is on the account's page, and ended there.
        var staying = await rigging.SignInAsync(browser, "openid offline_access");
        var page = await browser.GetStringAsync("/account");
        var id = WithdrawPattern()
            .Match(page[page.IndexOf("Rigging log", StringComparison.Ordinal)..])
            .Groups[1]
            .Value;
        await browser.FormAsync("/account", "/account/withdraw", new() { ["id"] = id });
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(staying.Refresh)).Error);
        Assert.Contains(
            "You ended what Rigging log was let in by.",
            await browser.GetStringAsync("/account"),
            StringComparison.Ordinal
        );

        // Another program has no use for it, nor has one without its secret.
        var made = await ship.Client.AddApplicationAsync(Wish("Bilge log", "https://bilge.example/back"));
        using var bilge = new Relying(harbour.Node, made.Application.ClientId, made.Secret);
        var mine = (await rigging.AskAsync(browser, "openid"))["code"];
        Assert.Equal("invalid_grant", (await bilge.FetchAsync(mine)).Error);
        var known = (await ship.Client.ApplicationAsync("rigging log")).ClientId;
        using var bare = new Relying(harbour.Node, known);
        Assert.Equal("invalid_client", (await bare.FetchAsync(mine)).Error);
        using var wrong = new Relying(harbour.Node, known, made.Secret);
        Assert.Equal("invalid_client", (await wrong.ForItselfAsync()).Error);

        // Nobody is sent to an address that was not registered, however like one.
        foreach (
            var address in (string[])
                [
                    "https://rigging.example/back/",
                    "https://rigging.example/back?x=1",
                    "https://evil.example/back",
                    "//evil.example",
                ]
        )
        {
            using var lure = new Relying(harbour.Node, known, redirect: address);
            var answer = await browser.GetAsync(new Uri(lure.Question("openid"), UriKind.Relative));
            Assert.Equal(
                (HttpStatusCode.UnprocessableEntity, null),
                (answer.StatusCode, answer.Headers.Location)
            );
            Assert.Contains(
                "application.wrong-request",
                await answer.Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
        }
    }

    [Fact]
    public async Task A_program_may_do_in_somebodys_name_what_they_let_it_and_no_more()
    {
        var (ship, rigging) = await RiggingAsync(["people", "record"]);
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal("access_denied", (await rigging.AskAsync(browser, "openid people", "no"))["error"]);
        var asked = await browser.GetStringAsync(rigging.Question("openid people"));
        Assert.Contains(
            "see people, change their details, end their access",
            asked,
            StringComparison.Ordinal
        );
        Assert.DoesNotContain("read the record", asked, StringComparison.Ordinal);
        Assert.Equal("said here", (await rigging.AskAsync(browser, "openid settings"))["error"]);
        var tokens = await rigging.SignInAsync(browser, "openid people");
        using var acting = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, tokens.Access);
        var kit = ship.Address("kit");
        await ship.BringAboardAsync(kit);
        await acting.PersonAsync(kit);
        await acting.WorkspaceAsync();
        Assert.Equal("scope.missing", await Refusing.CodeOf(acting.RecordAsync()));
        Assert.Equal("scope.missing", await Refusing.CodeOf(acting.AddTokenAsync(new TokenRequest("more"))));
        Assert.Equal("scope.missing", await Refusing.CodeOf(acting.InvitationsAsync()));
        // What takes a duty beside the one of the path is looked at where it takes effect.
        Assert.Equal("right.acting-on", await Refusing.CodeOf(acting.EndAsync(await OfficerAsync(ship))));
        // They lose it, and so does the program; another member has it in part.
        await ship.Client.EndAsync(kit);
        var clerk = ship.Address("clerk");
        await ship.Client.Roles.AddAsync(new RoleRequest("clerk", "Reads.", "view", null, ["record"]));
        await ship.BringAboardAsync(clerk, "staff", "clerk");
        using var theirs = await ship.BrowserOfAsync(clerk);
        var less = await rigging.SignInAsync(theirs, "openid people record");
        using var reading = new AboardClient(Harbour.UrlOf(harbour.Node), ship.Name, less.Access);
        await reading.RecordAsync();
        Assert.Equal("scope.missing", await Refusing.CodeOf(reading.PeopleAsync()));
    }

    /// <summary>Somebody with every duty.</summary>
    private static async Task<string> OfficerAsync(Ship ship)
    {
        var officer = ship.Address("officer");
        await ship.BringAboardAsync(officer, "staff", "manage");
        return officer;
    }

    /// <summary>A workspace with a resource that is a program, registered.</summary>
    private async Task<(Ship Ship, Relying Rigging)> RiggingAsync(
        IReadOnlyList<string>? duties = null,
        string? told = null
    )
    {
        var ship = await harbour.NewShipAsync();
        await ship.Client.Areas.AddAsync(new AreaRequest("Rig"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Rigging log", "Rig"));
        await ship.Client.Roles.AddAsync(new RoleRequest("nothing", "Nothing yet.", "none"));
        var made = await ship.Client.AddApplicationAsync(
            Wish("Rigging log", Relying.Redirect) with
            {
                Duties = duties ?? [],
                SignOutAddress = told,
            }
        );
        return (ship, new Relying(harbour.Node, made.Application.ClientId, made.Secret));
    }

    private static ApplicationRequest Wish(string name, string redirect) =>
        new(name, "Rigging log", [redirect], ["https://rigging.example/bye"]);

    /// <summary>Answers on the page for devices: where one is sent, or why one is not.</summary>
    private static async Task<string> AnswerAsync(HttpClient browser, string code, string answer)
    {
        var taken = await browser.FormAsync(
            "/device",
            "/device/take",
            new() { ["user_code"] = code, ["answer"] = answer }
        );
        if (taken.StatusCode != HttpStatusCode.TemporaryRedirect)
            return CodePattern().Match(await taken.Content.ReadAsStringAsync()).Groups[1].Value;
        var handed = await browser.PostAsync(
            taken.Headers.Location,
            new FormUrlEncodedContent(
                new Dictionary<string, string> { ["user_code"] = code, ["answer"] = answer }
            )
        );
        return handed.Headers.Location?.OriginalString ?? $"{(int)handed.StatusCode}";
    }

    [System.Text.RegularExpressions.GeneratedRegex("name=\"id\" value=\"([^\"]+)\"")]
    private static partial System.Text.RegularExpressions.Regex WithdrawPattern();

    [System.Text.RegularExpressions.GeneratedRegex("data-code=\"([^\"]+)\"")]
    private static partial System.Text.RegularExpressions.Regex CodePattern();
}
