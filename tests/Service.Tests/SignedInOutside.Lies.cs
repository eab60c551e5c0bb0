using System.Net;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Standins.SignIn;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

// Providers that lie, answers that are somebody else's, and administrators who go too far.
public abstract partial class SignedInOutside
{
    public static TheoryData<string> Lies =>
        [
            "unsigned",
            "foreign key",
            "another issuer",
            "another audience",
            "over",
            "another question",
            "no subject",
            "says nothing of who it is",
            "says it is another",
        ];

    [Theory]
    [MemberData(nameof(Lies))]
    public async Task A_providers_answer_that_is_not_right_lets_nobody_in(string lie)
    {
        var (house, domain, _) = await HouseAsync();
        var nuno = Known("nuno", domain);
        await house.InviteAsync(nuno.Address);
        using var browser = Browser.At(harbour.Node);
        Tell(lie);
        var said = await RefusedAsync(browser, nuno);
        Assert.Contains("its answer was not right", said, StringComparison.Ordinal);
        Assert.False(await IsThereAsync(nuno.Address));
        Tell("");
        Assert.Equal("/places", await InAsync(browser, nuno));
    }

    private void Tell(string lie)
    {
        _provider.IsUnsigned = lie == "unsigned";
        _provider.HasForeignKey = lie == "foreign key";
        _provider.SaysItIs = issuer =>
            lie == "says nothing of who it is" ? null
            : lie == "says it is another" ? "https://sign-in.elsewhere.example"
            : issuer;
        _provider.Twist = claims =>
        {
            switch (lie)
            {
                case "another issuer":
                    claims["iss"] = "https://sign-in.elsewhere.example";
                    break;
                case "another audience":
                    claims["aud"] = "somebody-else";
                    break;
                case "over":
                    claims["exp"] = DateTimeOffset.UtcNow.AddHours(-1).ToUnixTimeSeconds();
                    break;
                case "another question":
                    claims["nonce"] = "seen before";
                    break;
                case "no subject":
                    claims.Remove("sub");
                    break;
            }
        };
    }

