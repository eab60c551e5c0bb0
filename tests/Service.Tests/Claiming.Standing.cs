using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <content>Seats of held accounts, questions in one sitting, accounts that are paused and closed, splits that are undone.</content>
public abstract partial class Claiming
{
    [Fact]
    public async Task Where_held_accounts_take_seats_a_claim_needs_one_and_gives_it_back_with_custody()
    {
        var (house, domain) = await HouseAsync();
        await house.Client.Pools.AddAsync(new PoolRequest("Berths", 1));
        var rules = await house.Client.RulesAsync();
        Assert.Equal(
            "pool.unknown",
            await Refusing.CodeOf(house.Client.ChangeRulesAsync(rules with { HeldSeats = "Bunks" }))
        );
        rules = await house.Client.ChangeRulesAsync(rules with { HeldSeats = "berths" });
        Assert.Equal("Berths", rules.HeldSeats);
        var (_, oona) = await HolderAsync("oona", domain);
        var (_, paul) = await HolderAsync("paul", domain);
        foreach (var one in new[] { oona, paul })
        {
            await house.InviteAsync(one, "staff", "edit");
            using var browser = await house.BrowserOfAsync(one);
            await AcceptHeldAsync(browser, await house.SecretAsync(one, 2));
        }
        // What it takes is said before; asking takes nothing yet.
        var tried = await StepAsync(house, "ask", oona, isDry: true);
        Assert.Contains("Then: It takes a seat of Berths, of which 1 are free.", tried.Follows);
        Assert.True((await StepAsync(house, "ask", oona)).Done);
        Assert.True((await StepAsync(house, "ask", paul)).Done);
        Assert.Equal(0, await HeldAsync());
        Assert.Equal("", await AnswerAsync(await LinkAsync(house, oona), Come));
        Assert.Equal((1, "taken"), (await HeldAsync(), (await house.Client.ClaimAsync(oona)).State));

        // The other agrees, and comes once there is a seat: not by being taken before.
        Assert.Equal("", await AnswerAsync(await LinkAsync(house, paul), Come));
        Assert.Equal("agreed", (await house.Client.ClaimAsync(paul)).State);
        Assert.Equal("claim.no-seat", (await StepAsync(house, "take", paul)).Code);
        Assert.Equal(
            "claim.no-seat",
            await Refusing.CodeOf(
                house.Client.AddAccountAsync(new HeldAccountRequest("wilma@" + domain, "Wilma Deck"))
            )
        );
        Assert.DoesNotContain(harbour.Inbox.To("wilma@" + domain), _ => true);
        // Custody given up frees it; a seat somebody had anyway stays theirs.
        Assert.Equal("dropped", (await StepAsync(house, "release", oona)).Claim!.State);
        Assert.Equal(0, await HeldAsync());
        await house.Client.GiveSeatsAsync("Berths", new PeopleRequest([paul]));
        Assert.Equal("taken", (await StepAsync(house, "take", paul)).Claim!.State);
        Assert.Equal("dropped", (await StepAsync(house, "release", paul)).Claim!.State);
        Assert.Equal(1, await HeldAsync());
        Assert.Equal("claim.no-seat", (await StepAsync(house, "ask", oona)).Code);

        async Task<int> HeldAsync() => (await house.Client.Pools.ShowAsync("Berths")).Held;
    }

    [Fact]
    public async Task Who_is_asked_in_one_sitting_answers_within_a_quarter_of_an_hour_or_was_not_asked()
    {
        var (house, domain) = await HouseAsync();
        var (_, oona) = await HolderAsync("oona", domain);
        var asked = (await AskHereAsync()).Claim!;
        Assert.Equal(("asked", true, "let-be"), (asked.State, asked.AtOnce, asked.Silence));
        Assert.Equal(TimeSpan.FromMinutes(15), asked.Deadline - asked.AskedAt);
        harbour.Clock.Offset += TimeSpan.FromMinutes(16);
        Assert.Equal("claim.over", await AnswerAsync(await LinkAsync(house, oona), Come));
        await Patience.UntilAsync(() => house.Client.ClaimAsync(oona), claim => claim.State == "dropped");
        Assert.Single(harbour.Inbox.To(oona), mail => mail.Message.Subject!.Contains("asks to hold"));
        // Nothing followed from that, so that they may be asked again at once; a fresh proof brings them.
        Assert.Equal("asked", (await AskHereAsync()).Claim!.State);
        using var browser = await house.BrowserOfAsync(oona);
        var path = ClaimPath().Match(await browser.GetStringAsync("/account")).Value;
        await browser.FormAsync(path, path, new() { ["answer"] = "come" });
        Assert.Equal("taken", (await house.Client.ClaimAsync(oona)).State);

        async Task<ClaimResult> AskHereAsync() =>
            Assert.Single(
                (await house.Client.ClaimStepAsync(new ClaimStepRequest("ask", [oona], AtOnce: true))).Results
            );
    }

