using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <content>What a workspace may do with the accounts it holds.</content>
public abstract partial class Claiming
{
    [Fact]
    public async Task Whoever_invites_somebody_whose_account_at_our_domain_is_their_own_is_told_and_led_to_the_claim()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        var wish = new InvitationRequest(oona, "guest", "view");
        var preview = await house.Client.PreviewInvitationAsync(wish);
        Assert.Equal((true, "personal"), (preview.Ready, preview.Verdict));
        Assert.Contains(
            "aboard claims ask " + oona,
            Assert.Single(preview.Notes, note => note.Code == "address.held-personally").Sentence,
            StringComparison.Ordinal
        );
        var listed = await CheckAsync(oona, "new@" + domain);
        Assert.Equal(
            ["personal", "ready"],
            listed.Items.OrderBy(entry => entry.Number).Select(entry => entry.Verdict)
        );
        var pasted = await house.Client.CheckPastedAsync(
            new PastedRequest($"Oona <{oona}>", null, new BatchDefaults(Kind: "guest", Role: "view"))
        );
        Assert.Equal(1, pasted.Counts["personal"]);
        Assert.Single(Assert.Single(pasted.Items).Notes, note => note.Code == "address.held-personally");

        // Of other people's domains nothing is told.
        var stranger = await harbour.NewShipAsync();
        var elsewhere = await stranger.Client.PreviewInvitationAsync(wish);
        Assert.Equal("ready", elsewhere.Verdict);
        Assert.DoesNotContain(elsewhere.Notes, note => note.Code == "address.held-personally");

        // It can be invited all the same; and in custody there is nothing to ask.
        await house.Client.AddBatchAsync(FileOf(oona), "crew.csv", new BatchDefaults(), true);
        var invited = await Patience.UntilAsync(
            () => house.Client.InvitationsAsync(search: oona),
            found => found.Items.Count == 1
        );
        Assert.Single(invited.Items);
        await using (var rows = harbour.Database.Open())
            await rows
                .Accounts.Where(a => a.Address == oona)
                .ExecuteUpdateAsync(set => set.SetProperty(a => a.CustodyId, house.Id));
        var other = await house.Client.PreviewInvitationAsync(wish with { Address = "x" + oona });
        Assert.Equal("ready", other.Verdict);

        Task<BatchCheck> CheckAsync(params string[] addresses) =>
            house.Client.CheckBatchAsync(FileOf(addresses), "crew.csv", new BatchDefaults());