    [Fact]
    public async Task An_address_counts_only_with_the_word_that_it_is_verified_and_only_at_the_proved_domain()
    {
        var (house, domain, _) = await HouseAsync();
        var unverified = Known("nuno", domain, isVerified: false);
        await house.InviteAsync(unverified.Address);
        using var browser = Browser.At(harbour.Node);
        Assert.Contains("does not vouch", await RefusedAsync(browser, unverified), StringComparison.Ordinal);

        // Somebody of another house, at whose domain the provider has nothing to say.
        var other = await harbour.NewShipAsync();
        var mira = _provider.People["mira"] = new KnownPerson("mira", "Mira", other.Administrator);
        var asked = await AskedAsync(browser, unverified);
        var answer = await BackAsync(browser, asked, mira);
        Assert.Contains(
            "not at a domain your organisation's sign-in counts for",
            await BodyOf(answer),
            StringComparison.Ordinal
        );
        // And by its own domain nobody of that house is found.
        Assert.Contains(
            "No organisation's sign-in is known",
            await BodyOf(
                await browser.FormAsync(
                    "/sign-in",
                    "/sign-in/outside",
                    new() { ["address"] = other.Administrator }
                )
            ),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task An_answer_counts_once_in_the_browser_that_asked_and_for_the_provider_that_was_asked()
    {
        var (house, domain, provider) = await HouseAsync();
        var nuno = Known("nuno", domain);
        await house.InviteAsync(nuno.Address);
        using var browser = Browser.At(harbour.Node);
        using var thief = Browser.At(harbour.Node);
        var answer = (await AnswerAsync(await AskedAsync(browser, nuno), nuno)).PathAndQuery;
        // In another browser.
        await FailsAsync(thief, answer);
        // At another provider's door.
        var (_, _, elsewhere) = await HouseAsync();
        await FailsAsync(
            browser,
            answer.Replace(provider.Id.ToString("N"), elsewhere.Id.ToString("N"), StringComparison.Ordinal)
        );
        await FailsAsync(browser, answer[..answer.IndexOf("state=", StringComparison.Ordinal)]);
        var landed = await browser.GetAsync(new Uri(answer, UriKind.Relative));
        Assert.Equal("/places", landed.Headers.Location?.OriginalString);
        await FailsAsync(browser, answer);
        // Whoever says no over there is told so.
        var asked = await AskedAsync(thief, nuno);
        var state = asked.Query.Split("state=")[1].Split('&')[0];
        var denied = await thief.GetAsync(
            new Uri(
                $"/sign-in/from/{provider.Id:N}?error=access_denied&error_description=%3Cb%3Eboo&state={state}&iss={Uri.EscapeDataString(_provider.Issuer)}",
                UriKind.Relative
            )
        );
        var said = await BodyOf(denied);
        Assert.Contains("did not sign you in", said, StringComparison.Ordinal);
        Assert.DoesNotContain("boo", said, StringComparison.Ordinal);
        // Nobody is sent anywhere else afterwards.
        using var lured = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(lured, nuno, next: "//elsewhere.example/"));
    }

    private static async Task FailsAsync(HttpClient browser, string path)
    {
        var answer = await browser.GetAsync(new Uri(path, UriKind.Relative));
        Assert.Equal(HttpStatusCode.Unauthorized, answer.StatusCode);
        Assert.Contains("its answer was not right", await BodyOf(answer), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_provider_is_added_only_as_what_it_says_it_is_and_for_what_the_workspace_has_proved()
    {
        var (house, domain, provider) = await HouseAsync();
        var wish = Wish(domain) with { Name = "Another" };
        await RefusesAsync("provider.domain-taken", wish);
        await RefusesAsync("provider.domain-not-proved", wish with { Domains = ["harbour.example"] });
        await RefusesAsync("provider.no-domain", wish with { Domains = [] });
        await RefusesAsync("provider.exists", Wish(domain));
        await RefusesAsync("provider.client-missing", wish with { ClientId = " " });
        await RefusesAsync("provider.no-link", wish with { JoinLink = "no such link" });
        await RefusesAsync("provider.unreachable", wish with { Issuer = "http://127.0.0.1:9/" });
        await RefusesAsync("provider.other-issuer", wish with { Issuer = _provider.Issuer + "/" });
        // One that calls itself as another is, so as to speak for it.
        _provider.CallsItself = _ => "https://sign-in.elsewhere.example";
        await RefusesAsync("provider.other-issuer", wish);
        _provider.CallsItself = issuer => issuer;
        foreach (
            var malformed in new[]
            {
                "",
                "harbour.example",
                "ftp://harbour.example",
                "https://user@harbour.example",
                "https://harbour.example?x=1",
            }
        )
            await RefusesAsync("provider.issuer-malformed", wish with { Issuer = malformed });
        // Another house neither sees nor changes it.
        var other = await harbour.NewShipAsync();
        Assert.Empty((await other.Client.ProvidersAsync()).Items);
        Assert.Equal(
            "not-found",
            await Refusing.CodeOf(other.Client.RemoveProviderAsync(provider.Id.ToString()))
        );
        // Its secret is nowhere to be read.
        await using var rows = harbour.Database.Open(house.Id);
        Assert.DoesNotContain(
            ProviderStandin.ClientSecret,
            (await rows.Providers.SingleAsync()).Secret,
            StringComparison.Ordinal
        );

        var tried = await house.Client.RemoveProviderAsync(provider.Name, dryRun: true);
        Assert.Equal(provider.Id, tried.Id);
        Assert.Single((await house.Client.ProvidersAsync()).Items);
        await house.Client.RemoveProviderAsync(provider.Name);
        using var browser = Browser.At(harbour.Node);
        Assert.Contains(
            "No organisation's sign-in is known",
            await BodyOf(
                await browser.FormAsync(
                    "/sign-in",
                    "/sign-in/outside",
                    new() { ["address"] = "nuno@" + domain }
                )
            ),
            StringComparison.Ordinal
        );

        async Task RefusesAsync(string code, ProviderRequest request) =>
            Assert.Equal(code, await Refusing.CodeOf(house.Client.AddProviderAsync(request)));
    }

    [Fact]
    public async Task A_provider_that_is_away_is_said_to_be_and_one_whose_domain_is_lost_counts_no_more()
    {
        var (house, domain, _) = await HouseAsync();
        var nuno = Known("nuno", domain);
        await house.InviteAsync(nuno.Address);
        using var browser = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(browser, nuno));
        await using (var rows = harbour.Database.Open(house.Id))
            await rows.Domains.ExecuteUpdateAsync(set =>
                set.SetProperty(d => d.MissingSince, harbour.Clock.GetUtcNow().AddDays(-1))
            );
        // While it lapses whoever has come comes on, and nobody new does.
        using var again = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(again, nuno));
        var rui = Known("rui", domain);
        await house.InviteAsync(rui.Address);
        Assert.Contains("not at a domain", await RefusedAsync(again, rui), StringComparison.Ordinal);
        await using (var rows = harbour.Database.Open(house.Id))
            await rows.Domains.ExecuteUpdateAsync(set =>
                set.SetProperty(d => d.MissingSince, harbour.Clock.GetUtcNow().AddDays(-15))
            );
        var asked = await again.FormAsync(
            "/sign-in",
            "/sign-in/outside",
            new() { ["address"] = nuno.Address }
        );
        Assert.Contains("No organisation's sign-in", await BodyOf(asked), StringComparison.Ordinal);

        var (_, elsewhere, _) = await HouseAsync();
        await _provider.DisposeAsync();
        _provider = await ProviderStandin.StartAsync("Harbour Museum");
        using var late = Browser.At(harbour.OtherNode);
        var away = await late.FormAsync(
            "/sign-in",
            "/sign-in/outside",
            new() { ["address"] = "nuno@" + elsewhere }
        );
        Assert.Contains("does not answer", await BodyOf(away), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Of_many_who_come_at_once_by_one_identity_one_account_is_made()
    {
        var (house, domain, _) = await HouseAsync();
        var nuno = Known("nuno", domain);
        await house.InviteAsync(nuno.Address);
        var browsers = Enumerable
            .Range(0, 6)
            .Select(n => Browser.At(n % 2 == 0 ? harbour.Node : harbour.OtherNode))
            .ToList();
        var answers = new List<string>();
        foreach (var browser in browsers)
            answers.Add((await AnswerAsync(await AskedAsync(browser, nuno), nuno)).PathAndQuery);
        var landed = await Task.WhenAll(
            browsers.Select((browser, n) => browser.GetAsync(new Uri(answers[n], UriKind.Relative)))
        );
        Assert.Contains(landed, answer => answer.Headers.Location?.OriginalString == "/places");
        Assert.All(landed, answer => Assert.True((int)answer.StatusCode < 500));
        await using var rows = harbour.Database.Open();
        Assert.Equal(1, await rows.Accounts.CountAsync(a => a.Address == nuno.Address));
        foreach (var browser in browsers)
            browser.Dispose();
    }
}
