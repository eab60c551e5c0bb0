using ComeAboard.Client.Access;
using ComeAboard.Service.Tests.World;
using Microsoft.EntityFrameworkCore;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class MovingIn_on_SQLite(SqliteHarbour harbour)
    : MovingIn(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class MovingIn_on_PostgreSQL(PostgresHarbour harbour)
    : MovingIn(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>People who have a role directly are moved under a group, and back.</summary>
public abstract class MovingIn(Harbour harbour)
{
    private DateOnly Today => DateOnly.FromDateTime(harbour.Clock.GetUtcNow().DateTime);

    [Fact]
    public async Task People_come_under_a_group_without_losing_anything_and_back_as_they_were()
    {
        var (ship, ada, bo) = await CrewAsync();
        var before = await GrantsAsync(ship);
        var wish = new MoveInRequest("edit", "Logbook");
        var plan = await ship.Client.MoveIntoGroupAsync("Watch", wish, dryRun: true);
        Assert.Equal(("Watch", "edit at Logbook"), (plan.Group, plan.Gives));
        Assert.Equal(["Somebody ada", "Somebody bo"], plan.People.Select(person => person.Name));
        Assert.Equal(0, plan.Difference.Total);
        // Whoever had it for a while only would have it for good: that is said.
        Assert.Empty(plan.People[0].Gains);
        Assert.Contains(
            "edit at Logbook from",
            Assert.Single(plan.People[1].Gains),
            StringComparison.Ordinal
        );
        Assert.Equal(before, await GrantsAsync(ship));

        await ship.Client.MoveIntoGroupAsync("Watch", wish);
        foreach (var address in new[] { ada, bo })
        {
            var access = await ship.Client.PersonAccessAsync(address);
            Assert.DoesNotContain(access.Grants, grant => grant.Resource == "Logbook");
            Assert.Equal("edit", access.Places.Single(place => place.Place == "Logbook").Level);
            Assert.Contains("Watch", access.Groups);
        }
        Assert.Equal("move.nobody", await CodeOf(ship.Client.MoveIntoGroupAsync("Watch", wish)));

        await ship.Client.UndoMoveIntoGroupAsync("Watch", dryRun: true);
        var undone = await ship.OtherNode.UndoMoveIntoGroupAsync("Watch");
        Assert.Equal(2, undone.People.Count);
        Assert.Equal(before, await GrantsAsync(ship));
        Assert.Empty((await ship.Client.GroupMembersAsync("Watch")).Items);
        Assert.Equal("move.none", await CodeOf(ship.Client.UndoMoveIntoGroupAsync("Watch")));
        Assert.Contains(
            "group.moved-back",
            (await ship.Client.RecordAsync()).Items.Select(one => one.Action)
        );
    }

    [Fact]
    public async Task Whoever_would_lose_on_any_day_stops_it_and_is_named()
    {
        var (ship, ada, _) = await CrewAsync();
        await ship.Client.GrantAsync(
            new GrantRequest("edit", Group: "Watch", Resource: "Logbook", Until: Today.AddDays(90))
        );
        var before = await GrantsAsync(ship);
        var refused = await Assert.ThrowsAsync<Client.RefusedException>(() =>
            ship.Client.MoveIntoGroupAsync("Watch", new MoveInRequest("edit", "Logbook"))
        );
        Assert.Equal("move.loses", refused.Problem.Code);
        Assert.Contains(
            "Somebody ada: edit at Logbook from",
            refused.Problem.Title,
            StringComparison.Ordinal
        );
        Assert.DoesNotContain("Somebody bo", refused.Problem.Title, StringComparison.Ordinal);
        Assert.Equal(before, await GrantsAsync(ship));
        // The one who loses nothing can go alone.
        var alone = await ship.Client.MoveIntoGroupAsync(
            "Watch",
            new MoveInRequest("edit", "Logbook", [ship.Address("bo")])
        );
        Assert.Equal("Somebody bo", Assert.Single(alone.People).Name);
        Assert.Equal(
            "move.no-grant",
            await CodeOf(ship.Client.MoveIntoGroupAsync("Watch", new MoveInRequest("view", "Logbook", [ada])))
        );
    }

    [Fact]
    public async Task Undoing_lets_nobody_in_again_who_was_taken_out_and_takes_nothing_from_who_came_since()
    {
        var (ship, ada, bo) = await CrewAsync();
        await ship.Client.MoveIntoGroupAsync("Watch", new MoveInRequest("edit", "Logbook"));
        await ship.Client.TakeFromGroupAsync("Watch", ada);
        var cleo = ship.Address("cleo");
        await ship.BringAboardAsync(cleo);
        harbour.Clock.Offset += TimeSpan.FromSeconds(2);
        await ship.Client.PutIntoGroupAsync("Watch", new PeopleRequest([cleo]));
        var undone = await ship.Client.UndoMoveIntoGroupAsync("Watch");
        Assert.Equal("Somebody bo", Assert.Single(undone.People).Name);
        Assert.Equal("none", await LevelAsync(ship, ada));
        Assert.Equal("edit", await LevelAsync(ship, bo));
        Assert.Equal("edit", await LevelAsync(ship, cleo));

        // What was taken from the group is not given back to its people by undoing.
        await ship.Client.Groups.AddAsync(new GroupRequest("Second watch"));
        await ship.Client.MoveIntoGroupAsync("Second watch", new MoveInRequest("edit", "Logbook"));
        var grant = (await ship.Client.Groups.ShowAsync("Second watch")).Grants[0];
        await ship.Client.TakeGrantAsync(grant.Id);
        Assert.Equal("move.changed", await CodeOf(ship.Client.UndoMoveIntoGroupAsync("Second watch")));
    }

    [Fact]
    public async Task Who_may_not_give_it_moves_nobody_and_what_is_not_there_is_said()
    {
        var (ship, ada, _) = await CrewAsync();
        var wish = new MoveInRequest("edit", "Logbook");
        foreach (
            var (code, group, request) in new[]
            {
                ("group.unknown", "Nobody", wish),
                ("role.unknown", "Watch", wish with { Role = "boss" }),
                ("resource.unknown", "Watch", wish with { Resource = "Bilge" }),
                ("person.not-found", "Watch", wish with { People = [ship.Address("nobody")] }),
                ("move.nobody", "Watch", wish with { Role = "manage" }),
            }
        )
            Assert.Equal(code, await CodeOf(ship.Client.MoveIntoGroupAsync(group, request)));
        var purser = ship.Address("purser");
        await ship.BringAboardAsync(purser, "staff", "view");
        using (var client = await ship.ClientOfAsync(purser))
        {
            Assert.Equal("right.missing", await CodeOf(client.MoveIntoGroupAsync("Watch", wish)));
            Assert.Equal("right.missing", await CodeOf(client.UndoMoveIntoGroupAsync("Watch")));
        }
        await ship.Client.Roles.AddAsync(
            new RoleRequest("Clerk", "Arranges access.", "view", Duties: ["access"])
        );
        await ship.Client.GrantAsync(new GrantRequest("Clerk", purser));
        using (var client = await ship.ClientOfAsync(purser))
            Assert.Equal("right.beyond-own", await CodeOf(client.MoveIntoGroupAsync("Watch", wish)));
        var other = await harbour.NewShipAsync();
        Assert.Equal("group.unknown", await CodeOf(other.Client.MoveIntoGroupAsync("Watch", wish)));

        // Several at once: it is done once.
        var done = 0;
        await Task.WhenAll(
            Enumerable
                .Range(0, 5)
                .Select(async n =>
                {
                    try
                    {
                        await (n % 2 == 0 ? ship.Client : ship.OtherNode).MoveIntoGroupAsync("Watch", wish);
                        Interlocked.Increment(ref done);
                    }
                    catch (Client.RefusedException refused)
                    {
                        Assert.Equal("move.nobody", refused.Problem.Code);
                    }
                })
        );
        Assert.Equal((1, "edit"), (done, await LevelAsync(ship, ada)));
    }

    private static async Task<string> LevelAsync(Ship ship, string address) =>
        (await ship.Client.PersonAccessAsync(address))
            .Places.FirstOrDefault(place => place.Place == "Logbook")
            ?.Level
        ?? "none";

    private async Task<(Ship Ship, string Ada, string Bo)> CrewAsync()
    {
        var ship = await harbour.NewShipAsync();
        var (ada, bo) = (ship.Address("ada"), ship.Address("bo"));
        await ship.Client.Areas.AddAsync(new AreaRequest("Deck"));
        await ship.Client.Resources.AddAsync(new ResourceRequest("Logbook", "Deck"));
        await ship.Client.Roles.AddAsync(new RoleRequest("Nothing", "Looks at nothing.", "none"));
        await ship.Client.Groups.AddAsync(new GroupRequest("Watch"));
        await ship.BringAboardAsync(ada, "staff", "Nothing");
        await ship.BringAboardAsync(bo, "guest", "Nothing");
        await ship.Client.GrantAsync(new GrantRequest("edit", ada, Resource: "Logbook"));
        await ship.Client.GrantAsync(
            new GrantRequest("edit", bo, Resource: "Logbook", Until: Today.AddDays(30))
        );
        return (ship, ada, bo);
    }

    /// <summary>Everything that is given, to whom and from whom.</summary>
    private static async Task<string> GrantsAsync(Ship ship)
    {
        await using var rows = ship.Harbour.Database.Open(ship.Id);
        var grants = await rows.Grants.AsNoTracking().OrderBy(g => g.Id).ToListAsync();
        return string.Join(
            '\n',
            grants.Select(g =>
                $"{g.Id} {g.HolderKind} {g.HolderId} {g.RoleId} {g.ResourceId} {g.FirstDay} {g.LastDay} {g.GivenAt} {g.GivenByName}"
            )
        );
    }
}
