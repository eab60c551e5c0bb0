using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

// Names and addresses that a workspace corrects, or proposes.
public abstract partial class Claiming
{
    [Fact]
    public async Task A_held_accounts_name_is_corrected_at_once_and_its_address_when_its_holder_has_shown_it()
    {
        var (house, domain) = await HouseAsync();
        var (kofi, next) = ("kofi@" + domain, "k.darkwater@" + domain);
        await house.BringAboardAsync(kofi);
        await HoldAsync(house, kofi);

        var tried = await house.Client.CorrectAccountAsync(new(kofi, "Kofi Darkwater"), dryRun: true);
        Assert.Equal("Kofi Darkwater", tried.Name);
        Assert.Equal("Somebody kofi", await NameAsync(house, kofi));
        var done = await house.Client.CorrectAccountAsync(new(kofi, "Kofi Darkwater", next));
        Assert.Equal(("Kofi Darkwater", "", next), (done.Name, done.WaitingName, done.WaitingAddress));
        Assert.Equal("Kofi Darkwater", await NameAsync(house, kofi));
        Assert.Contains(next, await house.MailAsync(kofi, "proposes something"), StringComparison.Ordinal);
        Assert.Equal(
            "correction.same",
            await Refusing.CodeOf(house.Client.CorrectAccountAsync(new(kofi, "Kofi Darkwater")))
        );

        using var browser = await house.BrowserOfAsync(kofi);
        var id = await ProposalAsync(browser);
        // Not before it is shown that the address is theirs.
        var early = await browser.FormAsync("/account", "/account/proposals/accept", new() { ["id"] = id });
        Assert.Contains("It is not shown yet", await BodyOf(early), StringComparison.Ordinal);
        await AddAddressAsync(house, browser, next);
        var accepted = await browser.FormAsync(
            "/account",
            "/account/proposals/accept",
            new() { ["id"] = id }
        );
        Assert.Equal("/account", accepted.Headers.Location?.OriginalString);
        Assert.Equal("Kofi Darkwater", await NameAsync(house, next));
        Assert.Equal("taken", (await house.Client.ClaimAsync(next)).State);
        // Once is enough.
        var again = await browser.FormAsync("/account", "/account/proposals/accept", new() { ["id"] = id });
        Assert.Contains("not proposed any more", await BodyOf(again), StringComparison.Ordinal);

        foreach (
            var (code, wish) in new (string, AccountCorrection)[]
            {
                ("correction.nothing", new(next)),
                ("domain.not-shown", new(next, NewAddress: "kofi@elsewhere.example")),
                ("address.taken", new(next, NewAddress: kofi)),
                ("address.malformed", new(next, NewAddress: "no address")),
                ("person.not-found", new("nobody@" + domain, "Nobody")),
            }
        )
            Assert.Equal(code, await Refusing.CodeOf(house.Client.CorrectAccountAsync(wish)));
        Assert.Equal(
            "account.held",
            await Refusing.CodeOf(house.Client.ProposeAsync(new(next, "Somebody Else")))
        );
    }

    [Fact]
    public async Task To_somebody_whose_account_is_their_own_it_is_proposed_and_theirs_to_accept_or_leave()
    {
        var (house, _) = await HouseAsync();
        var ines = house.Address("ines");
        await house.BringAboardAsync(ines);
        Assert.Equal(
            "account.not-held",
            await Refusing.CodeOf(house.Client.CorrectAccountAsync(new(ines, "Dr Ines Calloway")))
        );
        var first = await house.Client.ProposeAsync(new(ines, "Ines C.", Reason: "As on the crew list."));
        Assert.Equal(("Somebody ines", "Ines C."), (first.Name, first.WaitingName));
        Assert.Contains(
            "As on the crew list.",
            await house.MailAsync(ines, "proposes something"),
            StringComparison.Ordinal
        );
        Assert.Equal("Somebody ines", await NameAsync(house, ines));
        // The newest counts.
        await house.Client.ProposeAsync(new(ines, "Dr Ines Calloway"));
        using var browser = await house.BrowserOfAsync(ines);
        var id = await ProposalAsync(browser);
        // It is nobody else's to accept.
        using var stranger = await house.BrowserOfAsync(house.Administrator);
        var theirs = await stranger.FormAsync("/account", "/account/proposals/accept", new() { ["id"] = id });
        Assert.Contains("not proposed any more", await BodyOf(theirs), StringComparison.Ordinal);
        // Many at once: one counts.
        var answers = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(_ =>
                    browser.FormAsync("/account", "/account/proposals/accept", new() { ["id"] = id })
                )
        );
        Assert.Single(answers, answer => answer.StatusCode == HttpStatusCode.Redirect);
        Assert.Equal("Dr Ines Calloway", await NameAsync(house, ines));

