using System.Text.RegularExpressions;
using ComeAboard.Client.Access;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

public abstract partial class OwnAccounts
{
    [Fact]
    public async Task Notices_of_the_work_go_where_their_reader_wants_them_and_what_is_about_the_account_does_not()
    {
        var ship = await harbour.NewShipAsync();
        var (kit, desk, aft) = (ship.Address("kit"), ship.Address("kit.desk"), ship.Address("aft"));
        await ship.BringAboardAsync(kit);
        using var browser = await ship.BrowserOfAsync(kit);
        var early = await browser.SendAsync(
            HttpMethod.Post,
            "/api/v1/me/addresses/notices",
            new NoticesRequest(desk)
        );
        Assert.Equal(409, (int)early.StatusCode);
        foreach (var one in new[] { desk, aft })
        {
            await browser.FormAsync("/account", "/account/addresses/code", new() { ["address"] = one });
            var code = Regex
                .Match(await ship.MailAsync(one, "Your code for another address"), @"\b\d{8}\b")
                .Value;
            await browser.FormAsync(
                "/account",
                "/account/addresses/add",
                new() { ["address"] = one, ["code"] = code }
            );
        }
        // One takes them, whichever it was before.
        foreach (var one in new[] { aft, desk, kit, aft, aft, desk })
        {
            await browser.FormAsync("/account", "/account/addresses/notices", new() { ["address"] = one });
            var taken = (await ShowAsync(browser)).Addresses.Where(a => a.TakesNotices);
            Assert.Equal(one == kit ? [] : [one], taken.Select(a => a.Address));
        }
        Assert.Contains(
            "Notices of the work go here",
            await browser.GetStringAsync("/account"),
            StringComparison.Ordinal
        );
        // The main address is told that they do.
        Assert.Contains(desk, await ship.MailAsync(kit, "account"), StringComparison.Ordinal);
        var before = harbour.Inbox.To(kit).Count;

        await ship.Client.GrantAsync(new GrantRequest("edit", Person: kit, Tell: true));
        await ArrivedAsync(desk, 2);
        Assert.Equal(before, harbour.Inbox.To(kit).Count);
        // The workspace knows them by the address it always did.
        Assert.Equal(kit, (await ship.Client.PersonAsync(kit)).Address);

        // Forgotten, it is where it was before.
        await browser.FormAsync("/account", "/account/addresses/remove", new() { ["address"] = desk });
        await ship.Client.GrantAsync(new GrantRequest("manage", Person: kit, Resource: null, Tell: true));
        await ArrivedAsync(kit, before + 1);
        Assert.Equal(2, harbour.Inbox.To(desk).Count);
    }

    private async Task ArrivedAsync(string address, int count)
    {
        for (var tries = 0; harbour.Inbox.To(address).Count < count; tries++)
        {
            Assert.True(tries < 200, $"{harbour.Inbox.To(address).Count} of {count} mails at {address}");
            await Task.Delay(50);
        }
    }
}
