using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.SignIn;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Merging_on_SQLite(SqliteHarbour harbour) : Merging(harbour), IClassFixture<SqliteHarbour>;

public sealed class Merging_on_PostgreSQL(PostgresHarbour harbour)
    : Merging(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Two accounts become one, and are parted again.</summary>
public abstract partial class Merging(Harbour harbour)
{
    [Fact]
    public async Task Two_accounts_become_one_as_the_plan_said_and_are_parted_as_they_were()
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "edit", Today.AddDays(30));
        await ship.Client.Groups.AddAsync(new GroupRequest("Rope hands"));
        await ship.Client.ChangePersonAsync(
            calloway,
            new DetailsRequest(Title: "Rigger", Country: "Portugal")
        );
        using var browser = await ship.BrowserOfAsync(calloway);
        using var program = await ship.ClientOfAsync(calloway);
        var before = await DumpAsync(ship);

        var wish = new MergeRequest(calloway, ines);
        var plan = await ship.Client.MergeAsync(wish, dryRun: true);
        Assert.Equal((ines, calloway, "staff here"), (plan.Kept.Address, plan.Gone.Address, plan.Because));
        Assert.Null(plan.Id);
        Assert.Null(plan.Problem);
        Assert.Contains("as staff and as guest", plan.TwoCapacities, StringComparison.Ordinal);
        Assert.Equal("Rigger", plan.Fields.Single(field => field.Field == "title").Chosen);
        var grant = plan.Steps.Single(step => step.Deed == "grant");
        Assert.False(grant.IsLeft);
        Assert.StartsWith(
            "The role edit in the whole workspace, until ",
            grant.Sentence,
            StringComparison.Ordinal
        );
        Assert.Empty(plan.Losses);
        Assert.Equal(before, await DumpAsync(ship));

        var done = await ship.Client.MergeAsync(wish with { Keep = ines });
        Assert.Equal(plan.Steps.Select(step => step.Sentence), done.Steps.Select(step => step.Sentence));
        Assert.Equal(TimeSpan.FromDays(30), done.Until - done.At);
        // Both addresses lead to the one account; what opened the other opens nothing.
        var person = await ship.Client.PersonAsync(calloway);
        Assert.Equal((ines, "staff", "Rigger"), (person.Address, person.Kind, person.Title));
        Assert.Equal(HttpStatusCode.Unauthorized, (await browser.GetAsync("/api/v1/me")).StatusCode);
        Assert.Equal("access.ended", await CodeOf(program.WorkspaceAsync()));
        using var again = await ship.BrowserOfAsync(calloway);
        Assert.Equal(ines, (await again.GetFromJsonAsync<MeView>("/api/v1/me"))!.Address);
        Assert.Equal("member", (await PreviewAsync(ship, calloway)).Verdict);
        Assert.Contains("made one", await ship.MailAsync(calloway, "has changed"), StringComparison.Ordinal);
        var entry = (await ship.Client.RecordAsync()).Items.First(one => one.Action == "people.merged");
        foreach (var said in new[] { ines, calloway, "Rigger", "The role edit" })
            Assert.Contains(said, entry.Details.ToString(), StringComparison.Ordinal);
        var listed = Assert.Single((await ship.Client.MergesAsync()).Items);
        Assert.Equal((done.Id, true, "Mira Tollander"), (listed.Id, listed.CanBeUndone, listed.By));
        Assert.Equal("merge.one", await CodeOf(ship.Client.MergeAsync(wish)));

        var tried = await ship.Client.UnmergeAsync(new UnmergeRequest(calloway), dryRun: true);
        Assert.NotNull(tried.UndoneAt);
        Assert.Null(Assert.Single((await ship.Client.MergesAsync()).Items).UndoneAt);
        var parted = await ship.Client.UnmergeAsync(new UnmergeRequest(calloway));
        Assert.Empty(parted.Notes);
        Assert.Equal(before, await DumpAsync(ship));
        Assert.Equal(HttpStatusCode.Unauthorized, (await again.GetAsync("/api/v1/me")).StatusCode);
        using var own = await ship.BrowserOfAsync(calloway);
        Assert.Equal(calloway, (await own.GetFromJsonAsync<MeView>("/api/v1/me"))!.Address);
        // The program's token counts again: it is the same member.
        Assert.Equal(ship.Name, (await program.WorkspaceAsync()).ShortName);
        Assert.Equal("merge.over", await CodeOf(ship.Client.UnmergeAsync(new UnmergeRequest(ines))));
    }

    [Fact]
    public async Task What_neither_could_do_is_left_unless_somebody_opts_for_it()
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view", Today.AddDays(30));
        var group = await ship.Client.Groups.AddAsync(new GroupRequest("Rope hands"));
        await ship.Client.GrantAsync(new GrantRequest("edit", Group: "Rope hands"));
        await ship.Client.PutIntoGroupAsync("Rope hands", new PeopleRequest([calloway]));
        var wish = new MergeRequest(ines, calloway, ines);
        var plan = await ship.Client.MergeAsync(wish, dryRun: true);
        var left = Assert.Single(plan.Steps, step => step.IsLeft);
        Assert.Equal("group:" + group.Id, left.Key);
        Assert.Contains("where neither had more than", Assert.Single(left.Gains), StringComparison.Ordinal);
        Assert.NotEmpty(plan.Losses);
        Assert.Equal(
            0,
            (await ship.Client.MergeAsync(wish with { WithGains = true }, true)).Steps.Count(step =>
                step.IsLeft
            )
        );
        var done = await ship.Client.MergeAsync(wish with { Gains = [left.Key] });
        Assert.DoesNotContain(done.Steps, step => step.IsLeft);
        var entry = (await ship.Client.RecordAsync()).Items.First(one => one.Action == "people.merged");
        Assert.Contains("where neither had more than", entry.Details.ToString(), StringComparison.Ordinal);
    }

    [Fact]
    public async Task Only_accounts_the_workspace_holds_are_merged_and_only_by_whoever_may_give_what_they_hold()
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        var own = ship.Address("own");
        await ship.BringAboardAsync(own, "guest", "view");
        var wish = new MergeRequest(ines, calloway, ines);

        // Of one who is not held the plan is shown, and says why it stays one.
        var plan = await ship.Client.MergeAsync(new MergeRequest(ines, own), dryRun: true);
        Assert.Equal("merge.not-held", plan.Problem?.Code);
        Assert.NotEmpty(plan.Fields);
        Assert.Equal("merge.not-held", await CodeOf(ship.Client.MergeAsync(new MergeRequest(ines, own))));
        foreach (
            var (code, request) in new[]
            {
                ("person.not-found", new MergeRequest(ines, ship.Address("nobody"))),
                ("person.not-found", new MergeRequest("", calloway)),
                ("merge.one", new MergeRequest(ines, ines.ToUpperInvariant())),
                ("merge.keep-unknown", wish with { Keep = own }),
                ("merge.field-unknown", wish with { Take = ["stays"] }),
                ("merge.own", new MergeRequest(ines, await HoldAsync(ship, ship.Administrator))),
            }
        )
            Assert.Equal(code, await CodeOf(ship.Client.MergeAsync(request)));
        Assert.Equal("merge.not-found", await CodeOf(ship.Client.UnmergeAsync(new UnmergeRequest(ines))));
        Assert.Equal("merge.not-found", await CodeOf(ship.Client.UnmergeAsync(new UnmergeRequest("ines"))));

        // Another workspace, and members without the duty, or with less than what they would hand on.
        var other = await harbour.NewShipAsync();
        Assert.Equal("person.not-found", await CodeOf(other.Client.MergeAsync(wish)));
        var purser = ship.Address("purser");
        await ship.BringAboardAsync(purser, "staff", "view");
        using (var client = await ship.ClientOfAsync(purser))
            Assert.Equal("right.missing", await CodeOf(client.MergeAsync(wish)));
        await ship.Client.Roles.AddAsync(
            new RoleRequest("Purser", "Looks after accounts.", "view", Duties: ["claims"])
        );
        await ship.Client.GrantAsync(new GrantRequest("Purser", purser));
        using (var client = await ship.ClientOfAsync(purser))
        {
            Assert.Equal("right.beyond-own", await CodeOf(client.MergeAsync(wish)));
            Assert.Equal("right.beyond-own", (await client.MergeAsync(wish, dryRun: true)).Problem?.Code);
            var boss = await HeldAsync(ship, "boss", "staff", "manage");
            Assert.Equal(
                "right.acting-on",
                await CodeOf(client.MergeAsync(new MergeRequest(boss, calloway)))
            );
            await ship.Client.MergeAsync(new MergeRequest(boss, calloway, boss));
            Assert.Equal("right.acting-on", await CodeOf(client.UnmergeAsync(new UnmergeRequest(calloway))));
            await ship.Client.UnmergeAsync(new UnmergeRequest(calloway));
        }

        // Somebody who is held and not here takes the place of who is: that is giving, too.
        var away = await HeldAsync(ship, "away", "guest", "view");
        await ship.Client.EndAsync(away);
        using (var client = await ship.ClientOfAsync(purser))
            Assert.Equal(
                "right.beyond-own",
                await CodeOf(client.MergeAsync(new MergeRequest(away, ines, away)))
            );
        await ship.Client.MergeAsync(new MergeRequest(away, ines, away));
        Assert.Equal(away, await AccountAtAsync(ship, ines));
        // Of an account that was made one with another nothing is claimed or released by itself.
        Assert.Equal("claim.no-account", await CodeOf(ship.Client.ClaimAsync(ines)));
        await ship.Client.UnmergeAsync(new UnmergeRequest(ines));
        Assert.Equal(ines, await AccountAtAsync(ship, ines));

        // Paused, asked for, a lost domain.
        await AccountAsync(
            ship,
            calloway,
            set => set.SetProperty(a => a.PausedAt, harbour.Clock.GetUtcNow())
        );
        Assert.Equal("merge.paused", await CodeOf(ship.Client.MergeAsync(wish)));
        await AccountAsync(ship, calloway, set => set.SetProperty(a => a.PausedAt, (DateTimeOffset?)null));
        await using (var rows = harbour.Database.Open(ship.Id))
            await rows.Domains.ExecuteUpdateAsync(set =>
                set.SetProperty(d => d.ProvedAt, (DateTimeOffset?)null)
            );
        Assert.Equal("merge.not-held", await CodeOf(ship.Client.MergeAsync(wish)));
    }

    [Fact]
    public async Task The_last_administrator_is_not_merged_away()
    {
        var ship = await ShipAsync();
        var boss = await HeldAsync(ship, "boss", "staff", "manage");
        var guest = await HeldAsync(ship, "guest", "guest", "view");
        using var client = await ship.ClientOfAsync(boss);
        await HoldAsync(ship, ship.Administrator);
        var wish = new MergeRequest(ship.Administrator, guest, guest);
        // As long as there is another, it is possible; then not.
        Assert.Null((await client.MergeAsync(wish, dryRun: true)).Problem);
        await ship.Client.EndAsync(boss);
        await ship.BringAboardAsync(ship.Address("second"), "staff", "manage", Today.AddDays(20));
        using var second = await ship.ClientOfAsync(ship.Address("second"));
        Assert.Equal("administrator.last", (await second.MergeAsync(wish, dryRun: true)).Problem?.Code);
        Assert.Equal("administrator.last", await CodeOf(second.MergeAsync(wish)));
    }

    [Fact]
    public async Task Other_workspaces_are_untouched_and_told_and_not_by_whom()
    {
        var ship = await ShipAsync();
        var other = await harbour.NewShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        await other.InviteAsync(calloway, "guest", "edit");
        using (var browser = await ship.BrowserOfAsync(calloway))
            await AcceptHeldAsync(browser, await other.SecretAsync(calloway, 2));
        var before = await other.Client.PersonAsync(calloway);
        var wish = new MergeRequest(ines, calloway, ines);
        Assert.Equal(1, (await ship.Client.MergeAsync(wish, dryRun: true)).Elsewhere);
        await ship.Client.MergeAsync(wish);
        var after = await other.Client.PersonAsync(calloway);
        Assert.Equal(
            (before.Id, before.Name, before.Kind, before.Address, before.State),
            (after.Id, after.Name, after.Kind, after.Address, after.State)
        );
        using (var browser = await ship.BrowserOfAsync(ines))
            Assert.Equal(
                ((string[])[other.Name, ship.Name]).Order(),
                (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!
                    .Places.Select(p => p.Workspace)
                    .Order()
            );
        var told = await other.MailAsync(other.Administrator, "are one now");
        Assert.Contains(ines, told, StringComparison.Ordinal);
        Assert.DoesNotContain(ship.Administrator, told, StringComparison.Ordinal);
        var entry = (await other.Client.RecordAsync()).Items.First(one => one.Action == "account.merged");
        Assert.Equal("service", entry.Actor);

        // A third knows both: they have a say in it.
        await ship.Client.UnmergeAsync(new UnmergeRequest(ines));
        Assert.Contains(
            calloway,
            await other.MailAsync(other.Administrator, "of their own again"),
            StringComparison.Ordinal
        );
        await other.InviteAsync(ines, "guest", "view");
        using (var browser = await ship.BrowserOfAsync(ines))
            await AcceptHeldAsync(browser, await other.SecretAsync(ines, 2));
        Assert.Equal("merge.both-elsewhere", await CodeOf(ship.Client.MergeAsync(wish)));
    }

    [Fact]
    public async Task Merged_by_several_at_once_it_is_done_once()
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        var before = await DumpAsync(ship);
        var wish = new MergeRequest(ines, calloway, ines);
        var codes = await Task.WhenAll(
            Enumerable
                .Range(0, 6)
                .Select(n =>
                    TriedAsync(
                        (n % 2 == 0 ? ship.Client : ship.OtherNode).MergeAsync(
                            n < 3 ? wish : wish with { Keep = calloway }
                        )
                    )
                )
        );
        Assert.Single(codes, "");
        Assert.All(
            codes,
            code => Assert.Contains(code, (string[])["", "merge.one", "merge.closed", "version.stale"])
        );
        codes = await Task.WhenAll(
            Enumerable
                .Range(0, 4)
                .Select(n =>
                    TriedAsync(
                        (n % 2 == 0 ? ship.Client : ship.OtherNode).UnmergeAsync(new UnmergeRequest(ines))
                    )
                )
        );
        Assert.Single(codes, "");
        Assert.Equal(before, await DumpAsync(ship));
    }

    [Fact]
    public async Task What_happened_since_belongs_to_the_one_who_stayed_unless_it_is_about_the_others_address()
    {
        var ship = await ShipAsync();
        var other = await harbour.NewShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        await ship.Client.ChangePersonAsync(
            calloway,
            new DetailsRequest(Title: "Rigger", Country: "Portugal")
        );
        await ship.Client.MergeAsync(new MergeRequest(ines, calloway, ines));
        await ship.Client.ChangePersonAsync(ines, new DetailsRequest(Title: "Shipwright"));
        await ship.Client.GrantAsync(new GrantRequest("edit", ines));
        // Invited at the address of the one that went, and accepted by the one account.
        await other.InviteAsync(calloway, "guest", "edit");
        using (var browser = await ship.BrowserOfAsync(ines))
            await AcceptHeldAsync(browser, await other.SecretAsync(calloway, 2));

        var parted = await ship.Client.UnmergeAsync(new UnmergeRequest(ines));
        Assert.Equal(["The title of Somebody ines was changed since, and stays."], parted.Notes);
        var (one, two) = (await ship.Client.PersonAsync(ines), await ship.Client.PersonAsync(calloway));
        Assert.Equal(("Shipwright", ""), (one.Title, one.Country));
        Assert.Equal(("Rigger", "Portugal"), (two.Title, two.Country));
        Assert.Contains("edit", one.Role, StringComparison.Ordinal);
        using (var browser = await ship.BrowserOfAsync(calloway))
            Assert.Equal(
                ((string[])[other.Name, ship.Name]).Order(),
                (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!
                    .Places.Select(p => p.Workspace)
                    .Order()
            );
        using (var browser = await ship.BrowserOfAsync(ines))
            Assert.Equal(
                ship.Name,
                Assert.Single((await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.Places).Workspace
            );
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public async Task Whatever_took_access_away_since_counts_for_both(bool ends)
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        await ship.Client.MergeAsync(new MergeRequest(ines, calloway, ines));
        if (ends)
            await ship.Client.EndAsync(ines);
        else
            await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [ines]));
        await ship.Client.UnmergeAsync(new UnmergeRequest(ines));
        Assert.Equal(ends ? "ended" : "paused", (await ship.Client.PersonAsync(calloway)).State);
    }

    [Fact]
    public async Task Thirty_days_later_nothing_rests_any_more_and_nothing_is_undone()
    {
        var ship = await ShipAsync();
        var ines = await HeldAsync(ship, "ines", "staff", "contribute");
        var calloway = await HeldAsync(ship, "calloway", "guest", "view");
        await ship.Client.MergeAsync(new MergeRequest(ines, calloway, ines));
        await harbour.LetPassAsync(TimeSpan.FromDays(29.9));
        Assert.True(await RestAsync() > 0);
        await harbour.LetPassAsync(TimeSpan.FromDays(0.2));
        Assert.Equal(0, await RestAsync());
        var client = await Ship.BoardAsync(harbour, ship.Id, ship.Name, ship.Administrator);
        Assert.Equal("merge.over", await CodeOf(client.Client.UnmergeAsync(new UnmergeRequest(ines))));
        Assert.Equal(ines, (await client.Client.PersonAsync(calloway)).Address);

        async Task<int> RestAsync()
        {
            await using var rows = harbour.Database.Open();
            return await rows.Credentials.CountAsync(c =>
                rows.Accounts.Any(a => a.Id == c.AccountId && a.Address == calloway)
            );
        }
    }

    private static async Task<string> AccountAtAsync(Ship ship, string address)
    {
        using var browser = await ship.BrowserOfAsync(address);
        return (await browser.GetFromJsonAsync<MeView>("/api/v1/me"))!.Address;
    }

    private DateOnly Today => DateOnly.FromDateTime(harbour.Clock.GetUtcNow().DateTime);

    private static async Task<string> TriedAsync(Task call)
    {
        try
        {
            await call;
            return "";
        }
        catch (Client.RefusedException refused)
        {
            return refused.Problem.Code;
        }
    }

    private static async Task AcceptHeldAsync(HttpClient browser, string secret)
    {
        var answer = await browser.FormAsync("/i/" + secret, $"/i/{secret}/accept-held", []);
        Assert.True((int)answer.StatusCode < 400, answer.StatusCode.ToString());
    }

    private static Task<Client.Invitations.InvitationPreview> PreviewAsync(Ship ship, string address) =>
        ship.Client.PreviewInvitationAsync(
            new Client.Invitations.InvitationRequest(address, "guest", "view")
        );

    /// <summary>A workspace that has proved the domain of the addresses in it.</summary>
    private async Task<Ship> ShipAsync()
    {
        var ship = await harbour.NewShipAsync();
        await ship.ProveAsync(ship.Address("x").Split('@')[1], ship.Administrator.Split('@')[1]);
        return ship;
    }

    private async Task<string> HeldAsync(
        Ship ship,
        string local,
        string kind,
        string role,
        DateOnly? until = null
    )
    {
        var address = ship.Address(local);
        await ship.BringAboardAsync(address, kind, role, until);
        return await HoldAsync(ship, address);
    }

    private async Task<string> HoldAsync(Ship ship, string address)
    {
        await AccountAsync(
            ship,
            address,
            set =>
                set.SetProperty(a => a.CustodyId, ship.Id)
                    .SetProperty(a => a.CustodySince, harbour.Clock.GetUtcNow())
        );
        return address;
    }

    private async Task AccountAsync(
        Ship ship,
        string address,
        Action<Microsoft.EntityFrameworkCore.Query.UpdateSettersBuilder<AccountRow>> set
    )
    {
        await using var rows = harbour.Database.Open(ship.Id);
        await rows.Accounts.Where(a => a.Address == address).ExecuteUpdateAsync(set);
    }
}
