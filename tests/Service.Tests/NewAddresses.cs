using ComeAboard.Client.Accounts;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class NewAddresses_on_SQLite(SqliteHarbour harbour)
    : NewAddresses(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class NewAddresses_on_PostgreSQL(PostgresHarbour harbour)
    : NewAddresses(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>A workspace gives many new addresses: a new domain, or another scheme.</summary>
public abstract class NewAddresses(Harbour harbour)
{
    [Fact]
    public async Task By_a_pattern_held_accounts_are_corrected_and_others_get_a_proposal()
    {
        var (ship, fresh) = await CrewAsync();
        var (ada, bo) = (ship.Address("ada"), ship.Address("bo"));
        var wish = new ReaddressRequest($"{{family}}@{fresh}", Reason: "The ship has a new name.");
        var plan = await ship.Client.ReaddressAsync(wish, dryRun: true);
        Assert.Equal(
            [(ada, "ada@" + fresh, "correct"), (bo, "bo@" + fresh, "propose")],
            plan.Items.Select(one => (one.Address, one.To, one.Verdict))
        );
        Assert.Equal((1, 1), (plan.Counts["correct"], plan.Counts["propose"]));
        Assert.Equal(0, await WaitingAsync(ship));
        await ship.Client.ReaddressAsync(wish);
        Assert.Equal(2, await WaitingAsync(ship));
        foreach (var address in new[] { ada, bo })
            Assert.Contains(
                "The ship has a new name.",
                await ship.MailAsync(address, "proposes"),
                StringComparison.Ordinal
            );
        // Nothing has changed before somebody shows that the address is theirs.
        Assert.Equal(ada, (await ship.Client.PersonAsync(ada)).Address);
    }

    [Fact]
    public async Task Collisions_are_shown_and_leave_everybody_where_they_are()
    {
        var (ship, fresh) = await CrewAsync();
        var plan = await ship.Client.ReaddressAsync(new ReaddressRequest($"{{given}}@{fresh}"), dryRun: true);
        Assert.All(plan.Items, one => Assert.Equal("collides", one.Verdict));
        Assert.Contains(ship.Address("bo"), plan.Items[0].Sentence, StringComparison.Ordinal);
        // By a file each may go where there is room.
        var (ada, bo) = (ship.Address("ada"), ship.Address("bo"));
        var mixed = await ship.Client.ReaddressAsync(
            new ReaddressRequest(
                Entries:
                [
                    new ReaddressEntry(ada, "ada.new@" + fresh),
                    new ReaddressEntry(bo, ship.Administrator),
                    new ReaddressEntry(ship.Administrator, "nothing"),
                ]
            )
        );
        Assert.Equal(["correct", "propose", "wrong"], mixed.Items.Select(one => one.Verdict));
        await ProveAsync(ship.Administrator);
        mixed = await ship.Client.ReaddressAsync(
            new ReaddressRequest(
                Entries: [new ReaddressEntry(bo, ship.Administrator), new ReaddressEntry(ada, ada)]
            )
        );
        Assert.Equal(["collides", "same"], mixed.Items.Select(one => one.Verdict));
        // A held account stays at a domain of the workspace.
        var away = await ship.Client.ReaddressAsync(
            new ReaddressRequest(Entries: [new ReaddressEntry(ada, "ada@elsewhere.example")])
        );
        Assert.Equal(("refused", "domain.not-shown"), (away.Items[0].Verdict, away.Items[0].Code));
    }

    [Fact]
    public async Task What_is_not_meant_is_refused_and_other_workspaces_have_no_part_in_it()
    {
        var (ship, fresh) = await CrewAsync();
        var ada = ship.Address("ada");
        foreach (
            var (code, request) in new[]
            {
                ("readdress.one-way", new ReaddressRequest()),
                ("readdress.one-way", new ReaddressRequest("{given}@x.example", Entries: [])),
                ("pattern.malformed", new ReaddressRequest("crew@x.example")),
                ("domain.unknown", new ReaddressRequest("{given}@x.example", From: "elsewhere.example")),
                ("readdress.how-many", new ReaddressRequest(Entries: [])),
                (
                    "readdress.twice",
                    new ReaddressRequest(
                        Entries:
                        [
                            new ReaddressEntry(ada, "a@" + fresh),
                            new ReaddressEntry(ada, "b@" + fresh),
                        ]
                    )
                ),
                (
                    "person.not-found",
                    new ReaddressRequest(Entries: [new ReaddressEntry("nobody@x.example", "a@" + fresh)])
                ),
            }
        )
            Assert.Equal(code, await CodeOf(ship.Client.ReaddressAsync(request)));
        var other = await harbour.NewShipAsync();
        Assert.Empty((await other.Client.ReaddressAsync(new ReaddressRequest("{given}@x.example"))).Items);
        Assert.Equal(
            "person.not-found",
            await CodeOf(
                other.Client.ReaddressAsync(
                    new ReaddressRequest(Entries: [new ReaddressEntry(ada, "a@" + fresh)])
                )
            )
        );
        var purser = "purser@mailhaven.example";
        await ship.BringAboardAsync(purser, "staff", "view");
        using var client = await ship.ClientOfAsync(purser);
        Assert.Equal(
            "right.missing",
            await CodeOf(client.ReaddressAsync(new ReaddressRequest("{given}@x.example")))
        );
    }

    private static async Task<int> WaitingAsync(Ship ship)
    {
        await using var rows = ship.Harbour.Database.Open(ship.Id);
        return await rows.Proposals.CountAsync();
    }

    private async Task ProveAsync(string address)
    {
        await using var rows = harbour.Database.Open();
        var now = harbour.Clock.GetUtcNow();
        await rows
            .AccountAddresses.Where(a => a.Address == address)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.ProvedAt, now));
    }

    /// <summary>A workspace with an old and a new domain, one account at the old one that it holds and one that it does not.</summary>
    private async Task<(Ship Ship, string Fresh)> CrewAsync()
    {
        var ship = await harbour.NewShipAsync();
        var fresh = $"new-{ship.Name}.example";
        await ship.BringAboardAsync(ship.Address("ada"), "staff", "view");
        await ship.BringAboardAsync(ship.Address("bo"), "guest", "view");
        await ship.ProveAsync(ship.Address("x").Split('@')[1], fresh);
        await using var rows = harbour.Database.Open(ship.Id);
        var ada = ship.Address("ada");
        await rows
            .Accounts.Where(a => a.Address == ada)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.CustodyId, ship.Id));
        return (ship, fresh);
    }
}