        static MemoryStream FileOf(params string[] addresses) =>
            new(
                System.Text.Encoding.UTF8.GetBytes(
                    "Address,Kind,Role\n" + string.Concat(addresses.Select(one => one + ",guest,view\n"))
                )
            );
    }

    [Fact]
    public async Task An_account_is_made_outright_at_a_proved_domain_and_set_up_by_a_link_that_counts_once()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        foreach (
            var (address, code) in new[]
            {
                ("wilma@elsewhere.example", "domain.not-shown"),
                ("wilma@sub." + domain, "domain.not-shown"),
                (oona, "account.exists"),
                (house.Administrator, "domain.not-shown"),
                ("nothing", "address.malformed"),
            }
        )
            Assert.Equal(
                code,
                await Refusing.CodeOf(
                    house.Client.AddAccountAsync(new HeldAccountRequest(address, "Wilma Deck"))
                )
            );
        var wilma = "wilma@" + domain;
        Assert.Equal(
            "name.missing",
            await Refusing.CodeOf(house.Client.AddAccountAsync(new HeldAccountRequest(wilma, " ")))
        );
        await house.Client.AddAccountAsync(new HeldAccountRequest(wilma, "Wilma Deck"), dryRun: true);
        var made = await house.Client.AddAccountAsync(new HeldAccountRequest(wilma, "Wilma Deck"));
        Assert.Null(made.Sheet);
        Assert.Equal(
            "person.exists",
            await Refusing.CodeOf(house.Client.AddAccountAsync(new HeldAccountRequest(wilma, "Wilma Deck")))
        );
        var person = await house.Client.PersonAsync(wilma);
        Assert.Equal(("staff", "active", made.PersonId), (person.Kind, person.State, person.Id));
        var link = SetUpPattern().Match(await house.MailAsync(wilma, "Your account at")).Value;
        await SetUpAsync(link);
        using var browser = await house.BrowserOfAsync(wilma);
        var account = (await browser.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal("The Lantern Tide", account.Custody);
        Assert.NotNull(Assert.Single(account.Addresses).ProvedAt);
        // What it may do is given by nobody yet.
        Assert.Empty(Assert.Single((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.Places).Duties);
        Assert.Contains("taken", (await house.Client.ClaimAsync(wilma)).State, StringComparison.Ordinal);

        // A sheet proves no mailbox, and no mail is sent for it.
        var paul = "paul@" + domain;
        var sheet = (
            await house.Client.AddAccountAsync(new HeldAccountRequest(paul, "Paul <b>Deck</b>", true))
        ).Sheet!;
        Assert.DoesNotContain("<b>", sheet, StringComparison.Ordinal);
        Assert.Contains("<svg", sheet, StringComparison.Ordinal);
        await SetUpAsync(SetUpPattern().Match(sheet).Value);
        using var his = await house.BrowserOfAsync(paul);
        account = (await his.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal(
            [wilma, paul],
            (await house.Client.ClaimsAsync("taken")).Items.Select(one => one.Address)
        );
        Assert.Equal("taken", (await house.Client.ClaimAsync(paul)).State);
        Assert.Null(Assert.Single(account.Addresses).ProvedAt);
        Assert.DoesNotContain(
            harbour.Inbox.To(paul),
            mail => mail.Message.Subject!.Contains("Your account at")
        );
    }

    [Fact]
    public async Task Ways_in_are_reset_only_of_accounts_the_workspace_holds_and_by_who_may_act_on_the_person()
    {
        var (house, domain) = await HouseAsync();
        var wilma = "wilma@" + domain;
        await house.Client.AddAccountAsync(new HeldAccountRequest(wilma, "Wilma Deck"));
        await SetUpAsync(SetUpPattern().Match(await house.MailAsync(wilma, "Your account at")).Value);
        var guest = house.Address("ines");
        await house.BringAboardAsync(guest);
        var all = new ResetRequest(["second-step", "passkeys", "outside"]);
        Assert.Equal("account.not-held", await Refusing.CodeOf(house.Client.ResetAsync(guest, all)));
        Assert.Equal(
            "person.not-found",
            await Refusing.CodeOf(house.Client.ResetAsync("nobody@" + domain, all))
        );
        Assert.Equal("reset.nothing", await Refusing.CodeOf(house.Client.ResetAsync(wilma, all)));
        Assert.Equal(
            "reset.way-unknown",
            await Refusing.CodeOf(house.Client.ResetAsync(wilma, new ResetRequest(["password"])))
        );
        using var browser = await house.BrowserOfAsync(wilma);
        Guid id;
        await using (var rows = harbour.Database.Open())
        {
            id = await rows.Accounts.Where(a => a.Address == wilma).Select(a => a.Id).SingleAsync();
            rows.Credentials.Add(
                new()
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
        using var shut = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var sign = new SignInRequest(wilma, Ship.Password);
        Assert.Equal(
            HttpStatusCode.Accepted,
            (await shut.PostAsJsonAsync("/api/v1/sessions", sign)).StatusCode
        );
        Assert.Equal(1, (await house.Client.ResetAsync(wilma, all, dryRun: true)).Removed["second-step"]);
        Assert.Equal(
            HttpStatusCode.Accepted,
            (await shut.PostAsJsonAsync("/api/v1/sessions", sign)).StatusCode
        );
        var done = await house.Client.ResetAsync(wilma, all);
        Assert.Equal(1, done.Removed["second-step"]);
        Assert.True(done.SignInsClosed >= 1);
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal(
            HttpStatusCode.NoContent,
            (await shut.PostAsJsonAsync("/api/v1/sessions", sign)).StatusCode
        );
        Assert.Contains(
            "removed, for",
            await house.MailAsync(wilma, "has changed"),
            StringComparison.Ordinal
        );

        // While the domain lapses custody counts; once it is lost nothing may be done by it, and nothing else is lost.
        var record = (await house.Client.DomainsAsync()).Items.Single();
        await _dns.PutAsync(record.RecordName, null);
        await house.Client.CheckDomainAsync(domain);
        Assert.Equal("reset.nothing", await Refusing.CodeOf(house.Client.ResetAsync(wilma, all)));
        harbour.Clock.Offset += TimeSpan.FromDays(14);
        await house.Client.CheckDomainAsync(domain);
        Assert.Equal("account.not-held", await Refusing.CodeOf(house.Client.ResetAsync(wilma, all)));
        await _dns.PutAsync(record.RecordName, record.RecordValue);
        await house.Client.CheckDomainAsync(domain);
        Assert.Equal("reset.nothing", await Refusing.CodeOf(house.Client.ResetAsync(wilma, all)));
    }

    /// <summary>Opens a set-up link and chooses the usual password; the link is used up by that.</summary>
    private async Task SetUpAsync(string path)
    {
        using var browser = new HttpClient(
            new HttpClientHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() }
        )
        {
            BaseAddress = Harbour.UrlOf(harbour.Node),
        };
        var form = new Dictionary<string, string> { ["password"] = Ship.Password };
        Assert.Equal(HttpStatusCode.Redirect, (await browser.FormAsync(path, path, form)).StatusCode);
        Assert.Equal(HttpStatusCode.Conflict, (await browser.FormAsync("/places", path, form)).StatusCode);
    }

    [GeneratedRegex("/new-password/[A-Za-z0-9_-]{43}")]
    private static partial Regex SetUpPattern();
}
