using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Applications;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Tests.World;
using Microsoft.AspNetCore.WebUtilities;
using Microsoft.Extensions.DependencyInjection;
using Microsoft.IdentityModel.JsonWebTokens;
using Xunit;

namespace ComeAboard.Service.Tests;

public abstract partial class LettingIn
{
    [Fact]
    public async Task A_program_that_acts_by_itself_does_so_for_somebody_who_is_here()
    {
        var ship = await harbour.NewShipAsync();
        var clerk = ship.Address("clerk");
        await ship.Client.Roles.AddAsync(
            new RoleRequest("clerk", "Keeps lists.", "view", null, ["people", "record"])
        );
        await ship.BringAboardAsync(clerk, "staff", "clerk");
        var made = await ship.Client.AddApplicationAsync(
            new ApplicationRequest("Crew board", Duties: ["people"], ActsFor: clerk)
        );
        using var board = new Relying(harbour.Node, made.Application.ClientId, made.Secret);
        var tokens = await board.ForItselfAsync();
        Assert.Equal(("", "", "people"), (tokens.Error, tokens.Refresh, tokens["scope"]));
        Assert.Equal("invalid_request", (await board.ForItselfAsync("record")).Error);
        using var acting = new AboardClient(Harbour.UrlOf(harbour.OtherNode), ship.Name, tokens.Access);
        Assert.Contains((await acting.PeopleAsync()).Items, person => person.Address == clerk);
        Assert.Equal("scope.missing", await Refusing.CodeOf(acting.RecordAsync()));
        // It asks for decisions as whoever it acts for; about others only with the duty for that.
        Assert.True((await acting.EvaluateAsync(AboutViewing(ship, clerk))).Decision);
        Assert.False((await acting.EvaluateAsync(AboutViewing(ship, ship.Administrator))).Decision);
        // In another workspace it is nobody, and neither is anybody signed in to it.
        var other = await harbour.NewShipAsync();
        using var astray = new AboardClient(Harbour.UrlOf(harbour.Node), other.Name, tokens.Access);
        Assert.Equal("workspace.not-found", await Refusing.CodeOf(astray.PeopleAsync()));
        using var browser = await ship.BrowserOfAsync(clerk);
        Assert.Equal("said here", (await board.AskAsync(browser, "openid"))["error"]);

        // What they may no longer do it may not; when they go it stands still, and goes on for somebody else.
        await ship.Client.PeopleStepsAsync(
            new Client.Accounts.PeopleStepRequest("pause", [clerk], Reason: "Away")
        );
        Assert.Equal("sign-in.required", await Refusing.CodeOf(acting.PeopleAsync()));
        Assert.Equal("invalid_grant", (await board.ForItselfAsync()).Error);
        await ship.Client.PeopleStepsAsync(new Client.Accounts.PeopleStepRequest("resume", [clerk]));
        await acting.PeopleAsync();
        await ship.Client.EndAsync(clerk);
        Assert.Equal("sign-in.required", await Refusing.CodeOf(acting.PeopleAsync()));
        Assert.Equal("invalid_grant", (await board.ForItselfAsync()).Error);
        await ship.Client.ChangeApplicationAsync(
            "Crew board",
            new ApplicationRequest("Crew board", Duties: ["people"], ActsFor: ship.Administrator)
        );
        using var again = new AboardClient(
            Harbour.UrlOf(harbour.Node),
            ship.Name,
            (await board.ForItselfAsync()).Access
        );
        await again.PeopleAsync();
        var renewed = await ship.Client.RenewApplicationSecretAsync("crew board");
        Assert.Equal("invalid_client", (await board.ForItselfAsync()).Error);
        using var anew = new Relying(harbour.Node, made.Application.ClientId, renewed.Secret);
        Assert.Equal("", (await anew.ForItselfAsync()).Error);
        await ship.Client.RemoveApplicationAsync("crew board");
        Assert.Equal("sign-in.required", await Refusing.CodeOf(again.PeopleAsync()));
        Assert.Equal("invalid_client", (await anew.ForItselfAsync()).Error);
        var record = (await ship.Client.RecordAsync()).Items.Select(entry => entry.Action).ToList();
        foreach (var action in (string[])["added", "changed", "secret-renewed", "removed"])
            Assert.Contains("application." + action, record);
    }

