using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using OtpNet;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <content>The second step.</content>
public abstract partial class OwnAccounts
{
    [Fact]
    public async Task With_a_second_step_a_password_alone_opens_nothing()
    {
        var (ship, ines) = await AboardAsync("ines");
        using var first = await ship.BrowserOfAsync(ines);
        // Codes before and after the one of now are told apart: none of them may become another meanwhile.
        using var standing = harbour.Clock.Stand();
        var (key, codes) = await SetUpAsync(first);
        Assert.Equal(10, codes.Distinct().Count());
        await using (var rows = harbour.Database.Open())
        {
            var id = await IdAsync(ines);
            // Neither the key nor a code can be read from the database.
            var kept = await rows
                .Credentials.Where(c => c.AccountId == id)
                .Select(c => c.Secret)
                .ToListAsync();
            Assert.DoesNotContain(kept, secret => secret.Contains(key, StringComparison.Ordinal));
            Assert.Empty(
                kept.Intersect(codes.Select(code => code.Replace("-", "", StringComparison.Ordinal)))
            );
        }
        Assert.Contains(
            "second step was set up",
            await ship.MailAsync(ines, "has changed"),
            StringComparison.Ordinal
        );

        using var browser = Browser.At(harbour.Node);
        var begun = await browser.SendAsync(
            HttpMethod.Post,
            "/api/v1/sessions",
            new SignInRequest(ines, Ship.Password)
        );
        Assert.Equal(HttpStatusCode.Accepted, begun.StatusCode);
        Assert.Equal("second-step", (await begun.Content.ReadFromJsonAsync<SignInAwaits>())!.Awaits);
        foreach (var path in new[] { "/api/v1/me", "/api/v1/me/account", $"/api/v1/workspaces/{ship.Name}" })
            Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync(path)).StatusCode);
        // A sign-in that waits for its code is none: nobody sees it, and it proves nothing.
        Assert.DoesNotContain((await ShowAsync(first)).SignIns, one => one.SecondStep is null && !one.IsThis);
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(browser, "000000x")));
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(browser, Other)));
        // The code by which it was set up has counted, and those before it do not count any more.
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(browser, CodeAt(key, 0))));
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(browser, CodeAt(key, -1))));
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(browser, CodeAt(key, 2))));
        Assert.Equal(HttpStatusCode.NoContent, (await StepAsync(browser, CodeAt(key, 1))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal("second-step.not-due", await CodeOfAsync(await StepAsync(browser, codes[0])));
        Assert.Equal("timecode", (await ShowAsync(browser)).SignIns.Single(one => one.IsThis).SecondStep);

        // A code counts once, and however many come with the same one, one comes through.
        harbour.Clock.Offset += TimeSpan.FromMinutes(2);
        var (fresh, spare) = (CodeAt(key, 0), codes[3].ToUpperInvariant().Replace('-', ' '));
        Assert.Equal(1, await HowManyComeInAsync(fresh));
        Assert.Equal(1, await HowManyComeInAsync(spare));
        Assert.Equal(9, (await ShowAsync(first)).RecoveryCodesLeft);
        Assert.Contains("account.recovery-code-used", (await HistoryAsync(first)).Select(one => one.Action));

        async Task<int> HowManyComeInAsync(string code)
        {
            var tries = await Task.WhenAll(
                Enumerable
                    .Range(0, 4)
                    .Select(async n =>
                    {
                        using var one = Browser.At(n % 2 == 0 ? harbour.Node : harbour.OtherNode);
                        var sign = new SignInRequest(ines, Ship.Password);
                        await one.SendAsync(HttpMethod.Post, "/api/v1/sessions", sign);
                        return (await StepAsync(one, code)).StatusCode;
                    })
            );
            return tries.Count(status => status == HttpStatusCode.NoContent);
        }
    }

    [Fact]
    public async Task The_second_step_is_asked_for_whatever_else_was_shown_and_goes_when_its_holder_says_so()
    {
        var (ship, ines) = await AboardAsync("ines");
        using var first = await ship.BrowserOfAsync(ines);
        var (key, codes) = await SetUpAsync(first);

        // A mailed code, on the page.
        using var browser = Browser.At(harbour.Node);
        await browser.FormAsync("/sign-in", "/sign-in/code", new() { ["address"] = ines });
        var mailed = await CodeInAsync(ship, ines);
        var waits = await browser.FormAsync(
            "/sign-in",
            "/sign-in/by-code",
            new()
            {
                ["address"] = ines,
                ["code"] = mailed,
                ["next"] = "/account",
            }
        );
        Assert.Equal("/sign-in/step?next=%2Faccount", waits.Headers.Location?.OriginalString);
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        var wrong = await browser.FormAsync("/sign-in/step", "/sign-in/step", new() { ["code"] = "123" });
        Assert.Equal(HttpStatusCode.Unauthorized, wrong.StatusCode);
        foreach (var (next, to) in new[] { ("//elsewhere.example", "/places"), ("/account", "/account") })
        {
            var through = await browser.FormAsync(
                "/sign-in/step",
                "/sign-in/step",
                new() { ["code"] = codes[next.Length % 10], ["next"] = next }
            );
            Assert.Equal(to, through.Headers.Location?.OriginalString);
            await browser.FormAsync("/account", "/sign-out", []);
            await browser.SendAsync(
                HttpMethod.Post,
                "/api/v1/sessions",
                new SignInRequest(ines, Ship.Password)
            );
        }
        Assert.Equal(
            "/sign-in",
            (await Browser.At(harbour.Node).GetAsync("/sign-in/step")).Headers.Location?.OriginalString
        );

        // A program.
        using var client = new AboardClient(Harbour.UrlOf(harbour.Node));
        var wish = new ProgramSignInRequest(ines, Ship.Password, ship.Name, "deck");
        Assert.Equal("second-step.due", await Refusing.CodeOf(client.SignInAsync(wish)));
        Assert.Equal(
            "second-step.wrong",
            await Refusing.CodeOf(client.SignInAsync(wish with { Code = "123456" }))
        );
        Assert.NotEmpty((await client.SignInAsync(wish with { Code = codes[0] })).Token);

        // A proof is as good by a code as by the password; one that is old is asked for anew.
        harbour.Clock.Offset += TimeSpan.FromMinutes(11);
        Assert.Equal(
            "proof.stale",
            await CodeOfAsync(await first.SendAsync(HttpMethod.Delete, "/api/v1/me/second-step", ""))
        );
        Assert.Equal(
            "/confirm?next=%2Faccount",
            (await first.FormAsync("/account", "/account/second-step/remove", []))
                .Headers
                .Location
                ?.OriginalString
        );
        var proof = await first.SendAsync(
            HttpMethod.Post,
            "/api/v1/me/proof",
            new ProofRequest(Code: CodeAt(key, 0))
        );
        Assert.Equal(HttpStatusCode.NoContent, proof.StatusCode);
        var renewed = await first.SendAsync(HttpMethod.Post, "/api/v1/me/second-step/recovery-codes", "");
        var others = (await renewed.Content.ReadFromJsonAsync<RecoveryCodes>())!.Codes;
        Assert.Empty(others.Intersect(codes));
        using var old = Browser.At(harbour.Node);
        await old.SendAsync(HttpMethod.Post, "/api/v1/sessions", new SignInRequest(ines, Ship.Password));
        Assert.Equal("second-step.wrong", await CodeOfAsync(await StepAsync(old, codes[9])));

        await first.FormAsync("/account", "/account/second-step/remove", []);
        var after = await ShowAsync(first);
        Assert.Equal(("password", 0), (Assert.Single(after.WaysIn).Kind, after.RecoveryCodesLeft));
        Assert.All(after.SignIns, one => Assert.Null(one.SecondStep));
        Assert.Equal(
            HttpStatusCode.NoContent,
            (
                await old.SendAsync(
                    HttpMethod.Post,
                    "/api/v1/sessions",
                    new SignInRequest(ines, Ship.Password)
                )
            ).StatusCode
        );
    }

    [Fact]
    public async Task Codes_cannot_be_guessed_nor_a_second_step_planted_in_another_account()
    {
        var (ship, ines) = await AboardAsync("ines");
        var (_, tom) = await AboardAsync("tom", ship);
        using var her = await ship.BrowserOfAsync(ines);
        using var his = await ship.BrowserOfAsync(tom);
        var (key, codes) = await SetUpAsync(her);
        Assert.Equal("second-step.exists", await CodeOfAsync(await KeepAsync(her, await OfferAsync(her))));
        var foreign = await OfferAsync(his);
        Assert.Equal("second-step.offer-over", await CodeOfAsync(await KeepAsync(her, foreign)));
        harbour.Clock.Offset += TimeSpan.FromMinutes(10);
        await his.SendAsync(HttpMethod.Post, "/api/v1/me/proof", new ProofRequest(Ship.Password));
        Assert.Equal("second-step.offer-over", await CodeOfAsync(await KeepAsync(his, foreign)));

        using var thief = Browser.At(harbour.Node);
        await thief.SendAsync(HttpMethod.Post, "/api/v1/sessions", new SignInRequest(ines, Ship.Password));
        var answers = new List<string>();
        for (var n = 0; n < 32; n++)
            answers.Add(await CodeOfAsync(await StepAsync(thief, $"{n * 31_013:D6}")));
        Assert.Equal("too-many", answers[^1]);
        // Also the right one is not looked at any more, on whichever node, until the hour is over.
        using var elsewhere = Browser.At(harbour.OtherNode);
        await elsewhere.SendAsync(
            HttpMethod.Post,
            "/api/v1/sessions",
            new SignInRequest(ines, Ship.Password)
        );
        Assert.Equal("too-many", await CodeOfAsync(await StepAsync(elsewhere, codes[0])));
        harbour.Clock.Offset += TimeSpan.FromMinutes(61);
        Assert.Equal("second-step.not-due", await CodeOfAsync(await StepAsync(thief, CodeAt(key, 0))));
        await elsewhere.SendAsync(
            HttpMethod.Post,
            "/api/v1/sessions",
            new SignInRequest(ines, Ship.Password)
        );
        Assert.Equal(HttpStatusCode.NoContent, (await StepAsync(elsewhere, CodeAt(key, 0))).StatusCode);
    }

    [Fact]
    public async Task A_house_lets_holders_of_duties_in_only_with_more_than_one_thing_from_a_day_on()
    {
        var ship = await harbour.NewShipAsync();
        var (_, ines) = await AboardAsync("ines", ship);
        using var boss = await ship.BrowserOfAsync(ship.Administrator);
        using var guest = await ship.BrowserOfAsync(ines);
        var rules = await ship.Client.RulesAsync();
        var today = (await ship.Client.WorkspaceAsync()).Today;
        var path = $"/api/v1/workspaces/{ship.Name}";
        await ship.Client.ChangeRulesAsync(rules with { StrongSignInFrom = today.AddDays(1), Version = 0 });
        // Until then it is said, to those whom it concerns.
        Assert.Contains(
            "\"strongSignInFrom\":\"" + today.AddDays(1).ToString("yyyy-MM-dd"),
            await boss.GetStringAsync(path),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "\"strongSignInFrom\":null",
            await guest.GetStringAsync(path),
            StringComparison.Ordinal
        );
        var overview = await ship.Client.OverviewAsync();
        Assert.Equal(ship.Administrator, Assert.Single(overview.WithoutStrongSignIn).Address);

        await ship.Client.ChangeRulesAsync(rules with { StrongSignInFrom = today, Version = 0 });
        Assert.Equal("sign-in.too-weak", await CodeOfAsync(await boss.GetAsync(path)));
        Assert.Equal(HttpStatusCode.OK, (await guest.GetAsync(path)).StatusCode);
        using var client = new AboardClient(Harbour.UrlOf(harbour.Node));
        var wish = new ProgramSignInRequest(ship.Administrator, Ship.Password, ship.Name, "deck");
        Assert.Equal("sign-in.too-weak", await Refusing.CodeOf(client.SignInAsync(wish)));
        // The way out is one's own account, which belongs to no workspace.
        var (_, codes) = await SetUpAsync(boss);
        Assert.Equal(HttpStatusCode.OK, (await boss.GetAsync(path)).StatusCode);
        Assert.NotEmpty((await client.SignInAsync(wish with { Code = codes[0] })).Token);
        Assert.Empty((await ship.Client.OverviewAsync()).WithoutStrongSignIn);
        using var weak = await ship.BrowserOfAsync(ines);
        Assert.Equal(HttpStatusCode.OK, (await weak.GetAsync(path)).StatusCode);
    }

    private async Task<(string Key, IReadOnlyList<string> Codes)> SetUpAsync(HttpClient browser)
    {
        var offer = await OfferAsync(browser);
        var kept = await KeepAsync(browser, offer);
        Assert.Equal(HttpStatusCode.OK, kept.StatusCode);
        return (offer.Key, (await kept.Content.ReadFromJsonAsync<RecoveryCodes>())!.Codes);
    }

    private static async Task<SecondStepOffer> OfferAsync(HttpClient browser) =>
        (
            await (
                await browser.SendAsync(HttpMethod.Post, "/api/v1/me/second-step/options", "")
            ).Content.ReadFromJsonAsync<SecondStepOffer>()
        )!;

    private Task<HttpResponseMessage> KeepAsync(HttpClient browser, SecondStepOffer offer) =>
        browser.SendAsync(
            HttpMethod.Post,
            "/api/v1/me/second-step",
            new SecondStepRequest(offer.State, CodeAt(offer.Key, 0))
        );

    /// <summary>What a device shows, so many steps of 30 seconds from now.</summary>
    private string CodeAt(string key, int steps) =>
        new Totp(Base32Encoding.ToBytes(key)).ComputeTotp(
            (harbour.Clock.GetUtcNow() + TimeSpan.FromSeconds(30 * steps)).UtcDateTime
        );

    private static Task<HttpResponseMessage> StepAsync(HttpClient browser, string code) =>
        browser.SendAsync(HttpMethod.Post, "/api/v1/sessions/second-step", new SecondStepSignInRequest(code));

    private static async Task<string> CodeOfAsync(HttpResponseMessage answer) =>
        (await answer.Content.ReadFromJsonAsync<Problem>())!.Code;
}