        await house.Client.ProposeAsync(new(ines, "I. Calloway"));
        await browser.FormAsync(
            "/account",
            "/account/proposals/aside",
            new() { ["id"] = await ProposalAsync(browser) }
        );
        Assert.Empty((await AccountAsync(browser)).Proposals);
        Assert.Equal("Dr Ines Calloway", await NameAsync(house, ines));

        await house.Client.ProposeAsync(new(ines, "I. Calloway"));
        var late = await ProposalAsync(browser);
        await harbour.LetPassAsync(TimeSpan.FromDays(14));
        using var later = await house.BrowserOfAsync(ines);
        Assert.Empty((await AccountAsync(later)).Proposals);
        var over = await later.FormAsync("/account", "/account/proposals/accept", new() { ["id"] = late });
        Assert.Contains("not proposed any more", await BodyOf(over), StringComparison.Ordinal);
    }

    [Fact]
    public async Task A_standard_for_names_of_outsiders_is_offered_and_never_forced()
    {
        var house = await harbour.NewShipAsync();
        var rules = await house.Client.RulesAsync();
        Assert.Equal(
            "rules.name-pattern",
            await Refusing.CodeOf(
                house.Client.ChangeRulesAsync(rules with { OutsiderNames = "{title} {name}" })
            )
        );
        rules = await house.Client.ChangeRulesAsync(rules with { OutsiderNames = "{name} ({organisation})" });
        Assert.Equal("{name} ({organisation})", rules.OutsiderNames);
        var wish = new InvitationRequest(house.Address("ines"), "guest", "view", "Ines Calloway")
        {
            Organisation = "Saltmarsh",
            OrganisationAsWritten = true,
        };
        Assert.Contains(
            "\"Ines Calloway (Saltmarsh)\"",
            Assert.Single(await NotesAsync(wish)).Sentence,
            StringComparison.Ordinal
        );
        Assert.Empty(await NotesAsync(wish with { Name = "Ines Calloway (Saltmarsh)" }));
        Assert.Empty(await NotesAsync(wish with { Kind = "staff" }));

        await house.Client.SendInvitationAsync(wish, "ines");
        await house.AcceptAsync(await house.SecretAsync(wish.Address), "Ines Calloway");
        var ines = Assert.Single((await house.Client.PeopleAsync(search: wish.Address)).Items);
        Assert.Equal(("Ines Calloway", "Ines Calloway (Saltmarsh)"), (ines.Name, ines.NameByStandard));
        var mira = Assert.Single((await house.Client.PeopleAsync(search: house.Administrator)).Items);
        Assert.Null(mira.NameByStandard);

        async Task<IEnumerable<NoteView>> NotesAsync(InvitationRequest one) =>
            (await house.Client.PreviewInvitationAsync(one)).Notes.Where(note =>
                note.Code == "name.standard"
            );
    }

    private async Task HoldAsync(Ship house, string address)
    {
        await using var rows = harbour.Database.Open();
        await rows
            .Accounts.Where(a => a.Address == address)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.CustodyId, house.Id)
                    .SetProperty(a => a.CustodySince, harbour.Clock.GetUtcNow())
            );
    }

    private static async Task<string> NameAsync(Ship house, string address) =>
        Assert.Single((await house.Client.PeopleAsync(search: address)).Items).Name;

    private static async Task<AccountView> AccountAsync(HttpClient browser) =>
        (await browser.GetFromJsonAsync<AccountView>("/api/v1/me/account"))!;

    private static async Task<string> ProposalAsync(HttpClient browser) =>
        Assert.Single((await AccountAsync(browser)).Proposals).Id.ToString();

    private static async Task<string> BodyOf(HttpResponseMessage answer) =>
        WebUtility.HtmlDecode(await answer.Content.ReadAsStringAsync());

    /// <summary>Adds an address with the code that is mailed to it.</summary>
    private async Task AddAddressAsync(Ship house, HttpClient browser, string address)
    {
        await browser.FormAsync("/account", "/account/addresses/code", new() { ["address"] = address });
        var mail = await house.MailAsync(address, "");
        var code = Regex.Match(mail, @"\b\d{4} ?\d{4}\b").Value;
        var added = await browser.FormAsync(
            "/account",
            "/account/addresses/add",
            new() { ["address"] = address, ["code"] = code }
        );
        Assert.Equal("/account", added.Headers.Location?.OriginalString);
    }
}
