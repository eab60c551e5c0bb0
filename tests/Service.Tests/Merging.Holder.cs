using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

/// <content>Accounts joined and parted by whoever holds both, who shows both to be theirs.</content>
public abstract partial class Merging
{
    [Fact]
    public async Task Whoever_shows_both_accounts_joins_them_in_every_workspace_and_parts_them_again()
    {
        var (ship, other) = (await harbour.NewShipAsync(), await harbour.NewShipAsync());
        var (ines, calloway) = (ship.Address("ines"), ship.Address("calloway"));
        await ship.BringAboardAsync(ines, "guest", "view");
        await ship.BringAboardAsync(calloway, "guest", "edit");
        await other.InviteAsync(calloway, "guest", "contribute");
        using (var theirs = await ship.BrowserOfAsync(calloway))
            await AcceptHeldAsync(theirs, await other.SecretAsync(calloway, 2));
        var before = await DumpAsync(null);

        using var browser = await ship.BrowserOfAsync(ines);
        Assert.Contains("/account/join", await PageAsync(browser, "/account"), StringComparison.Ordinal);
        var ticket = await ShownAsync(ship, browser, calloway);
        // The other may stay as well; nothing was done so far.
        var turned = await TextAsync(browser, "plan", new() { ["ticket"] = ticket, ["keep"] = "other" });
        Assert.Contains($"{ines} goes, {calloway} stays", turned, StringComparison.Ordinal);
        Assert.Equal(before, await DumpAsync(null));

        var done = await TextAsync(browser, "do", new() { ["ticket"] = ticket, ["keep"] = "own" });
        Assert.Contains($"{calloway} and {ines} are one account now", done, StringComparison.Ordinal);
        var me = (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!;
        Assert.Equal(
            new[] { ship.Name, other.Name }.Order(),
            me.Places.Select(place => place.Workspace).Order()
        );
        Assert.Contains("edit", (await ship.Client.PersonAsync(ines)).Role, StringComparison.Ordinal);
        Assert.Equal(ines, (await ship.Client.PersonAsync(calloway)).Address);
        foreach (var house in new[] { ship, other })
            Assert.Contains(
                ines,
                await house.MailAsync(house.Administrator, "are one now"),
                StringComparison.Ordinal
            );
        // No workspace did it, so none can undo it.
        var listed = Assert.Single((await ship.Client.MergesAsync()).Items);
        Assert.False(listed.CanBeUndone);
        Assert.Equal("merge.not-ours", await CodeOf(ship.Client.UnmergeAsync(new UnmergeRequest(ines))));
        // It was shown once, and is over.
        Assert.Contains(
            $"The account {calloway} is closed",
            await TextAsync(browser, "do", new() { ["ticket"] = ticket, ["keep"] = "own" }),
            StringComparison.Ordinal
        );

        var account = await PageAsync(browser, "/account");
        Assert.Contains("made one with this one", account, StringComparison.Ordinal);
        var id = MergePattern().Match(account).Groups[1].Value;
        using (var stranger = await ship.BrowserOfAsync(ship.Administrator))
            Assert.DoesNotContain(
                "are parted",
                await TextAsync(stranger, "part", new() { ["merge"] = id }),
                StringComparison.Ordinal
            );
        Assert.Contains(
            "are parted",
            await TextAsync(browser, "part", new() { ["merge"] = id }),
            StringComparison.Ordinal
        );
        Assert.Equal(before, await DumpAsync(null));
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        using var own = await ship.BrowserOfAsync(calloway);
        Assert.Equal(calloway, (await own.GetFromJsonAsync<MeView>("/api/v1/me"))!.Address);
    }

    [Fact]
    public async Task Nobody_joins_an_account_that_they_do_not_show_to_be_theirs()
    {
        var ship = await harbour.NewShipAsync();
        var (ines, calloway) = (ship.Address("ines"), ship.Address("calloway"));
        await ship.BringAboardAsync(ines);
        await ship.BringAboardAsync(calloway);
        using var browser = await ship.BrowserOfAsync(ines);
        var own = await TextAsync(browser, "code", new() { ["address"] = ines.ToUpperInvariant() });
        Assert.Contains("leads to this very account", own, StringComparison.Ordinal);
        // Whether an account is at an address is told nobody: the page is the same, and nothing is mailed where there is none.
        var nobody = ship.Address("nobody");
        var unknown = await TextAsync(browser, "code", new() { ["address"] = nobody });
        var known = await TextAsync(browser, "code", new() { ["address"] = calloway });
        Assert.Equal(
            TokenPattern().Replace(known, "").Replace(calloway, nobody, StringComparison.Ordinal),
            TokenPattern().Replace(unknown, "")
        );
        var mail = await ship.MailAsync(calloway, "joining two accounts");
        Assert.Contains("signed in as " + ines, mail, StringComparison.Ordinal);
        Assert.DoesNotContain(
            harbour.Inbox.To(nobody),
            letter => letter.Message.Subject!.Contains("joining", StringComparison.Ordinal)
        );
        var code = MailedCodePattern().Match(mail).Value;
        foreach (var wrong in new[] { "", "00000000", code[..7] })
            Assert.Contains(
                "code is wrong",
                await ShowAsync(calloway, wrong),
                StringComparison.OrdinalIgnoreCase
            );
        // A code that shows an address for another purpose, or to another account, shows nothing here.
        using (var mira = await ship.BrowserOfAsync(ship.Administrator))
            Assert.Contains(
                "code is wrong",
                await TextAsync(mira, "show", new() { ["address"] = calloway, ["code"] = code }),
                StringComparison.OrdinalIgnoreCase
            );
        // No less than it takes to sign in with it.
        await using (var rows = harbour.Database.Open())
        {
            var theirs = await rows.Accounts.FirstAsync(a => a.Address == calloway);
            rows.Credentials.Add(
                new Storage.Accounts.CredentialRow
                {
                    AccountId = theirs.Id,
                    Id = Guid.NewGuid(),
                    Kind = Core.Accounts.CredentialKind.TimeCode,
                    Label = "",
                    Secret = "sealed",
                    MadeAt = harbour.Clock.GetUtcNow(),
                }
            );
            await rows.SaveChangesAsync();
            Assert.Contains("takes a second step", await ShowAsync(calloway, code), StringComparison.Ordinal);
            await rows.Credentials.Where(c => c.Secret == "sealed").ExecuteDeleteAsync();
        }
        var ticket = TicketPattern().Match(await ShowAsync(calloway, code)).Groups[1].Value;
        Assert.NotEmpty(ticket);
        Assert.Contains("code is wrong", await ShowAsync(calloway, code), StringComparison.OrdinalIgnoreCase);

        // What was shown counts for whoever showed it, and for ten minutes.
        using (var mira = await ship.BrowserOfAsync(ship.Administrator))
            Assert.Contains(
                "more than ten minutes",
                await TextAsync(mira, "do", new() { ["ticket"] = ticket, ["keep"] = "own" }),
                StringComparison.Ordinal
            );
        foreach (var forged in new[] { "", "x", ticket[..^4] + "AAAA" })
            Assert.Contains(
                "more than ten minutes",
                await TextAsync(browser, "do", new() { ["ticket"] = forged, ["keep"] = "own" }),
                StringComparison.Ordinal
            );
        harbour.Clock.Offset += TimeSpan.FromMinutes(11);
        var stale = await browser.GetAsync("/account/join");
        Assert.StartsWith("/confirm", stale.Headers.Location?.OriginalString, StringComparison.Ordinal);
        using var anybody = Browser.At(harbour.Node);
        Assert.StartsWith(
            "/sign-in",
            (await anybody.GetAsync("/account/join")).Headers.Location?.OriginalString,
            StringComparison.Ordinal
        );

        Task<string> ShowAsync(string address, string shown) =>
            TextAsync(browser, "show", new() { ["address"] = address, ["code"] = shown });
    }

    [Fact]
    public async Task A_held_account_stays_and_what_somebody_asked_for_is_answered_first()
    {
        var ship = await ShipAsync();
        var held = await HeldAsync(ship, "ines", "staff", "contribute");
        var own = ship.Address("own");
        await ship.BringAboardAsync(own, "guest", "view");
        using var browser = await ship.BrowserOfAsync(own);
        var ticket = await ShownAsync(
            ship,
            browser,
            held,
            no: "is in the custody of a workspace, and cannot leave"
        );
        Assert.Contains(
            "cannot leave it this way",
            await TextAsync(browser, "do", new() { ["ticket"] = ticket, ["keep"] = "own" }),
            StringComparison.Ordinal
        );
        // The other way round it is possible: what is one's own comes into custody by it, and the page says so.
        var plan = await TextAsync(browser, "plan", new() { ["ticket"] = ticket, ["keep"] = "other" });
        Assert.Contains("all you are comes under it", plan, StringComparison.Ordinal);
        var done = await TextAsync(browser, "do", new() { ["ticket"] = ticket, ["keep"] = "other" });
        Assert.Contains("/sign-in", done, StringComparison.Ordinal);
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        using var one = await ship.BrowserOfAsync(own);
        Assert.Equal(held, (await one.GetFromJsonAsync<MeView>("/api/v1/me"))!.Address);
    }

    /// <summary>Shows another account to be one's own; the ticket for what follows.</summary>
    private static async Task<string> ShownAsync(
        Ship ship,
        HttpClient browser,
        string address,
        string? no = null
    )
    {
        await TextAsync(browser, "code", new() { ["address"] = address });
        var code = MailedCodePattern().Match(await ship.MailAsync(address, "joining two accounts")).Value;
        var plan = await TextAsync(browser, "show", new() { ["address"] = address, ["code"] = code });
        Assert.Contains(no ?? $"{address} goes, ", plan, StringComparison.Ordinal);
        return WebUtility.HtmlDecode(TicketPattern().Match(plan).Groups[1].Value);
    }

    private static async Task<string> TextAsync(
        HttpClient browser,
        string step,
        Dictionary<string, string> form
    )
    {
        var answer = await browser.FormAsync("/account/join", "/account/join/" + step, form);
        return WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());
    }

    private static async Task<string> PageAsync(HttpClient browser, string path) =>
        WebUtility.HtmlDecode(await (await browser.GetAsync(path)).Content.ReadAsStringAsync());

    [GeneratedRegex("name=\"ticket\" value=\"([^\"]+)\"")]
    private static partial Regex TicketPattern();

    [GeneratedRegex("name=\"merge\" value=\"([0-9a-f-]{36})\"")]
    private static partial Regex MergePattern();

    [GeneratedRegex(@"\b\d{8}\b")]
    private static partial Regex MailedCodePattern();

    [GeneratedRegex("name=\"__RequestVerificationToken\" value=\"[^\"]+\"")]
    private static partial Regex TokenPattern();
}
