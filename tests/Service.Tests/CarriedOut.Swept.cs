using System.Text.Json.Nodes;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

// What a system really holds, beside what it ought to.
public abstract partial class CarriedOut
{
    [Fact]
    public async Task What_was_changed_over_there_is_found_and_put_right_and_what_nobody_ought_to_have_is_listed()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers");
        await ConnectAsync(ship, there);
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        await ship.BringAboardAsync(hamish);
        await ship.BringAboardAsync(petra);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("group:Readers", Role: "view"));
        await SettledAsync(ship);
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
        await UntilAsync(there, hamish, (false, ""));
        await SettledAsync(ship);
        Assert.Equal(0, (await ship.Client.SweepAsync(Name)).OtherwiseTotal);

        // Somebody over there lets one in again who is not to be, and makes an account that we know nothing of.
        var accounts = (await ship.Client.AccountsThereAsync(Name)).Items.ToDictionary(one => one.Address);
        await there.PutAsync(accounts[hamish].Key, hamish);
        await there.PutAsync("gauge", "gauge@lantern-tide.example");
        var swept = await ship.Client.SweepAsync(Name);
        Assert.Equal(
            (hamish, "switched off"),
            (swept.Otherwise.Single().Address, swept.Otherwise[0].Sentence)
        );
        Assert.Equal("gauge@lantern-tide.example", swept.LeftOver.Single().SignInName);
        await UntilAsync(there, hamish, (false, ""));
        await SettledAsync(ship);
        // What is left over is left alone until somebody says what is to become of it.
        Assert.True((await there.HoldsAsync())["gauge@lantern-tide.example"].IsOn);
        Assert.Equal(1, (await ship.Client.OverviewAsync()).LeftOver);
        Assert.Equal(1, (await ship.Client.LaneAsync(Name)).LeftOver);

        // By itself, too, once a day; a system that does not answer tells nothing.
        await there.PutAsync("gauge2", "gauge2@lantern-tide.example");
        await there.BehaveAsync(new JsonObject { ["away"] = true });
        await harbour.LetPassAsync(TimeSpan.FromHours(25));
        var lane = await Patience.UntilAsync(
            () => ship.Client.LaneAsync(Name),
            one => one.SweepAnswer.Length > 0
        );
        Assert.Equal(
            (1, true),
            (lane.LeftOver, lane.SweepAnswer.StartsWith("It cannot be reached", StringComparison.Ordinal))
        );
        await there.BehaveAsync();
        await harbour.LetPassAsync(TimeSpan.FromHours(2));
        lane = await Patience.UntilAsync(() => ship.Client.LaneAsync(Name), one => one.LeftOver == 2);
        Assert.Equal((2, ""), (lane.LeftOver, lane.SweepAnswer));

        // Asked there at this moment, of one person.
        var elsewhere = (await ship.Client.ElsewhereAsync(petra)).Single();
        Assert.Equal(("on", "on", "as it ought to be"), (elsewhere.Wanted, elsewhere.Held, elsewhere.State));
        await there.PutAsync(accounts[petra].Key, petra);
        elsewhere = (await ship.Client.ElsewhereAsync(petra)).Single();
        Assert.Equal("on", elsewhere.Held);
        await there.BehaveAsync(new JsonObject { ["away"] = true });
        Assert.Equal("not answered", (await ship.Client.ElsewhereAsync(petra)).Single().State);
        await there.BehaveAsync();
    }

    [Fact]
    public async Task What_is_to_be_from_this_moment_on_and_is_told_to_nobody_as_yet_is_not_otherwise_there()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync();
        await ConnectAsync(ship, there);
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "view"));
        await SettledAsync(ship);
        // Changed, and not worked out for the system: the instant between the two, held.
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            await rows
                .Members.Where(m => m.Address == hamish)
                .ExecuteUpdateAsync(set => set.SetProperty(m => m.Name, "Hamish the Elder"));
            await rows
                .Workspaces.Where(w => w.Id == ship.Id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(w => w.AccessVersion, w => w.AccessVersion + 10_000)
                );
        }
        Assert.Equal(0, (await ship.Client.SweepAsync(Name)).OtherwiseTotal);
        Assert.Equal("resting", (await ship.Client.LaneAsync(Name)).State);
    }

    [Fact]
    public async Task A_left_over_is_removed_and_asked_for_again_or_somebodys_or_left_for_a_reason_until_a_day()
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync();
        await ConnectAsync(ship, there);
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        await ship.BringAboardAsync(hamish);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "view"));
        await SettledAsync(ship);
        foreach (var key in (string[])["former", "gauge", "theirs"])
            await there.PutAsync(key, key + "@elsewhere.example");
        Assert.Equal(3, (await ship.Client.SweepAsync(Name)).LeftOverTotal);
        Assert.Equal(3, (await ship.Client.LeftOversAsync(Name)).Items.Count);

        // Left: until the day that was said, and not longer.
        var leave = new LeftOverRequest(["gauge"], "leave", Reason: "The account of the tide gauge.");
        Assert.Equal("left-over.until", await CodeOf(ship.Client.DecideLeftOversAsync(Name, leave)));
        var day = DateOnly.FromDateTime(harbour.Clock.GetUtcNow().UtcDateTime).AddDays(3);
        Assert.Equal(
            "left-over.reason",
            await CodeOf(ship.Client.DecideLeftOversAsync(Name, leave with { Until = day, Reason = " " }))
        );
        Assert.Equal(
            "left-over.decision",
            await CodeOf(ship.Client.DecideLeftOversAsync(Name, leave with { Decision = "keep" }))
        );
        Assert.Equal(
            "left-over.not-found",
            await CodeOf(
                ship.Client.DecideLeftOversAsync(Name, leave with { Until = day, Keys = ["gauge", "other"] })
            )
        );
        await ship.Client.DecideLeftOversAsync(Name, leave with { Until = day });
        Assert.Equal(2, (await ship.Client.OverviewAsync()).LeftOver);
        Assert.Equal(
            ("left", "The account of the tide gauge."),
            (await ship.Client.SweepAsync(Name))
                .LeftOver.Where(one => one.Key == "gauge")
                .Select(one => (one.State, one.Reason))
                .Single()
        );

        // Removed: tried, lied about, done.
        var remove = new LeftOverRequest(["former"], "remove");
        Assert.Equal(1, (await ship.Client.DecideLeftOversAsync(Name, remove, dryRun: true)).Done);
        Assert.True((await there.HoldsAsync()).ContainsKey("former@elsewhere.example"));
        await there.BehaveAsync(new JsonObject { ["lies"] = "delete" });
        var refused = await ship.Client.DecideLeftOversAsync(Name, remove);
        Assert.Equal((0, "left-over.kept"), (refused.Done, refused.Refused.Single().Problem.Code));
        await there.BehaveAsync();
        Assert.Equal(1, (await ship.Client.DecideLeftOversAsync(Name, remove)).Done);
        Assert.False((await there.HoldsAsync()).ContainsKey("former@elsewhere.example"));
        Assert.Equal("left-over.not-found", await CodeOf(ship.Client.DecideLeftOversAsync(Name, remove)));

        // Somebody's: it follows what they may do here from then on, and is never removed.
        await ship.BringAboardAsync(petra);
        await UntilAsync(there, petra, (true, ""));
        await SettledAsync(ship);
        Assert.Equal(
            "left-over.has-one",
            await CodeOf(
                ship.Client.DecideLeftOversAsync(Name, new LeftOverRequest(["theirs"], "adopt", petra))
            )
        );
        Assert.Equal(
            "person.not-found",
            await CodeOf(
                ship.Client.DecideLeftOversAsync(
                    Name,
                    new LeftOverRequest(["theirs"], "adopt", "nobody@x.example")
                )
            )
        );
        var bosun = ship.Address("bosun");
        await ship.BringAboardAsync(bosun, role: "edit");
        await ship.Client.DecideLeftOversAsync(Name, new LeftOverRequest(["theirs"], "adopt", bosun));
        // Nothing is mapped to what the bosun may do: nobody gets in by it.
        await UntilAsync(there, "theirs@elsewhere.example", (false, ""));
        await SettledAsync(ship);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "edit"));
        await UntilAsync(there, "theirs@elsewhere.example", (true, ""));
        await SettledAsync(ship);
        await DoneAsync(ship, (await ship.Client.EndAsync(bosun)).Id);
        Assert.False((await there.HoldsAsync())["theirs@elsewhere.example"].IsOn);
        await harbour.LetPassAsync(TimeSpan.FromDays(4));
        Assert.Equal(1, (await ship.Client.OverviewAsync()).LeftOver);
    }
}
