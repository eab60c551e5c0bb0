using System.Net;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Tests.World;
using ComeAboard.Standins.SignIn;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class SignedInOutside_on_SQLite(SqliteHarbour harbour)
    : SignedInOutside(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class SignedInOutside_on_PostgreSQL(PostgresHarbour harbour)
    : SignedInOutside(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Signing in by another organisation's provider, and how far its word goes.</summary>
public abstract partial class SignedInOutside(Harbour harbour) : IAsyncLifetime
{
    private readonly NameServer _dns = new(harbour.Dns);
    private static int _names;
    private ProviderStandin _provider = null!;

    public async ValueTask InitializeAsync()
    {
        await _dns.StartAsync();
        _provider = await ProviderStandin.StartAsync("Harbour Museum");
        _provider.AskedAt = harbour.Clock.GetUtcNow;
    }

    public async ValueTask DisposeAsync()
    {
        await _provider.DisposeAsync();
        await _dns.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    [Fact]
    public async Task Whoever_is_invited_comes_in_by_their_own_organisation_and_comes_again()
    {
        var (house, domain, provider) = await HouseAsync();
        Assert.Equal(
            (_provider.Issuer, true, 0, ""),
            (provider.Issuer, provider.HasSecret, provider.UsedBy, provider.JoinLink)
        );
        Assert.EndsWith(
            "/sign-in/from/" + provider.Id.ToString("N"),
            provider.RedirectUri,
            StringComparison.Ordinal
        );
        var nuno = Known("nuno", domain);
        using var browser = Browser.At(harbour.Node);
        Assert.Contains("Nobody has invited", await RefusedAsync(browser, nuno), StringComparison.Ordinal);
        Assert.False(await IsThereAsync(nuno.Address));

        await house.InviteAsync(nuno.Address);
        Assert.Equal("/places", await InAsync(browser, nuno));
        var account = await browser.GetStringAsync("/account");
        Assert.Contains("Sign-in by Harbour Museum", account, StringComparison.Ordinal);
        Assert.Contains("by your organisation", account, StringComparison.Ordinal);
        var person = await PersonAsync(house, nuno.Address);
        Assert.Equal(("guest", "Nuno of Harbour"), (person.Kind, person.Name));
        Assert.Equal(1, (await house.Client.ProvidersAsync()).Items.Single().UsedBy);

        // On the other node, in another browser: the same account.
        using var again = Browser.At(harbour.OtherNode);
        Assert.Equal("/account", await InAsync(again, nuno, next: "/account"));
        // A name or address that changes over there changes nothing here: who they are does not depend on it.
        Known(nuno.Subject, "elsewhere.example");
        Assert.Equal("/places", await InAsync(again, nuno with { Address = nuno.Address }));
        Assert.Equal(nuno.Address, (await PersonAsync(house, nuno.Address)).Address);
    }

    [Fact]
    public async Task Where_the_workspace_says_so_whoever_the_provider_vouches_for_joins_by_a_link()
    {
        var (house, domain, provider) = await HouseAsync();
        var link = await house.Client.AddLinkAsync(
            new JoinLinkRequest("Museum people", "guest", "view", Cap: 2)
        );
        await house.Client.ChangeProviderAsync(
            provider.Name,
            new ProviderRequest(
                provider.Name,
                "",
                ProviderStandin.ClientId,
                Domains: [domain],
                JoinLink: "Museum people"
            )
        );
        var (ana, rui, eva) = (Known("ana", domain), Known("rui", domain), Known("eva", domain));
        using var browser = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(browser, ana));
        Assert.Equal("guest", (await PersonAsync(house, ana.Address)).Kind);
        await house.MailAsync(ana.Address, "aboard");
        // Nothing was waited for, so nothing was mailed that asks.
        Assert.Single(harbour.Inbox.To(ana.Address));
        using var other = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(other, rui));
        // It has no more places.
        using var third = Browser.At(harbour.Node);
        Assert.Contains("link", await RefusedAsync(third, eva), StringComparison.Ordinal);
        Assert.False(await IsThereAsync(eva.Address));
        Assert.Equal(2, (await house.Client.LinkAsync(link.Link.Id)).Uses);
    }

    [Fact]
    public async Task An_account_of_somebodys_own_is_opened_only_once_its_holder_adds_that_way_in()
    {
        var (house, domain, _) = await HouseAsync();
        var oona = "oona@" + domain;
        await house.BringAboardAsync(oona);
        var there = Known("oona", domain);
        using var outside = Browser.At(harbour.Node);
        Assert.Contains(
            "only its holder can add this way in",
            await RefusedAsync(outside, there),
            StringComparison.Ordinal
        );

        using var browser = await house.BrowserOfAsync(oona);
        Assert.Contains(
            "Add sign-in by Harbour Museum",
            await browser.GetStringAsync("/account"),
            StringComparison.Ordinal
        );
        // Somebody else's identity is not tied to it, whoever sits at the browser.
        var stranger = Known("stranger", domain);
        Assert.Contains(
            "does not vouch for an address of this account",
            await BodyOf(await TieAsync(browser, stranger)),
            StringComparison.Ordinal
        );
        Assert.Equal("/account", (await TieAsync(browser, there)).Headers.Location?.OriginalString);
        Assert.Contains(
            "Sign-in by Harbour Museum was added.",
            await house.MailAsync(oona, "has changed"),
            StringComparison.Ordinal
        );
        Assert.DoesNotContain(
            "Add sign-in by",
            await browser.GetStringAsync("/account"),
            StringComparison.Ordinal
        );
        Assert.Equal("/places", await InAsync(outside, there));

        // What is dangerous asks anew: who it is to the provider shows it, if it asked just now.
        await harbour.LetPassAsync(TimeSpan.FromMinutes(11));
        var page = await outside.GetStringAsync("/confirm?next=/account");
        Assert.Contains("Show it by Harbour Museum", page, StringComparison.Ordinal);
        _provider.AskedAt = () => harbour.Clock.GetUtcNow().AddHours(-1);
        Assert.Contains(
            "did not ask you anew",
            await BodyOf(await ConfirmAsync(outside, there)),
            StringComparison.Ordinal
        );
        _provider.AskedAt = harbour.Clock.GetUtcNow;
        Assert.Contains(
            "nobody who can sign in to this account",
            await BodyOf(await ConfirmAsync(outside, stranger)),
            StringComparison.Ordinal
        );
        Assert.Equal("/account", (await ConfirmAsync(outside, there)).Headers.Location?.OriginalString);

        var id = await CredentialAsync(oona);
        Assert.Equal(
            "/account",
            (await outside.FormAsync("/account", "/account/outside/remove", new() { ["id"] = id.ToString() }))
                .Headers
                .Location
                ?.OriginalString
        );
        using var later = Browser.At(harbour.Node);
        Assert.Contains("only its holder", await RefusedAsync(later, there), StringComparison.Ordinal);
    }

    [Fact]
    public async Task An_account_in_the_workspaces_custody_is_tied_by_itself_and_its_second_step_still_asked_for()
    {
        var (house, domain, _) = await HouseAsync();
        var kofi = "kofi@" + domain;
        await house.BringAboardAsync(kofi);
        await using (var rows = harbour.Database.Open())
        {
            var id = await rows.Accounts.Where(a => a.Address == kofi).Select(a => a.Id).FirstAsync();
            await rows
                .Accounts.Where(a => a.Id == id)
                .ExecuteUpdateAsync(set => set.SetProperty(a => a.CustodyId, house.Id));
            rows.Credentials.Add(
                new CredentialRow
                {
                    AccountId = id,
                    Id = Guid.CreateVersion7(),
                    Kind = CredentialKind.TimeCode,
                    Label = "",
                    Secret = "sealed",
                    MadeAt = harbour.Clock.GetUtcNow(),
                }
            );
            await rows.SaveChangesAsync();
        }
        using var browser = Browser.At(harbour.Node);
        Assert.StartsWith(
            "/sign-in/step",
            await InAsync(browser, Known("kofi", domain)),
            StringComparison.Ordinal
        );
        Assert.Contains(
            "Sign-in by Harbour Museum was added.",
            await house.MailAsync(kofi, "has changed"),
            StringComparison.Ordinal
        );
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (await browser.GetAsync(new Uri("/api/v1/me", UriKind.Relative))).StatusCode
        );
    }

    [Fact]
    public async Task A_workspace_that_gives_custody_up_opens_the_account_no_more()
    {
        var (house, domain, _) = await HouseAsync();
        var rafael = "rafael@" + domain;
        await house.BringAboardAsync(rafael);
        await using (var rows = harbour.Database.Open())
            await rows
                .Accounts.Where(a => a.Address == rafael)
                .ExecuteUpdateAsync(set => set.SetProperty(a => a.CustodyId, house.Id));
        var there = Known("rafael", domain);
        using var browser = Browser.At(harbour.Node);
        Assert.Equal("/places", await InAsync(browser, there));
        Assert.Equal("/places", await InAsync(browser, there));
        var released = await house.Client.ClaimStepAsync(new ClaimStepRequest("release", [rafael]));
        Assert.True(Assert.Single(released.Results).Done);
        using var later = Browser.At(harbour.Node);
        Assert.Contains(
            "only its holder can add",
            await RefusedAsync(later, there),
            StringComparison.Ordinal
        );
        using var own = await house.BrowserOfAsync(rafael);
        Assert.Contains(
            "Sign-in by Harbour Museum was removed.",
            await own.GetStringAsync("/account"),
            StringComparison.Ordinal
        );
    }

    private async Task<(Ship House, string Domain, ProviderView Provider)> HouseAsync()
    {
        var (ship, domain) = (
            await harbour.NewShipAsync(),
            $"museum-{Interlocked.Increment(ref _names)}.example"
        );
        await ship.ProveAsync(domain, _dns);
        return (ship, domain, await ship.Client.AddProviderAsync(Wish(domain)));
    }

    private ProviderRequest Wish(string domain) =>
        new(
            "Harbour Museum",
            _provider.Issuer,
            ProviderStandin.ClientId,
            ProviderStandin.ClientSecret,
            [domain]
        );

    private KnownPerson Known(string name, string domain, bool isVerified = true) =>
        _provider.People[name] = new KnownPerson(
            name,
            char.ToUpperInvariant(name[0]) + name[1..] + " of Harbour",
            $"{name}@{domain}",
            isVerified
        );

    /// <summary>Where somebody lands who signs in by the provider.</summary>
    private async Task<string?> InAsync(HttpClient browser, KnownPerson person, string next = "")
    {
        var landed = await ComeAsync(browser, person, next);
        Assert.True(
            landed.StatusCode is HttpStatusCode.Found or HttpStatusCode.Redirect,
            await landed.Content.ReadAsStringAsync()
        );
        return landed.Headers.Location?.OriginalString;
    }

    private async Task<string> RefusedAsync(HttpClient browser, KnownPerson person)
    {
        var answer = await ComeAsync(browser, person);
        Assert.True((int)answer.StatusCode >= 400, answer.StatusCode.ToString());
        return await BodyOf(answer);
    }

    private static async Task<string> BodyOf(HttpResponseMessage answer) =>
        WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());

    private async Task<HttpResponseMessage> ComeAsync(
        HttpClient browser,
        KnownPerson person,
        string next = ""
    ) => await BackAsync(browser, await AskedAsync(browser, person, next), person);

    private async Task<HttpResponseMessage> TieAsync(HttpClient browser, KnownPerson person) =>
        await BackAsync(
            browser,
            await OnwardAsync(
                await browser.FormAsync(
                    "/account",
                    "/account/outside",
                    new() { ["provider"] = await IdAsync() }
                )
            ),
            person
        );

    private async Task<HttpResponseMessage> ConfirmAsync(HttpClient browser, KnownPerson person) =>
        await BackAsync(
            browser,
            await OnwardAsync(
                await browser.FormAsync(
                    "/account",
                    "/confirm/outside?next=%2Faccount",
                    new() { ["provider"] = await IdAsync() }
                )
            ),
            person
        );

    /// <summary>The question with which a browser is sent on.</summary>
    private static async Task<Uri> AskedAsync(HttpClient browser, KnownPerson person, string next = "") =>
        await OnwardAsync(
            await browser.FormAsync(
                "/sign-in",
                "/sign-in/outside",
                new() { ["address"] = person.Address, ["next"] = next }
            )
        );

    private static async Task<Uri> OnwardAsync(HttpResponseMessage answer)
    {
        Assert.True(
            answer.Headers.TryGetValues("Refresh", out var refresh),
            await answer.Content.ReadAsStringAsync()
        );
        return new Uri(refresh.Single()["0; url=".Length..]);
    }

    /// <summary>The answer of the provider, with which a browser comes back.</summary>
    private async Task<Uri> AnswerAsync(Uri asked, KnownPerson person)
    {
        using var there = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false });
        var granted = await there.GetAsync(
            new Uri(_provider.Issuer + "/authorize/" + person.Subject + asked.Query)
        );
        return granted.Headers.Location!;
    }

    private async Task<HttpResponseMessage> BackAsync(HttpClient browser, Uri asked, KnownPerson person) =>
        await browser.GetAsync(new Uri((await AnswerAsync(asked, person)).PathAndQuery, UriKind.Relative));

    private async Task<string> IdAsync()
    {
        await using var rows = harbour.Database.Open();
        return (
            await rows
                .Providers.IgnoreQueryFilters()
                .Where(p => p.Issuer == _provider.Issuer)
                .OrderByDescending(p => p.Id)
                .Select(p => p.Id)
                .FirstAsync()
        ).ToString();
    }

    private static async Task<PersonView> PersonAsync(Ship house, string address) =>
        Assert.Single((await house.Client.PeopleAsync(search: address)).Items);

    private async Task<bool> IsThereAsync(string address)
    {
        await using var rows = harbour.Database.Open();
        return await rows.Accounts.AnyAsync(a => a.Address == address);
    }

    private async Task<Guid> CredentialAsync(string address)
    {
        await using var rows = harbour.Database.Open();
        return await (
            from way in rows.Credentials
            join account in rows.Accounts on way.AccountId equals account.Id
            where account.Address == address && way.Kind == CredentialKind.OutsideIdentity
            select way.Id
        ).FirstAsync();
    }
}
