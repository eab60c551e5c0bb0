using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Claiming_on_SQLite(SqliteHarbour harbour)
    : Claiming(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class Claiming_on_PostgreSQL(PostgresHarbour harbour)
    : Claiming(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Personally held accounts at a proved domain, and the question whether they come into custody: both sides.</summary>
public abstract partial class Claiming(Harbour harbour) : IAsyncLifetime
{
    private readonly NameServer _dns = new(harbour.Dns);
    private static int _names;

    public async ValueTask InitializeAsync() => await _dns.StartAsync();

    public async ValueTask DisposeAsync()
    {
        await _dns.DisposeAsync();
        GC.SuppressFinalize(this);
    }

    [Fact]
    public async Task An_account_comes_into_custody_by_its_holders_answer_and_both_sides_see_the_same()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        var found = Assert.Single((await house.Client.ClaimsAsync("found")).Items);
        Assert.Equal((oona, "found", 1, 0), (found.Address, found.State, found.Workspaces, found.Version));
        Assert.Equal(["ask"], found.Can);
        Assert.Equal(1, (await house.Client.OverviewAsync()).HeldPersonally);

        // Seen first, then done.
        var tried = await StepAsync(house, "ask", oona, isDry: true);
        Assert.True(tried.Done);
        Assert.Equal("found", (await house.Client.ClaimAsync(oona)).State);
        Assert.DoesNotContain(harbour.Inbox.To(oona), mail => mail.Message.Subject!.Contains("asks to hold"));
        var asked = (
            await StepAsync(house, "ask", oona, reason: "The house answers for its addresses.")
        ).Claim!;
        Assert.Equal(("asked", 1, 1), (asked.State, asked.Mails, asked.Version));
        Assert.Equal(TimeSpan.FromDays(14), asked.Deadline - asked.AskedAt);
        Assert.Equal("claim.step", (await StepAsync(house, "ask", oona)).Code);
        Assert.Equal("claim.asked-lately", (await StepAsync(house, "ask-again", oona)).Code);

        var secret = await LinkAsync(house, oona);
        using var anybody = new AboardClient(Harbour.UrlOf(harbour.Node));
        var offer = await anybody.ClaimOfferAsync(secret);
        Assert.Equal(
            ("asked", oona, "The house answers for its addresses.", 1),
            (offer.State, offer.Address, offer.Reason, offer.OtherWorkspaces)
        );
        // The link tells; only who shows the account answers.
        Assert.Equal(
            "password.wrong",
            await AnswerAsync(secret, new("come", Password: "something else entirely"))
        );
        using var stranger = await house.BrowserOfAsync(house.Administrator);
        Assert.Equal(
            "/sign-in",
            (
                await stranger.FormAsync("/places", "/claim/" + secret, new() { ["answer"] = "come" })
            ).Headers.Location?.OriginalString.Split('?')[0]
        );
        using var browser = await house.BrowserOfAsync(oona);
        var page = await browser.GetStringAsync("/account");
        Assert.Contains("/account/claims/", page, StringComparison.Ordinal);
        var path = ClaimPath().Match(page).Value;
        Assert.Contains("Come with everything", await browser.GetStringAsync(path), StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.NotFound, (await stranger.GetAsync(path)).StatusCode);
        // An old proof is asked for anew.
        harbour.Clock.Offset += TimeSpan.FromMinutes(11);
        var stale = await browser.FormAsync(path, path, new() { ["answer"] = "come" });
        Assert.StartsWith("/confirm?next=", stale.Headers.Location?.OriginalString, StringComparison.Ordinal);
        await browser.FormAsync("/confirm", "/confirm", new() { ["old"] = Ship.Password });
        var done = await browser.FormAsync(path, path, new() { ["answer"] = "come" });
        Assert.Contains(
            "in the custody of",
            await done.Content.ReadAsStringAsync(),
            StringComparison.Ordinal
        );

        var taken = await house.Client.ClaimAsync(oona);
        Assert.Equal(("taken", null), (taken.State, taken.Deadline));
        var account = (await browser.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal(("The Lantern Tide", 0), (account.Custody, account.Questions.Count));
        Assert.Equal("claim.over", await AnswerAsync(secret, new("decline", Password: Ship.Password)));
        await house.MailAsync(oona, "is held by");
        Assert.Empty((await house.Client.ClaimsAsync("found")).Items);
        var happened = (
            await browser.GetFromJsonAsync<Client.Workspaces.Page<AccountEventView>>(
                "/api/v1/me/account/history"
            )
        )!;
        Assert.Equal(
            ["account.claim.agreed", "account.claim.asked"],
            happened.Items.Where(one => one.Action.Contains("claim")).Select(one => one.Action)
        );
        Assert.Equal(
            ["claim.agreed", "claim.asked"],
            (await house.Client.RecordAsync())
                .Items.Where(one => one.Action.StartsWith("claim.", StringComparison.Ordinal))
                .Select(one => one.Action)
        );
        Assert.Equal("domain.in-use", await Refusing.CodeOf(house.Client.RemoveDomainAsync(domain)));

        // Custody can be given up, and then the account may be asked for again.
        Assert.Equal("dropped", (await StepAsync(house, "release", oona)).Claim!.State);
        account = (await browser.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal(("", oona), (account.Custody, account.Address));
        Assert.True((await StepAsync(house, "ask", oona)).Done);
    }

    [Fact]
    public async Task Who_comes_and_keeps_the_rest_has_two_accounts_afterwards()
    {
        var (house, domain) = await HouseAsync();
        var (other, oona) = await HolderAsync("oona", domain);
        await house.InviteAsync(oona, "staff", "edit");
        using var browser = await other.BrowserOfAsync(oona);
        await AcceptHeldAsync(browser, await house.SecretAsync(oona, 2));
        using var program = await other.ClientOfAsync(oona);
        await StepAsync(house, "ask", oona);
        var secret = await LinkAsync(house, oona);
        var keep = $"oona.own-{Interlocked.Increment(ref _names)}@mailhaven.example";
        var wish = new ClaimAnswerRequest("come-and-keep", keep, "", Ship.Password);
        Assert.Equal("claim.keep-unproved", await AnswerAsync(secret, wish));
        Assert.Equal("code.wrong", await AnswerAsync(secret, wish with { Code = "00000000" }));
        Assert.Equal("claim.keep-same", await AnswerAsync(secret, wish with { Keep = oona }));
        Assert.Equal("claim.keep-same", await AnswerAsync(secret, wish with { Keep = "x@" + domain }));
        using var anybody = new AboardClient(Harbour.UrlOf(harbour.Node));
        // Where nothing can be kept no code is mailed to, and the page says at once why; else that one is on its way.
        foreach (var there in (string[])[oona, "x@" + domain])
        {
            var refused = anybody.SendClaimCodeAsync(secret, new ClaimCodeRequest(there));
            Assert.Equal("claim.keep-same", await Refusing.CodeOf(refused));
            Assert.Contains(
                "data-code=\"claim.keep-same\"",
                await AskedAsync(there),
                StringComparison.Ordinal
            );
        }
        Assert.Contains($"A code is on its way to {keep}.", await AskedAsync(keep), StringComparison.Ordinal);
        var code = CodePattern().Match(await house.MailAsync(keep, "Your code for another address")).Value;
        // An address that is another's already is no place to keep anything.
        var taken = other.Administrator;
        await anybody.SendClaimCodeAsync(secret, new ClaimCodeRequest(taken));
        var theirs = CodePattern().Match(await house.MailAsync(taken, "Your code for another address")).Value;
        await ProveAsync(other, taken);
        Assert.Equal(
            "claim.keep-taken",
            await AnswerAsync(secret, wish with { Keep = taken, Code = theirs })
        );
        Assert.Equal("taken", (await anybody.AnswerClaimAsync(secret, wish with { Code = code })).State);

        using var own = await other.BrowserOfAsync(keep);
        var me = (await own.GetFromJsonAsync<MeView>("/api/v1/me"))!;
        Assert.Equal((keep, true), (me.Address, me.IsAddressProved));
        Assert.Equal(other.Name, Assert.Single(me.Places).Workspace);
        var held = (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!;
        Assert.Equal(house.Name, Assert.Single(held.Places).Workspace);
        // Programs go on in the workspace in which they count; its mail goes to the holder's own address.
        Assert.Equal(other.Name, Assert.Single((await program.WhoAmIAsync()).Places).Workspace);
        Assert.Equal("active", (await other.Client.PersonAsync(keep)).State);
        Assert.Contains(
            "member.address-changed",
            (await other.Client.RecordAsync()).Items.Select(one => one.Action)
        );
        Assert.DoesNotContain(
            (await house.Client.RecordAsync()).Items,
            one => one.Details?.ToString()?.Contains(other.Name) == true
        );
        Assert.Equal(0, (await house.Client.ClaimAsync(oona)).Workspaces);
        var history = (
            await own.GetFromJsonAsync<Client.Workspaces.Page<AccountEventView>>("/api/v1/me/account/history")
        )!;
        Assert.Contains(history.Items, one => one.Action == "account.split-from");

        async Task<string> AskedAsync(string to)
        {
            var page = "/claim/" + secret;
            var shown = await browser.FormAsync(page, page + "/code", new() { ["keep"] = to });
            return await shown.Content.ReadAsStringAsync();
        }
    }

    [Fact]
    public async Task After_a_no_the_address_alone_is_taken_back_and_everything_else_stays_the_holders()
    {
        var (house, domain) = await HouseAsync();
        var (other, oona) = await HolderAsync("oona", domain);
        await StepAsync(house, "ask", oona);
        Assert.Equal("claim.step", (await StepAsync(house, "release", oona)).Code);
        var secret = await LinkAsync(house, oona);
        using var anybody = new AboardClient(Harbour.UrlOf(harbour.Node));
        Assert.Equal(
            "declined",
            (await anybody.AnswerClaimAsync(secret, new("decline", Password: Ship.Password))).State
        );
        Assert.Equal("claim.asked-lately", (await StepAsync(house, "ask-again", oona)).Code);
        Assert.Equal("claim.step", (await StepAsync(house, "take", oona)).Code);
        Assert.Equal("released", (await StepAsync(house, "release", oona)).Claim!.State);
        var told = await house.MailAsync(oona, "is not an address of your account");
        var standIn = StandInPattern().Match(told).Value;

        // Nobody signs in by the old address any more; the stand-in with the same password does, everywhere else as before.
        using var browser = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        Assert.Equal(
            HttpStatusCode.Unauthorized,
            (
                await browser.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(oona, Ship.Password))
            ).StatusCode
        );
        using var own = await other.BrowserOfAsync(standIn);
        var me = (await own.GetFromJsonAsync<MeView>("/api/v1/me"))!;
        Assert.Equal((standIn, other.Name), (me.Address, Assert.Single(me.Places).Workspace));
        Assert.Equal(standIn, (await other.Client.PersonAsync(standIn)).Address);
        // They set one of their own: a code shows it to be theirs, and mail goes there from then on.
        var next = $"oona.next-{Interlocked.Increment(ref _names)}@mailhaven.example";
        await own.FormAsync("/account", "/account/addresses/code", new() { ["address"] = next });
        var code = CodePattern().Match(await house.MailAsync(next, "Your code for another address")).Value;
        foreach (
            var (step, form) in new (string, Dictionary<string, string>)[]
            {
                ("main", new() { ["address"] = next }),
                ("add", new() { ["address"] = next, ["code"] = "00000000" }),
            }
        )
            Assert.True(
                (int)(await own.FormAsync("/account", "/account/addresses/" + step, form)).StatusCode >= 400
            );
        await own.FormAsync(
            "/account",
            "/account/addresses/add",
            new() { ["address"] = next, ["code"] = code }
        );
        await own.FormAsync("/account", "/account/addresses/main", new() { ["address"] = next });
        var account = (await own.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal((next, next), (account.Address, Assert.Single(account.Addresses).Address));
        Assert.Equal(next, (await other.Client.PersonAsync(next)).Address);
        Assert.True(
            (int)
                (
                    await own.FormAsync("/account", "/account/addresses/remove", new() { ["address"] = next })
                ).StatusCode >= 400
        );
        // The address is free for somebody else.
        await house.InviteAsync(oona, "staff");
        await house.AcceptAsync(await house.SecretAsync(oona, 2), "Somebody new");
        Assert.Equal(2, (await house.Client.ClaimsAsync()).Items.Count);
        Assert.Equal("found", (await house.Client.ClaimAsync(oona)).State);
    }

    [Fact]
    public async Task Silence_means_what_the_holder_was_told()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        var rules = await house.Client.RulesAsync();
        await house.Client.ChangeRulesAsync(rules with { ClaimSilence = "take", Version = 0 });
        Assert.Equal("claim.notice-too-short", (await StepAsync(house, "ask", oona, notice: 13)).Code);
        await StepAsync(house, "ask", oona);
        // What the rule says later does not change what was told.
        await house.Client.ChangeRulesAsync(rules with { ClaimSilence = "release", Version = 0 });
        var secret = await LinkAsync(house, oona);
        foreach (var (days, mails) in new[] { (7, 2), (4, 3), (2, 4) })
        {
            await harbour.LetPassAsync(TimeSpan.FromDays(days));
            Assert.Equal(mails, (await house.Client.ClaimAsync(oona)).Mails);
        }
        // Each mail has a link of its own; those before are over.
        Assert.Equal("claim.over", await AnswerAsync(secret, new("come", Password: Ship.Password)));
        secret = await LinkAsync(house, oona, 4);
        await house.Client.CheckDomainAsync(domain);
        harbour.Clock.Offset += TimeSpan.FromDays(1);
        Assert.Equal("claim.over", await AnswerAsync(secret, new("come", Password: Ship.Password)));
        await harbour.LetPassAsync(TimeSpan.Zero);
        var claim = await house.Client.ClaimAsync(oona);
        Assert.Equal(("taken", 4), (claim.State, claim.Mails));
        // Whoever asked hears of it.
        var told = await house.MailAsync(house.Administrator, "the account is in custody");
        Assert.Contains("did not answer in time", told, StringComparison.Ordinal);
    }

    [Fact]
    public async Task Of_many_answers_at_once_one_counts()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        await StepAsync(house, "ask", oona);
        var secret = await LinkAsync(house, oona);
        var codes = await Task.WhenAll(
            Enumerable
                .Range(0, 10)
                .Select(n =>
                    AnswerAsync(
                        secret,
                        new(n % 2 == 0 ? "come" : "decline", Password: Ship.Password),
                        n % 3 == 0 ? harbour.OtherNode : harbour.Node
                    )
                )
        );
        Assert.Single(codes, code => code == "");
        Assert.All(codes.Where(code => code.Length > 0), code => Assert.Equal("claim.over", code));
        var state = (await house.Client.ClaimAsync(oona)).State;
        await house.MailAsync(house.Administrator, state == "taken" ? "is in custody" : "declined");
        Assert.Single(
            harbour.Inbox.To(house.Administrator),
            mail => mail.Message.TextBody!.Contains($"({oona}) answered.", StringComparison.Ordinal)
        );
        await using var rows = harbour.Database.Open();
        var held = await rows.Accounts.Where(a => a.Address == oona).Select(a => a.CustodyId).SingleAsync();
        Assert.Equal(state == "taken", held == house.Id);
    }

    [Fact]
    public async Task Nothing_is_told_or_done_beyond_ones_own_domains_and_nothing_by_a_domain_that_is_not_shown()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        var (elsewhere, stranger) = await HolderAsync("tom", "elsewhere.example");
        // One that only wrote such an address down is nobody's to claim.
        await using (var rows = harbour.Database.Open())
        {
            var id = await rows.Accounts.Where(a => a.Address == stranger).Select(a => a.Id).SingleAsync();
            rows.AccountAddresses.Add(
                new()
                {
                    AccountId = id,
                    AddressKey = "planted@" + domain,
                    Address = "planted@" + domain,
                }
            );
            await rows.SaveChangesAsync();
        }
        foreach (var address in new[] { stranger, "nobody@" + domain, "planted@" + domain })
        {
            Assert.Equal("claim.no-account", (await StepAsync(house, "ask", address)).Code);
            Assert.Equal("claim.no-account", await Refusing.CodeOf(house.Client.ClaimAsync(address)));
        }
        Assert.Equal("claim.not-at-once", (await StepAsync(house, "take", oona)).Code);
        var both = await house.Client.ClaimStepAsync(
            new ClaimStepRequest("ask", [oona, "not an address", stranger]),
            true
        );
        Assert.Equal([true, false, false], both.Results.Select(one => one.Done));
        Assert.Equal(
            "claim.action-unknown",
            await Refusing.CodeOf(house.Client.ClaimStepAsync(new("steal", [oona])))
        );
        Assert.Equal("claim.addresses", await Refusing.CodeOf(house.Client.ClaimStepAsync(new("ask", []))));
        Assert.Empty((await elsewhere.Client.ClaimsAsync()).Items);

        await StepAsync(house, "ask", oona);
        var secret = await LinkAsync(house, oona);
        var record = (await house.Client.DomainsAsync()).Items.Single();
        await _dns.PutAsync(record.RecordName, null);
        await house.Client.CheckDomainAsync(domain);
        harbour.Clock.Offset += TimeSpan.FromDays(1);
        Assert.Equal("domain.not-shown", (await StepAsync(house, "ask-again", oona)).Code);
        // A yes that comes meanwhile is kept, and takes effect when the domain is shown again.
        using var anybody = new AboardClient(Harbour.UrlOf(harbour.Node));
        Assert.Equal(
            "agreed",
            (await anybody.AnswerClaimAsync(secret, new("come", Password: Ship.Password))).State
        );
        Assert.Equal("domain.not-shown", (await StepAsync(house, "take", oona)).Code);
        await _dns.PutAsync(record.RecordName, record.RecordValue);
        await house.Client.CheckDomainAsync(domain);
        Assert.Equal("taken", (await StepAsync(house, "take", oona)).Claim!.State);
    }

    /// <summary>A workspace that has proved a domain.</summary>
    private async Task<(Ship, string Domain)> HouseAsync()
    {
        var house = await harbour.NewShipAsync();
        var domain = $"house-{Interlocked.Increment(ref _names)}.example";
        await house.ProveAsync(domain, _dns);
        return (house, domain);
    }

    /// <summary>Somebody with a personal account at a domain, in a workspace of others.</summary>
    private async Task<(Ship, string Address)> HolderAsync(string name, string domain)
    {
        var ship = await harbour.NewShipAsync();
        var address = $"{name}-{Interlocked.Increment(ref _names)}@{domain}";
        await ship.BringAboardAsync(address);
        return (ship, address);
    }

    private static async Task<ClaimResult> StepAsync(
        Ship house,
        string action,
        string address,
        int? notice = null,
        string? reason = null,
        bool isDry = false
    ) =>
        Assert.Single(
            (
                await house.Client.ClaimStepAsync(
                    new ClaimStepRequest(action, [address], notice, Reason: reason),
                    isDry
                )
            ).Results
        );

    /// <summary>The secret in the newest mail that asks.</summary>
    private async Task<string> LinkAsync(Ship house, string address, int mails = 1)
    {
        await Patience.UntilAsync(() => Task.FromResult(Asking().Count), count => count >= mails);
        return LinkPattern().Match(Asking()[0]).Groups[1].Value;

        List<string> Asking() =>
            [
                .. harbour
                    .Inbox.To(address)
                    .Where(mail => mail.Message.Subject!.Contains("asks to hold your account"))
                    .Select(mail => mail.Message.TextBody!),
            ];
    }

    /// <summary>The code of the refusal; empty for an answer that counted.</summary>
    private async Task<string> AnswerAsync(
        string secret,
        ClaimAnswerRequest answer,
        Microsoft.AspNetCore.Builder.WebApplication? node = null
    )
    {
        using var client = new AboardClient(Harbour.UrlOf(node ?? harbour.Node));
        try
        {
            await client.AnswerClaimAsync(secret, answer);
            return "";
        }
        catch (RefusedException refused)
        {
            return refused.Problem.Code;
        }
    }

    private async Task ProveAsync(Ship ship, string address)
    {
        using var browser = await ship.BrowserOfAsync(address);
        await using var rows = harbour.Database.Open();
        await rows
            .AccountAddresses.Where(a => a.Address == address)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.ProvedAt, harbour.Clock.GetUtcNow()));
    }

    private static async Task AcceptHeldAsync(HttpClient browser, string secret)
    {
        var answer = await browser.FormAsync("/i/" + secret, $"/i/{secret}/accept-held", []);
        Assert.True((int)answer.StatusCode < 400, answer.StatusCode.ToString());
    }

    [GeneratedRegex("/claim/([A-Za-z0-9_-]{43})")]
    private static partial Regex LinkPattern();

    [GeneratedRegex("/account/claims/[0-9a-f-]{36}")]
    private static partial Regex ClaimPath();

    [GeneratedRegex(@"\b\d{8}\b")]
    private static partial Regex CodePattern();

    [GeneratedRegex(@"account-[0-9a-f]{12}@released\.invalid")]
    private static partial Regex StandInPattern();
}