    [Fact]
    public async Task A_held_account_is_paused_resumed_and_closed_and_no_other_is()
    {
        var (house, domain) = await HouseAsync();
        var (other, oona) = await HolderAsync("oona", domain);
        await house.InviteAsync(oona, "staff", "edit");
        using var browser = await house.BrowserOfAsync(oona);
        await AcceptHeldAsync(browser, await house.SecretAsync(oona, 2));
        using var here = await house.ClientOfAsync(oona);
        using var there = await other.ClientOfAsync(oona);
        foreach (var step in new[] { "pause", "resume", "close" })
            Assert.Equal("account.not-held", await StepAccountAsync(house, step, oona));
        Assert.Equal("account.step-unknown", await StepAccountAsync(house, "delete", oona));
        Assert.Equal("person.not-found", await StepAccountAsync(house, "pause", "nobody@" + domain));
        await HoldAsync(house, oona);
        Assert.Equal("account.not-held", await StepAccountAsync(other, "pause", oona));
        Assert.Equal("account.not-paused", await StepAccountAsync(house, "resume", oona));

        await house.Client.StepAccountAsync(new HeldStepRequest("pause", oona), dryRun: true);
        Assert.Equal(HttpStatusCode.OK, (await browser.GetAsync("/api/v1/me")).StatusCode);
        var paused = await house.Client.StepAccountAsync(new HeldStepRequest("pause", oona, "On leave."));
        Assert.Equal("paused", paused.Standing);
        Assert.True(paused.SignInsClosed >= 1);
        Assert.Equal("account.paused", await StepAccountAsync(house, "pause", oona));
        // Nobody signs in with it, by whatever shows them; programs stop here, and what others gave elsewhere stays.
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal("account.paused", await SignInAsync(oona, Ship.Password));
        Assert.Equal("sign-in.wrong", await SignInAsync(oona, "something else entirely"));
        Assert.Equal("access.paused", await Refusing.CodeOf(here.WorkspaceAsync()));
        Assert.NotEmpty((await there.WhoAmIAsync()).Places);
        Assert.True((await house.Client.ClaimAsync(oona)).Paused);
        Assert.Contains(
            "paused it, for",
            await house.MailAsync(oona, "has changed"),
            StringComparison.Ordinal
        );
        using var form = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false })
        {
            BaseAddress = Harbour.UrlOf(harbour.Node),
        };
        var shut = await form.FormAsync(
            "/sign-in",
            "/sign-in",
            new() { ["address"] = oona, ["password"] = Ship.Password }
        );
        Assert.Contains("This account is paused.", await BodyOf(shut), StringComparison.Ordinal);

        await house.Client.StepAccountAsync(new HeldStepRequest("resume", oona));
        Assert.Equal("", await SignInAsync(oona, Ship.Password));
        Assert.Equal(house.Name, (await here.WorkspaceAsync()).ShortName);

        // Closing takes nobody's way in to other workspaces, and nobody's who is still here.
        Assert.Equal("account.elsewhere", await StepAccountAsync(house, "close", oona));
        await other.Client.EndAsync(oona);
        Assert.Equal("account.here", await StepAccountAsync(house, "close", oona));
        await house.Client.EndAsync(oona);
        Assert.Equal(
            "closed",
            (await house.Client.StepAccountAsync(new HeldStepRequest("close", oona))).Standing
        );
        Assert.Equal("sign-in.wrong", await SignInAsync(oona, Ship.Password));
        Assert.Equal("claim.no-account", await Refusing.CodeOf(house.Client.ClaimAsync(oona)));
        Assert.Equal(
            ["account.closed", "account.resumed", "account.paused"],
            (await house.Client.RecordAsync())
                .Items.Where(one => one.Action is "account.paused" or "account.resumed" or "account.closed")
                .Select(one => one.Action)
        );
        // The address is free for a new account.
        await house.Client.AddAccountAsync(new HeldAccountRequest(oona, "Oona again"));
    }

    [Fact]
    public async Task A_split_is_undone_by_the_holder_of_both_accounts_within_thirty_days()
    {
        var (house, domain) = await HouseAsync();
        var (other, oona) = await HolderAsync("oona", domain);
        await house.InviteAsync(oona, "staff", "edit");
        using (var first = await other.BrowserOfAsync(oona))
            await AcceptHeldAsync(first, await house.SecretAsync(oona, 2));
        using var program = await other.ClientOfAsync(oona);
        var keep = await SplitAsync(house, oona);
        using var own = await other.BrowserOfAsync(keep);
        Assert.Contains("split off from the one at " + oona, await PageAsync(own), StringComparison.Ordinal);
        // The first account does not offer it, and its workspace cannot do it.
        using (var first = await house.BrowserOfAsync(oona))
            Assert.DoesNotContain("/account/split/", await PageAsync(first), StringComparison.Ordinal);

        var wrong = await own.FormAsync("/account", "/account/split/undo", new() { ["code"] = "00000000" });
        Assert.Equal(HttpStatusCode.UnprocessableEntity, wrong.StatusCode);
        await own.FormAsync("/account", "/account/split/code", []);
        var code = CodePattern().Match(await house.MailAsync(oona, "Your code for another address")).Value;
        var undo = new Dictionary<string, string> { ["code"] = code };
        // An old proof of this account is asked for anew, and the code outlives that.
        harbour.Clock.Offset += TimeSpan.FromMinutes(11);
        var stale = await own.FormAsync("/account", "/account/split/undo", undo);
        Assert.StartsWith("/confirm", stale.Headers.Location?.OriginalString, StringComparison.Ordinal);
        await own.FormAsync("/confirm", "/confirm", new() { ["old"] = Ship.Password });
        harbour.Clock.Offset -= TimeSpan.FromMinutes(5);
        // Of several at once one counts.
        var answers = await Task.WhenAll(
            Enumerable.Range(0, 3).Select(_ => own.FormAsync("/account", "/account/split/undo", undo))
        );
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.OK);

        using var again = await house.BrowserOfAsync(oona);
        var me = (await again.GetFromJsonAsync<MeView>("/api/v1/me"))!;
        Assert.Equal(
            new[] { house.Name, other.Name }.Order(),
            me.Places.Select(place => place.Workspace).Order()
        );
        var account = (await again.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;
        Assert.Equal("The Lantern Tide", account.Custody);
        Assert.Contains(account.Addresses, at => at.Address == keep && at.ProvedAt is not null);
        Assert.Equal(other.Name, Assert.Single((await program.WhoAmIAsync()).Places).Workspace);
        Assert.Equal("active", (await other.Client.PersonAsync(oona)).State);
        Assert.Equal("", await SignInAsync(oona, Ship.Password));
        Assert.Equal(1, (await house.Client.ClaimAsync(oona)).Workspaces);
        Assert.True((await other.Client.VerifyRecordAsync()).Whole);

        // After thirty days it stands.
        var (_, paul) = await HolderAsync("paul", domain);
        using var his = await other.BrowserOfAsync(await SplitAsync(house, paul));
        harbour.Clock.Offset += TimeSpan.FromDays(6);
        Assert.Contains("/account/split/code", await PageAsync(his), StringComparison.Ordinal);
        harbour.Clock.Offset += TimeSpan.FromDays(25);
        using var later = await other.BrowserOfAsync(paul.Replace("@" + domain, ".own@mailhaven.example"));
        Assert.DoesNotContain("/account/split/", await PageAsync(later), StringComparison.Ordinal);
        Assert.Equal(
            HttpStatusCode.NotFound,
            (await later.FormAsync("/account", "/account/split/code", [])).StatusCode
        );
    }

    private static ClaimAnswerRequest Come => new("come", Password: Ship.Password);

    private static async Task<string> PageAsync(HttpClient browser) =>
        WebUtility.HtmlDecode(await browser.GetStringAsync("/account"));

    /// <summary>Asks somebody, who keeps the rest at an address of their own; that address.</summary>
    private async Task<string> SplitAsync(Ship house, string address)
    {
        var keep = address.Split('@')[0] + ".own@mailhaven.example";
        await StepAsync(house, "ask", address);
        var secret = await LinkAsync(house, address);
        using var anybody = new AboardClient(Harbour.UrlOf(harbour.Node));
        await anybody.SendClaimCodeAsync(secret, new ClaimCodeRequest(keep));
        var code = CodePattern().Match(await house.MailAsync(keep, "Your code for another address")).Value;
        Assert.Equal("", await AnswerAsync(secret, new("come-and-keep", keep, code, Ship.Password)));
        return keep;
    }

    private static async Task<string> StepAccountAsync(Ship ship, string step, string address) =>
        await Refusing.CodeOf(ship.Client.StepAccountAsync(new HeldStepRequest(step, address)));

    /// <summary>The code of the refusal; empty where somebody is signed in.</summary>
    private async Task<string> SignInAsync(string address, string password)
    {
        using var browser = new HttpClient { BaseAddress = Harbour.UrlOf(harbour.Node) };
        var answer = await browser.PostAsJsonAsync("/api/v1/sessions", new SignInRequest(address, password));
        return answer.IsSuccessStatusCode ? "" : (await answer.Content.ReadFromJsonAsync<Problem>())!.Code;
    }
}
