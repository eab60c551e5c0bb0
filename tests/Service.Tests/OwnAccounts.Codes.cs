using System.Net;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <content>Codes that are mailed, and passkeys.</content>
public abstract partial class OwnAccounts
{
    [Fact]
    public async Task A_mailed_code_signs_in_once_whoever_has_proved_the_address()
    {
        var (ship, ines) = await AboardAsync("ines");
        using var browser = Browser.At(harbour.Node);
        var asked = await browser.FormAsync("/sign-in", "/sign-in/code", new() { ["address"] = ines });
        var nobody = await browser.FormAsync(
            "/sign-in",
            "/sign-in/code",
            new() { ["address"] = ship.Address("nobody") }
        );
        // Nothing tells whether there is such an account.
        Assert.Equal(
            Without(await asked.Content.ReadAsStringAsync(), ines),
            Without(await nobody.Content.ReadAsStringAsync(), ship.Address("nobody"))
        );
        var code = await CodeInAsync(ship, ines);
        Assert.Empty(harbour.Inbox.To(ship.Address("nobody")));

        // One that is wrong lets nobody in, nor does the right one for another address.
        Assert.Equal(HttpStatusCode.Unauthorized, await WithCodeAsync(ines, Wrong(code)));
        Assert.Equal(HttpStatusCode.Unauthorized, await WithCodeAsync(ship.Administrator, code));
        Assert.Equal(HttpStatusCode.Unauthorized, await WithCodeAsync(ship.Address("nobody"), code));
        // Of many at once one comes through: a code counts once.
        var answers = await Task.WhenAll(
            Enumerable.Range(0, 3).Select(_ => WithCodeAsync(ines, $" {code} "))
        );
        Assert.Single(answers, HttpStatusCode.NoContent);
        using var again = Browser.At(harbour.Node);
        var page = await again.FormAsync(
            "/sign-in",
            "/sign-in/by-code",
            new()
            {
                ["address"] = ines,
                ["code"] = code,
                ["next"] = "/account",
            }
        );
        Assert.Equal(HttpStatusCode.Unauthorized, page.StatusCode);

        using var known = await ship.BrowserOfAsync(ines);
        Assert.Equal(
            ["account.signed-in", "account.signed-in", "account.code-mailed"],
            (await HistoryAsync(known)).Take(3).Select(one => one.Action)
        );
        Assert.Contains((await ShowAsync(known)).SignIns, one => one.With == "mailedcode");

        async Task<HttpStatusCode> WithCodeAsync(string address, string given)
        {
            using var at = Browser.At(harbour.OtherNode);
            return (
                await at.PostAsJsonAsync("/api/v1/sessions/by-code", new SignInByCodeRequest(address, given))
            ).StatusCode;
        }
        static string Without(string text, string address) =>
            Browser.TokenPattern().Replace(text, "").Replace(address, "", StringComparison.Ordinal);
    }

    [Fact]
    public async Task After_five_guesses_however_many_come_at_once_a_code_is_dead_and_so_is_one_that_is_old()
    {
        var (ship, ines) = await AboardAsync("ines");
        await MailAsync();
        var code = await CodeInAsync(ship, ines);
        await Task.WhenAll(
            Enumerable.Range(0, 30).Select(n => TryAsync($"{(int.Parse(code) + n + 1) % 100_000_000:D8}"))
        );
        await using (var rows = harbour.Database.Open())
        {
            var id = await IdAsync(ines);
            Assert.Equal(5, (await rows.MailedCodes.SingleAsync(c => c.AccountId == id)).Tries);
        }
        Assert.Equal(HttpStatusCode.Unauthorized, await TryAsync(code));
        // Another is not mailed within half a minute, and the one it takes the place of stays dead.
        await MailAsync();
        harbour.Clock.Offset += TimeSpan.FromSeconds(31);
        await MailAsync();
        var second = await CodeInAsync(ship, ines, mails: 2);
        harbour.Clock.Offset += TimeSpan.FromMinutes(10);
        Assert.Equal(HttpStatusCode.Unauthorized, await TryAsync(second));
        await MailAsync();
        Assert.Equal(HttpStatusCode.NoContent, await TryAsync(await CodeInAsync(ship, ines, mails: 3)));

        async Task MailAsync()
        {
            using var at = Browser.At(harbour.Node);
            var answer = await at.PostAsJsonAsync("/api/v1/sessions/codes", new SignInCodeRequest(ines));
            Assert.Equal(HttpStatusCode.Accepted, answer.StatusCode);
        }
        async Task<HttpStatusCode> TryAsync(string given)
        {
            using var at = Browser.At(harbour.OtherNode);
            return (
                await at.PostAsJsonAsync("/api/v1/sessions/by-code", new SignInByCodeRequest(ines, given))
            ).StatusCode;
        }
    }

