using System.Net;
using System.Net.Http.Json;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.SignIn;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class HereTwice_on_SQLite(SqliteHarbour harbour)
    : HereTwice(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class HereTwice_on_PostgreSQL(PostgresHarbour harbour)
    : HereTwice(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>People who are in a workspace twice: found as they come, listed, and said to be two.</summary>
public abstract class HereTwice(Harbour harbour)
{
    [Fact]
    public async Task Whoever_comes_a_second_time_is_found_and_said_in_words()
    {
        var ship = await harbour.NewShipAsync();
        var (first, second) = await InesAsync(ship);
        await BringAsync(ship, "casper", "Casper Dunmore");
        var pair = Assert.Single(await FoundAsync(ship, 1));
        Assert.Equal((first, second), (pair.Left.Address, pair.Right.Address));
        Assert.Equal(("Dr Ines Calloway", "Ines Calloway"), (pair.Left.Name, pair.Right.Name));
        Assert.InRange(pair.Score, 0.6, 1);
        Assert.Equal(pair.Score >= 0.95 ? "same" : "likely", pair.Verdict);
        Assert.Contains(pair.Reasons, reason => reason.Contains("family name", StringComparison.Ordinal));
        Assert.Null(pair.Distinct);
        Assert.Equal(1, (await ship.Client.OverviewAsync()).TwiceHere);

        // Not before anybody came, and of nobody else's people.
        var other = await harbour.NewShipAsync();
        await BringAsync(other, "ines", "Ines Calloway");
        await LookAsync();
        Assert.Empty((await other.Client.DuplicatesAsync()).Items);

        // A new name is looked at like a new person.
        await ship.Client.ChangePersonAsync(second, new DetailsRequest(Name: "Walburga Utermöhlen"));
        Assert.Empty(await FoundAsync(ship, 0));
    }

    [Fact]
    public async Task That_two_are_two_is_remembered_with_who_said_so_until_it_is_taken_back()
    {
        var ship = await harbour.NewShipAsync();
        var (first, second) = await InesAsync(ship);
        await FoundAsync(ship, 1);
        var wish = new DistinctRequest(second.ToUpperInvariant(), first, "Mother and daughter.");
        var tried = await ship.Client.DistinguishAsync(wish, dryRun: true);
        Assert.Equal("Mira Tollander", tried.Distinct?.By);
        Assert.Single((await ship.Client.DuplicatesAsync()).Items);

        await ship.Client.DistinguishAsync(wish);
        Assert.Empty((await ship.Client.DuplicatesAsync()).Items);
        Assert.Equal(0, (await ship.Client.OverviewAsync()).TwiceHere);
        // People come, a day passes: what was said stays said.
        await BringAsync(ship, "casper", "Casper Dunmore");
        await LookAsync();
        await harbour.LetPassAsync(TimeSpan.FromDays(1.1));
        await LookAsync();
        Assert.Empty((await ship.Client.DuplicatesAsync()).Items);
        var said = Assert.Single((await ship.Client.DuplicatesAsync(said: "distinct")).Items);
        Assert.Equal(("Mira Tollander", "Mother and daughter."), (said.Distinct?.By, said.Distinct?.Reason));
        var entry = Assert.Single(
            (await ship.Client.RecordAsync()).Items,
            one => one.Action == "people.distinct"
        );
        Assert.Contains("Ines Calloway", entry.Details.ToString(), StringComparison.Ordinal);

        var back = await ship.Client.DistinguishAsync(new DistinctRequest(first, second, TakesBack: true));
        Assert.Null(back.Distinct);
        Assert.Single(await FoundAsync(ship, 1));
        Assert.Equal(
            "duplicate.not-said",
            await CodeOf(ship.Client.DistinguishAsync(new DistinctRequest(first, second, TakesBack: true)))
        );
        // Of two who were never taken for one it can be said as well, and taken back without a trace in the list.
        await ship.Client.DistinguishAsync(new DistinctRequest(first, ship.Administrator));
        await ship.Client.DistinguishAsync(new DistinctRequest(ship.Administrator, first, TakesBack: true));
        await using (var rows = harbour.Database.Open(ship.Id))
            Assert.Equal(1, await rows.Duplicates.CountAsync());
        Assert.Equal(1, (await ship.Client.OverviewAsync()).TwiceHere);
        await FoundAsync(ship, 1);
        Assert.Empty((await ship.Client.DuplicatesAsync(said: "distinct")).Items);
    }

    [Fact]
    public async Task Whoever_leaves_is_not_twice_any_more()
    {
        var ship = await harbour.NewShipAsync();
        var (first, second) = await InesAsync(ship);
        await FoundAsync(ship, 1);
        await ship.Client.DistinguishAsync(new DistinctRequest(first, second));
        await ship.Client.EndAsync(second);
        Assert.Empty(await FoundAsync(ship, 0));
        Assert.Empty((await ship.Client.DuplicatesAsync(said: "distinct")).Items);
        Assert.Equal(
            "person.not-found",
            await CodeOf(ship.Client.DistinguishAsync(new DistinctRequest(first, second)))
        );
    }

    [Fact]
    public async Task Said_by_many_at_once_it_is_said_once_and_nothing_else_is_possible()
    {
        var ship = await harbour.NewShipAsync();
        var (first, second) = await InesAsync(ship);
        await FoundAsync(ship, 1);
        var wish = new DistinctRequest(first, second);
        await Task.WhenAll(
            Enumerable
                .Range(0, 8)
                .Select<int, Task>(i => (i % 2 == 0 ? ship.Client : ship.OtherNode).DistinguishAsync(wish))
                .Append<Task>(LookAsync())
        );
        await using (var rows = harbour.Database.Open(ship.Id))
            Assert.Equal(1, await rows.Duplicates.CountAsync());

        Assert.Equal(
            "duplicate.one",
            await CodeOf(ship.Client.DistinguishAsync(new DistinctRequest(first, first.ToUpperInvariant())))
        );
        foreach (var nobody in new[] { "", "nobody@nowhere.example", Guid.NewGuid().ToString(), "\0" })
            Assert.Equal(
                "person.not-found",
                await CodeOf(ship.Client.DistinguishAsync(new DistinctRequest(first, nobody)))
            );
        Assert.Equal("duplicate.least-unknown", await CodeOf(ship.Client.DuplicatesAsync(least: "perhaps")));
        Assert.Equal("duplicate.said-unknown", await CodeOf(ship.Client.DuplicatesAsync(said: "nothing")));
        foreach (var cursor in new[] { "x", "1-2", "999-", "-1-" + Guid.NewGuid().ToString("N") })
            Assert.Equal("cursor.malformed", await CodeOf(ship.Client.DuplicatesAsync(cursor: cursor)));

        // Whoever is here without that duty sees nothing of it, and the other house neither.
        var guest = await ship.ClientOfAsync(second);
        Assert.Equal("right.missing", await CodeOf(guest.DuplicatesAsync()));
        Assert.Equal("right.missing", await CodeOf(guest.DistinguishAsync(wish)));
        var other = await harbour.NewShipAsync();
        Assert.Equal("person.not-found", await CodeOf(other.Client.DistinguishAsync(wish)));
    }

    [Fact]
    public async Task The_list_goes_by_pages_the_likeliest_first_and_as_a_file()
    {
        var ship = await harbour.NewShipAsync();
        await InesAsync(ship);
        await BringAsync(ship, "tomas.ebb", "Tomas Ebb");
        await BringAsync(ship, "t.ebb", "Tomas Ebb");
        await BringAsync(ship, "yusra.halim", "Yusra Halim");
        await BringAsync(ship, "yusra.halym", "Yusra Halym");
        var all = await FoundAsync(ship, 3);
        Assert.Equal(all.Select(pair => pair.Score).OrderDescending(), all.Select(pair => pair.Score));
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        var (seen, path) = (new List<string>(), ship.Path("/duplicates?limit=1"));
        for (var page = 0; page < 3; page++)
        {
            var answer = await browser.GetFromJsonAsync<System.Text.Json.JsonElement>(path);
            seen.Add(answer.GetProperty("items")[0].GetProperty("left").GetProperty("address").GetString()!);
            path = ship.Path("/duplicates?limit=1&cursor=" + answer.GetProperty("next").GetString());
        }
        Assert.Equal(all.Select(pair => pair.Left.Address), seen);
        var file = await browser.GetStringAsync(ship.Path("/duplicates?format=csv"));
        Assert.Equal(4, file.TrimEnd().Split('\n').Length);
        Assert.Contains("Tomas Ebb <", file, StringComparison.Ordinal);
    }

    private async Task<(string First, string Second)> InesAsync(Ship ship) =>
        (
            await BringAsync(ship, "ines.calloway", "Dr Ines Calloway"),
            await BringAsync(ship, "calloway.ines", "Ines Calloway")
        );

    private static async Task<string> BringAsync(Ship ship, string local, string name)
    {
        // Each at a house of their own: a common domain would tell something.
        var address = $"{local}@{ship.Name}-{Guid.NewGuid().ToString("N")[..6]}.example";
        await ship.InviteAsync(address);
        await ship.AcceptAsync(await ship.SecretAsync(address), name);
        return address;
    }

    private async Task LookAsync()
    {
        foreach (var node in new[] { harbour.Node, harbour.OtherNode })
            await Patience.ThroughAsync(() => node.Services.GetRequiredService<Duplicates>().CatchUpAsync());
    }

    /// <summary>The pairs of a workspace, once there are so many.</summary>
    private Task<IReadOnlyList<DuplicateView>> FoundAsync(Ship ship, int count) =>
        Patience.UntilAsync(
            async () =>
            {
                await LookAsync();
                return (IReadOnlyList<DuplicateView>)(await ship.Client.DuplicatesAsync()).Items;
            },
            found => found.Count == count
        );
}