    [Fact]
    public async Task Nobody_registers_a_program_that_may_do_more_than_they()
    {
        var (ship, _) = await RiggingAsync(["record"]);
        var clerk = ship.Address("clerk");
        await ship.Client.Roles.AddAsync(
            new RoleRequest("clerk", "Sets.", "edit", null, ["settings", "people"])
        );
        await ship.BringAboardAsync(clerk, "staff", "clerk");
        using var theirs = await ship.ClientOfAsync(clerk);
        foreach (
            var (code, wish) in ((string, ApplicationRequest)[])
                [
                    ("right.beyond-own", Wish("A", Relying.Redirect) with { Duties = ["invite"] }),
                    (
                        "right.acting-on",
                        new ApplicationRequest("A", Duties: ["people"], ActsFor: ship.Administrator)
                    ),
                    (
                        "application.acts-beyond",
                        new ApplicationRequest("A", Duties: ["people"], ActsFor: await GuestAsync(ship))
                    ),
                    ("application.no-use", new ApplicationRequest("A", Duties: ["people"])),
                    ("application.no-duties", new ApplicationRequest("A", ActsFor: clerk)),
                    ("application.no-resource", new ApplicationRequest("A", Redirects: [Relying.Redirect])),
                    (
                        "application.public-acts",
                        new ApplicationRequest("A", Duties: ["people"], ActsFor: clerk, IsPublic: true)
                    ),
                    ("application.exists", Wish("RIGGING LOG", Relying.Redirect)),
                    ("resource.unknown", Wish("A", Relying.Redirect) with { Resource = "Nothing" }),
                    ("duty.unknown", Wish("A", Relying.Redirect) with { Duties = ["everything"] }),
                    ("name.missing", Wish(" ", Relying.Redirect)),
                    (
                        "person.not-found",
                        new ApplicationRequest("A", Duties: ["people"], ActsFor: "nobody@nowhere.example")
                    ),
                    (
                        "application.too-many-addresses",
                        new ApplicationRequest(
                            "A",
                            "Rigging log",
                            [.. Enumerable.Range(0, 11).Select(i => $"https://a.example/{i}")]
                        )
                    ),
                    .. (
                        (string[])
                            [
                                "http://rigging.example/back",
                                "https://rigging.example/#x",
                                "https://a:b@rigging.example/",
                                "https://*.rigging.example/",
                                "javascript:alert(1)",
                                "/back",
                                "rigging://back",
                                "https://rigging.example/\nx",
                            ]
                    ).Select(address => ("application.address-malformed", Wish("A", address))),
                ]
        )
            Assert.Equal(code, await Refusing.CodeOf(theirs.AddApplicationAsync(wish)));
        // One that may do more than they is not theirs to lead elsewhere, or to have a secret of.
        var leadAway = Wish("Rigging log", "https://elsewhere.example/back");
        Assert.Equal(
            "right.missing",
            await Refusing.CodeOf(theirs.ChangeApplicationAsync("Rigging log", leadAway))
        );
        Assert.Equal(
            "right.missing",
            await Refusing.CodeOf(theirs.RenewApplicationSecretAsync("Rigging log"))
        );
        using var reader = await ship.ClientOfAsync(await GuestAsync(ship));
        Assert.Equal("right.missing", await Refusing.CodeOf(reader.ApplicationsAsync()));
        var tried = await ship.Client.AddApplicationAsync(Wish("Bilge log", Relying.Redirect), dryRun: true);
        Assert.Equal("", tried.Secret);
        Assert.Single((await ship.Client.ApplicationsAsync()).Items);
        // On people's own devices there is no secret.
        var onDevices = await ship.Client.AddApplicationAsync(
            Wish("Pocket log", "http://127.0.0.1:4711/back") with
            {
                IsPublic = true,
            }
        );
        Assert.Equal(("", false), (onDevices.Secret, onDevices.Application.HasSecret));
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        using var pocket = new Relying(
            harbour.Node,
            onDevices.Application.ClientId,
            redirect: "http://127.0.0.1:4711/back"
        );
        Assert.Equal("", (await pocket.SignInAsync(browser, "openid")).Error);
        Assert.Equal(
            "application.no-secret",
            await Refusing.CodeOf(ship.Client.RenewApplicationSecretAsync("Pocket log"))
        );
    }