    [Fact]
    public async Task Whoever_only_wrote_an_address_down_gets_nobody_in_by_it()
    {
        // The administrator of a new workspace has not shown yet that the address is theirs.
        var ship = await harbour.NewShipAsync();
        using var browser = Browser.At(harbour.Node);
        await browser.PostAsJsonAsync("/api/v1/sessions/codes", new SignInCodeRequest(ship.Administrator));
        var (other, ines) = await AboardAsync("ines");
        await browser.PostAsJsonAsync("/api/v1/sessions/codes", new SignInCodeRequest(ines));
        await CodeInAsync(other, ines);
        Assert.DoesNotContain(
            harbour.Inbox.To(ship.Administrator),
            mail => mail.Message.Subject!.Contains("code", StringComparison.Ordinal)
        );
        var malformed = await browser.PostAsJsonAsync(
            "/api/v1/sessions/codes",
            new SignInCodeRequest("ines")
        );
        Assert.Equal(HttpStatusCode.UnprocessableEntity, malformed.StatusCode);
    }

    private async Task<string> CodeInAsync(Ship ship, string address, int mails = 1)
    {
        for (var tries = 0; tries < 200; tries++, await Task.Delay(50))
        {
            var codes = harbour
                .Inbox.To(address)
                .Where(mail => mail.Message.Subject == "Your code to sign in")
                .ToList();
            if (codes.Count == mails)
                return CodePattern().Match(codes[0].Message.TextBody!).Value;
        }
        throw new TimeoutException($"No code came to {address} of {ship.Name}.");
    }

    private static string Wrong(string code) => $"{(int.Parse(code) + 1) % 100_000_000:D8}";

    [GeneratedRegex("[0-9]{8}")]
    private static partial Regex CodePattern();

    [Fact]
    public async Task What_no_authenticator_has_answered_makes_no_passkey_and_lets_nobody_in()
    {
        var (ship, ines) = await AboardAsync("ines");
        var bo = ship.Address("bo");
        await ship.BringAboardAsync(bo);
        using var here = await ship.BrowserOfAsync(ines);
        using var other = await ship.BrowserOfAsync(bo);
        var nonsense = JsonDocument
            .Parse(
                """{"id":"AAAA","rawId":"AAAA","type":"public-key","response":{"clientDataJSON":"e30","attestationObject":"e30","authenticatorData":"e30","signature":"e30"},"clientExtensionResults":{}}"""
            )
            .RootElement;

        var begun = await BeginAsync(here);
        Assert.Equal(ines, begun.Options.GetProperty("user").GetProperty("name").GetString());
        Assert.Equal(
            "required",
            begun.Options.GetProperty("authenticatorSelection").GetProperty("userVerification").GetString()
        );
        // What one was asked nobody else answers; an answer counts once, right or wrong.
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await AddAsync(other, begun.Id));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await AddAsync(here, begun.Id));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await AddAsync(here, begun.Id));
        Assert.Equal(HttpStatusCode.UnprocessableEntity, await AddAsync(here, Guid.NewGuid()));
        await using (var rows = harbour.Database.Open())
            Assert.False(await rows.Ceremonies.AnyAsync(c => c.Id == begun.Id));
        Assert.Single((await ShowAsync(here)).WaysIn);

        using var stranger = Browser.At(harbour.OtherNode);
        var asked = await stranger.PostAsync(
            new Uri("/api/v1/sessions/passkey-options", UriKind.Relative),
            null
        );
        var ceremony = (await asked.Content.ReadFromJsonAsync<CeremonyView>())!;
        // Whose passkey it is is not asked, and nothing tells who has any.
        Assert.Empty(ceremony.Options.GetProperty("allowCredentials").EnumerateArray());
        foreach (var id in (Guid[])[ceremony.Id, ceremony.Id, Guid.NewGuid(), (await BeginAsync(here)).Id])
        {
            var answer = await stranger.PostAsJsonAsync(
                "/api/v1/sessions/by-passkey",
                new PasskeySignInRequest(id, nonsense)
            );
            Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
            Assert.Contains(
                "sign-in.passkey-wrong",
                await answer.Content.ReadAsStringAsync(),
                StringComparison.Ordinal
            );
        }
        // Nobody without a sign-in, and no token, begins to make one.
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (
                await stranger.PostAsync(new Uri("/api/v1/me/passkeys/options", UriKind.Relative), null)
            ).StatusCode
        );
        Assert.Equal(
            HttpStatusCode.NotFound,
            (
                await here.SendAsync(HttpMethod.Delete, $"/api/v1/me/passkeys/{Guid.NewGuid()}", new { })
            ).StatusCode
        );

        async Task<CeremonyView> BeginAsync(HttpClient browser)
        {
            var answer = await browser.SendAsync(HttpMethod.Post, "/api/v1/me/passkeys/options", new { });
            return (await answer.Content.ReadFromJsonAsync<CeremonyView>())!;
        }
        async Task<HttpStatusCode> AddAsync(HttpClient browser, Guid id) =>
            (
                await browser.SendAsync(
                    HttpMethod.Post,
                    "/api/v1/me/passkeys",
                    new PasskeyRequest(id, nonsense, "telephone")
                )
            ).StatusCode;
    }

    /// <summary>A change as a browser's script asks for it.</summary>
}
