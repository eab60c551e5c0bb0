using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Client;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Tides_on_SQLite(SqliteHarbour harbour) : Tides(harbour), IClassFixture<SqliteHarbour>;

public sealed class Tides_on_PostgreSQL(PostgresHarbour harbour)
    : Tides(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>
/// Random walks over stays: people come, are given more, paused, planned to leave, ended and taken back, while the clock is moved on,
/// a connected system misbehaves and the process that serves it dies. Beside it a book kept by hand, that knows of each person
/// only what was said of them and the day it is.
/// </summary>
public abstract class Tides(Harbour harbour)
{
    private static readonly int Walks = int.TryParse(
        Environment.GetEnvironmentVariable("COMEABOARD_TEST_WALKS"),
        out var walks
    )
        ? walks
        : 1;

    private const int Steps = 45;
    private const int Desks = 3;
    private const string System = "Chart table";

    /// <summary>What is known of one person, by hand.</summary>
    private sealed class Line(string address, AboardClient own)
    {
        public string Address => address;

        /// <summary>Their own client, with a token of theirs.</summary>
        public AboardClient Own { get; set; } = own;
        public DateOnly? LastDay { get; set; }
        public bool HasGone { get; set; }
        public bool IsPaused { get; set; }
        public bool MayWrite { get; set; }

        public bool IsHere(DateOnly today) => !HasGone && !(LastDay < today);
    }

    [Fact]
    public async Task Whatever_happens_in_whatever_order_nobody_whose_time_is_over_has_anything_left_anywhere()
    {
        for (var walk = 0; walk < Walks; walk++)
        {
            var seed = Random.Shared.Next();
            try
            {
                await WalkAsync(new Random(seed));
            }
            catch (Exception fault)
            {
                throw new InvalidOperationException(
                    $"The walk of seed {seed} went wrong: {fault.Message}",
                    fault
                );
            }
        }
    }

    private async Task WalkAsync(Random random)
    {
        var ship = await harbour.NewShipAsync();
        await using var there = await ScimService.StartAsync("Readers", "Writers");
        await ship.Client.AddConnectionAsync(
            new ConnectionRequest(System, "scim", there.Url, Secret: ScimService.Token)
        );
        await ship.Client.AddMappingAsync(System, new MappingRequest("group:Readers", Role: "view"));
        await ship.Client.AddMappingAsync(System, new MappingRequest("group:Writers", Role: "edit"));
        await ship.Client.Pools.AddAsync(new PoolRequest("Desks", Desks));
        var (book, passed, told) = (new List<Line>(), 0, new List<string>());
        try
        {
            for (var step = 0; step < Steps; step++)
            {
                var client = random.Next(2) == 0 ? ship.Client : ship.OtherNode;
                var today = (await client.WorkspaceAsync()).Today;
                var line = book.Count > 0 ? book[random.Next(book.Count)] : null;
                await OneAsync(random.Next(20), client, line, today);
                await AgreeAsync(ship, book);
                if (step % 9 == 8)
                    await AgreeThereAsync(ship, there, book);
            }
            await AgreeThereAsync(ship, there, book);
        }
        catch (Exception fault)
        {
            throw new InvalidOperationException($"After {string.Join(", ", told)}: {fault.Message}", fault);
        }
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);

        async Task OneAsync(int which, AboardClient client, Line? line, DateOnly today)
        {
            var isHere = line?.IsHere(today) ?? false;
            switch (which)
            {
                case 0 or 1 or 2 or 3:
                    var address = ship.Address($"p{book.Count}");
                    DateOnly? until = random.Next(2) == 0 ? today.AddDays(random.Next(0, 20)) : null;
                    told.Add($"{address} comes until {until}");
                    await ship.BringAboardAsync(address, until: until);
                    book.Add(
                        new Line(address, await ship.ClientOfAsync(address))
                        {
                            LastDay = (await client.PersonAsync(address)).Until,
                        }
                    );
                    Assert.True(until is null || book[^1].LastDay == until);
                    break;
                case 4 or 5 when line is not null:
                    told.Add($"{line.Address} is ended");
                    var plan = await Try(() => client.PlanDepartureAsync(line.Address));
                    var ended = await Try(() => client.EndAsync(line.Address));
                    Assert.Equal(isHere, ended is not null);
                    if (ended is not null)
                        Assert.Equal(
                            plan!.Steps.Select(StepsOf.Planned),
                            ended.Steps.Select(StepsOf.Planned)
                        );
                    line.HasGone = true;
                    break;
                case 6 when line is not null:
                    var day = today.AddDays(random.Next(0, 4));
                    told.Add($"{line.Address} is to end on {day}");
                    if (await Try(() => client.EndAsync(line.Address, day)) is not null)
                        line.LastDay = day;
                    break;
                case 7 when line is not null:
                    told.Add($"{line.Address} may stay after all");
                    if (await Try(() => client.WithdrawEndAsync(line.Address)) is not null)
                    {
                        Assert.True(isHere);
                        line.LastDay = (await client.PersonAsync(line.Address)).Until;
                    }
                    break;
                case 8 or 9 or 10 when line is not null:
                    told.Add($"{line.Address} is taken back");
                    if (await Try(() => client.ReinstateAsync(line.Address)) is not null)
                    {
                        Assert.False(isHere);
                        (line.HasGone, line.LastDay) = (
                            false,
                            (await client.PersonAsync(line.Address)).Until
                        );
                        Assert.False(line.LastDay < today);
                        if (!line.IsPaused)
                            line.Own = await ship.ClientOfAsync(line.Address);
                    }
                    break;
                case 11 when line is not null:
                    told.Add($"{line.Address} is paused, or no more");
                    await client.PeopleStepsAsync(
                        new PeopleStepRequest(line.IsPaused ? "resume" : "pause", [line.Address])
                    );
                    if (isHere)
                        line.IsPaused = !line.IsPaused;
                    break;
                case 12 or 13 when line is not null:
                    told.Add($"{line.Address} may write, or no more");
                    var step = line.MayWrite ? "take" : "grant";
                    var given = await client.PeopleStepsAsync(
                        new PeopleStepRequest(step, [line.Address], Role: "edit")
                    );
                    if (given.Done.Count > 0)
                        line.MayWrite = !line.MayWrite;
                    break;
                case 14 when line is not null:
                    told.Add($"{line.Address} has a desk");
                    _ = await Try(() => client.GiveSeatsAsync("Desks", new PeopleRequest([line.Address])));
                    break;
                case 15 when line is not null:
                    var later = today.AddDays(random.Next(1, 30));
                    told.Add($"{line.Address} stays until {later}");
                    var moved = await client.PeopleStepsAsync(
                        new PeopleStepRequest("extend", [line.Address], Until: later)
                    );
                    if (moved.Done.Count > 0)
                        line.LastDay = later;
                    break;
                case 16:
                    told.Add("the system misbehaves");
                    await there.BehaveAsync(
                        random.Next(4) switch
                        {
                            0 => new JsonObject { ["away"] = true },
                            1 => new JsonObject { ["lies"] = "delete" },
                            2 => new JsonObject { ["lies"] = "patch" },
                            _ => new JsonObject { ["refuses"] = new JsonArray("DELETE") },
                        }
                    );
                    break;
                case 17:
                    told.Add("whoever serves the system dies");
                    // Nobody sets the clock by which others take over what it had.
                    await using (var rows = harbour.Database.Open(ship.Id))
                        await rows.Lanes.ExecuteUpdateAsync(set =>
                            set.SetProperty(l => l.Lease, Guid.NewGuid())
                                .SetProperty(l => l.LeasedUntil, DateTimeOffset.UtcNow.AddSeconds(4))
                        );
                    break;
                // Tokens count 90 days.
                case 18 or 19 when passed < 60:
                    var days = random.Next(4) == 0 ? 8 : random.Next(0, 3);
                    passed += days + 1;
                    told.Add($"{days} days and some hours pass");
                    await harbour.LetPassAsync(TimeSpan.FromDays(days) + TimeSpan.FromHours(random.Next(24)));
                    break;
            }
        }
    }

    /// <summary>Here, at every instant.</summary>
    private async Task AgreeAsync(Ship ship, List<Line> book)
    {
        var today = (await ship.Client.WorkspaceAsync()).Today;
        foreach (var line in book)
        {
            var isHere = line.IsHere(today);
            var person = await ship.Client.PersonAsync(line.Address);
            Assert.Equal((line.Address, isHere), (line.Address, person.State != "ended"));
            if (!isHere || line.IsPaused)
                await Assert.ThrowsAsync<RefusedException>(() => line.Own.WorkspaceAsync());
            if (isHere)
                continue;
            var access = await ship.Client.PersonAccessAsync(person.Id.ToString());
            Assert.NotEqual("", access.Cut);
            Assert.All(access.Places, place => Assert.Equal("none", place.Level));
        }
        await OpenThings.NameNobodyGoneAsync(harbour, ship);
        await using var rows = harbour.Database.Open(ship.Id);
        var here = (
            await rows.Members.Where(m => m.EndedAt == null).Select(m => m.Id).ToListAsync()
        ).ToHashSet();
        Assert.All(await rows.Seats.Select(s => s.MemberId).ToListAsync(), id => Assert.Contains(id, here));
    }

    /// <summary>There, once the system answers.</summary>
    private async Task AgreeThereAsync(Ship ship, ScimService there, List<Line> book)
    {
        await there.BehaveAsync();
        // Whoever died is not waited for, and what was tried in vain is tried again.
        await harbour.LetPassAsync(TimeSpan.FromHours(2));
        var lane = await Patience.UntilAsync(
            () => ship.Client.LaneAsync(System),
            one => one.State == "resting"
        );
        Assert.Equal(("resting", ""), (lane.State, lane.Answer));
        var today = (await ship.Client.WorkspaceAsync()).Today;
        var held = await there.HoldsAsync();
        foreach (var line in book)
        {
            var has = held.TryGetValue(line.Address, out var account) && account.IsOn;
            Assert.Equal((line.Address, line.IsHere(today) && !line.IsPaused), (line.Address, has));
            if (has)
                Assert.Equal(
                    (line.Address, line.MayWrite ? "Readers Writers" : "Readers"),
                    (line.Address, account.Groups)
                );
        }
        var keys = JsonSerializer.Serialize(
            await ship.Client.ReceiptKeysAsync(),
            WireJson.Default.ReceiptKeys
        );
        foreach (var departure in (await ship.Client.DeparturesAsync()).Items)
        {
            Assert.Contains(departure.State, (string[])["done", "planned", "undone"]);
            if (departure.State != "done")
                continue;
            var (says, problem) = ReceiptSeal.Verify(departure.Receipt!, keys);
            Assert.Null(problem);
            Assert.Equal(
                departure.Steps.Select(one => (one.Kind, one.Subject)),
                says!.Steps.Select(one => (one.Kind, one.Subject))
            );
        }
    }

    private static async Task<T?> Try<T>(Func<Task<T>> step)
        where T : class
    {
        try
        {
            return await step();
        }
        catch (RefusedException)
        {
            return null;
        }
    }
}