    [Fact]
    public async Task Somebody_who_is_not_signed_in_signs_in_first_and_goes_on_from_there()
    {
        var (ship, rigging) = await RiggingAsync();
        using var browser = Browser.At(harbour.Node);
        Assert.Equal(
            "login_required",
            (await rigging.AskAsync(browser, "openid", more: ("prompt", "none")))["error"]
        );
        var sent = await browser.GetAsync(new Uri(rigging.Question("openid"), UriKind.Relative));
        var next = QueryHelpers
            .ParseQuery(sent.Headers.Location!.OriginalString.Split('?', 2)[1])["next"]
            .ToString();
        var entered = await browser.FormAsync(
            "/sign-in",
            "/sign-in",
            new()
            {
                ["address"] = ship.Administrator,
                ["password"] = Ship.Password,
                ["next"] = next,
            }
        );
        // A form leads no further than its page allows, so that a page of ours stands between.
        Assert.StartsWith("/onward?to=", entered.Headers.Location!.OriginalString, StringComparison.Ordinal);
        var page = await browser.GetAsync(entered.Headers.Location);
        Assert.Equal(HttpStatusCode.OK, page.StatusCode);
        Assert.Contains(
            "http-equiv=\"refresh\"",
            await page.Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        foreach (
            var astray in (string[])
                ["https://evil.example", "//evil.example", "/oauth/authorize\\evil", "/places", ""]
        )
            Assert.Equal(
                "/home",
                (
                    await browser.GetAsync(
                        new Uri("/onward?to=" + Uri.EscapeDataString(astray), UriKind.Relative)
                    )
                )
                    .Headers
                    .Location
                    ?.OriginalString
            );
        Assert.True(
            (await rigging.AskAsync(browser, "openid", more: ("prompt", "none"))).ContainsKey("code")
        );

        // Asked to show anew who they are, they do.
        Assert.StartsWith(
            "/sign-in?next=",
            await SentAsync(browser, rigging.Question("openid", ("prompt", "login"))),
            StringComparison.Ordinal
        );
        harbour.Clock.Offset += TimeSpan.FromMinutes(20);
        Assert.StartsWith(
            "/sign-in?next=",
            await SentAsync(browser, rigging.Question("openid", ("max_age", "600"))),
            StringComparison.Ordinal
        );
        Assert.Equal(
            "login_required",
            (await rigging.AskAsync(browser, "openid", more: [("prompt", "none"), ("max_age", "600")]))[
                "error"
            ]
        );
        Assert.StartsWith(
            Relying.Redirect,
            await SentAsync(browser, rigging.Question("openid", ("max_age", "3600"))),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task Who_signs_out_of_a_program_is_asked_here_unless_it_shows_whose_sign_in_it_is()
    {
        var (ship, rigging) = await RiggingAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        var bye = "/oauth/end-session?post_logout_redirect_uri=https%3A%2F%2Frigging.example%2Fbye&state=x";
        var tokens = await rigging.SignInAsync(browser, "openid");
        // Another sign-in than this one's: the page asks, and nothing happens by opening it.
        using var second = await ship.BrowserOfAsync(ship.Administrator);
        var asked = await second.GetAsync(
            new Uri($"{bye}&id_token_hint={tokens["id_token"]}", UriKind.Relative)
        );
        Assert.Equal(HttpStatusCode.OK, asked.StatusCode);
        Assert.Contains(
            "Sign out here, too?",
            await asked.Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );
        Assert.Equal(
            HttpStatusCode.OK,
            (await second.GetAsync(new Uri("/api/v1/me", UriKind.Relative))).StatusCode
        );
        Assert.Equal(
            "https://rigging.example/bye?state=x",
            await SentAsync(browser, $"{bye}&id_token_hint={tokens["id_token"]}")
        );
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await browser.GetAsync(new Uri("/api/v1/me", UriKind.Relative))).StatusCode
        );
        // Nobody is led astray by it.
        var lured = await second.GetAsync(
            new Uri(
                $"/oauth/end-session?id_token_hint={tokens["id_token"]}&post_logout_redirect_uri=https%3A%2F%2Fevil.example",
                UriKind.Relative
            )
        );
        Assert.Null(lured.Headers.Location);
    }

    [Fact]
    public async Task Keys_are_renewed_without_anybody_noticing()
    {
        var (ship, rigging) = await RiggingAsync();
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        var before = await rigging.SignInAsync(browser, "openid offline_access");
        var kid = new JsonWebToken(before["id_token"]).Kid;
        var (keys, others) = (
            harbour.Node.Services.GetRequiredService<OAuthKeys>(),
            harbour.OtherNode.Services.GetRequiredService<OAuthKeys>()
        );
        await keys.RenewAsync();
        await others.EnsureAsync();
        var shown = await KeysAsync();
        Assert.Contains(shown.Keys, key => key.KeyId == kid);
        var after = await rigging.SignInAsync(browser, "openid");
        var renewed = new JsonWebToken(after["id_token"]).Kid;
        Assert.NotEqual(kid, renewed);
        Assert.Contains(shown.Keys, key => key.KeyId == renewed);
        // What was sealed by the one before is opened by all processes.
        Assert.Equal("", (await rigging.WhoAsync(before.Access)).Error);
        Assert.Equal("", (await rigging.RefreshAsync(before.Refresh)).Error);
        using var elsewhere = new Relying(
            harbour.OtherNode,
            (await ship.Client.ApplicationAsync("Rigging log")).ClientId
        );
        Assert.Equal("", (await elsewhere.WhoAsync(after.Access)).Error);
        // Where somebody may know one, nothing that it signed counts any more, and people sign in anew.
        var known = await rigging.SignInAsync(browser, "openid offline_access");
        await keys.RenewAsync(forgets: true);
        await others.EnsureAsync();
        Assert.DoesNotContain((await KeysAsync()).Keys, key => key.KeyId == renewed || key.KeyId == kid);
        Assert.Equal("invalid_token", (await rigging.WhoAsync(known.Access)).Error);
        Assert.Equal("invalid_grant", (await rigging.RefreshAsync(known.Refresh)).Error);
        Assert.Equal("", (await rigging.SignInAsync(browser, "openid")).Error);
    }

    [Fact]
    public async Task What_others_read_of_us_says_what_we_do()
    {
        using var http = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        http.DefaultRequestHeaders.Host = "evil.example";
        foreach (var path in (string[])["openid-configuration", "oauth-authorization-server"])
        {
            var told = await http.GetFromJsonAsync<System.Text.Json.JsonElement>("/.well-known/" + path);
            Assert.Equal("http://127.0.0.1:1/", told.GetProperty("issuer").GetString());
            Assert.DoesNotContain("evil", told.ToString(), StringComparison.Ordinal);
            Assert.Equal(["S256"], Strings(told, "code_challenge_methods_supported"));
            Assert.Equal(["code"], Strings(told, "response_types_supported"));
            Assert.True(told.GetProperty("backchannel_logout_session_supported").GetBoolean());
            Assert.True(told.GetProperty("authorization_response_iss_parameter_supported").GetBoolean());
            Assert.Contains(
                "urn:ietf:params:oauth:grant-type:device_code",
                Strings(told, "grant_types_supported")
            );
            Assert.DoesNotContain("password", Strings(told, "grant_types_supported"));
        }

        static IEnumerable<string> Strings(System.Text.Json.JsonElement json, string name) =>
            json.GetProperty(name).EnumerateArray().Select(item => item.GetString()!);
    }

    private static async Task<string> SentAsync(HttpClient browser, string path) =>
        (await browser.GetAsync(new Uri(path, UriKind.Relative))).Headers.Location?.OriginalString ?? "";

    private static async Task<string> GuestAsync(Ship ship)
    {
        var guest = ship.Address("guest" + Guid.NewGuid().ToString("N")[..6]);
        await ship.BringAboardAsync(guest);
        return guest;
    }

    private static EvaluationRequest AboutViewing(Ship ship, string person) =>
        new(
            new EvaluationSubject("person", person),
            new EvaluationAction("view"),
            new EvaluationResource("workspace", ship.Name)
        );
}
