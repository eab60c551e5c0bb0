using ComeAboard.Client.Accounts;
using ComeAboard.Client.Departures;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class ManyLeave_on_SQLite(SqliteHarbour harbour)
    : ManyLeave(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class ManyLeave_on_PostgreSQL(PostgresHarbour harbour)
    : ManyLeave(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>The access of many, ended together.</summary>
public abstract class ManyLeave(Harbour harbour)
{
    private const int Many = 104;

    [Fact]
    public async Task Many_are_out_with_one_change_and_what_else_there_is_to_do_follows_for_every_one()
    {
        var ship = await harbour.NewShipAsync();
        foreach (var some in Enumerable.Range(0, Many).Chunk(8))
            await Task.WhenAll(some.Select(n => ship.BringAboardAsync(ship.Address($"guest{n}"))));
        var mate = ship.Address("mate");
        await ship.BringAboardAsync(mate, "staff", "manage");
        var leaver = await ship.ClientOfAsync(ship.Address("guest7"));
        await leaver.WorkspaceAsync();
        var planned = await ship.Client.EndAsync(
            ship.Address("guest9"),
            DateOnly.FromDateTime(harbour.Clock.GetUtcNow().UtcDateTime).AddDays(20)
        );
        Assert.Equal(
            "departure.who",
            await CodeOf(ship.Client.PlanDeparturesAsync(new DeparturesRequest([mate]) { Kind = "guest" }))
        );
        var plan = await ship.Client.PlanDeparturesAsync(new DeparturesRequest { Kind = "guest" });
        Assert.Equal(Many, plan.Total);
        Assert.Equal(
            11,
            (
                await ship.Client.PlanDeparturesAsync(
                    new DeparturesRequest { Kind = "guest", Search = "guest10" }
                )
            ).Total
                + (await ship.Client.PlanDeparturesAsync(new DeparturesRequest { Search = "guest9@" })).Total
                + 5
        );

        var answer = await ship.Client.StartDeparturesAsync(
            new DeparturesRequest(To: mate) { Kind = "guest" }
        );
        Assert.Equal((Many, 0), (answer.Total, answer.Refused.Count));
        // Whatever is still to be done for them: nobody gets in any more.
        Assert.Contains(
            await CodeOf(leaver.WorkspaceAsync()),
            (string[])["access.ended", "token.invalid", "not-signed-in"]
        );
        Assert.All(answer.Departures, one => Assert.Contains(one.State, (string[])["running", "done"]));
        await harbour.LetPassAsync(TimeSpan.Zero);
        var progress = await Patience.UntilAsync(
            () => ship.Client.DepartureProgressAsync(),
            now => now is { Here: 0, Running: 0 }
        );
        Assert.Equal((0, 0), (progress.Here, progress.Running));
        var departures = new List<DepartureView>();
        for (string? cursor = null; ; )
        {
            var page = await ship.Client.DeparturesAsync("done", cursor);
            departures.AddRange(page.Items);
            if ((cursor = page.Next) is null)
                break;
        }
        Assert.Equal(Many, departures.Count);
        Assert.All(departures, one => Assert.NotNull(one.Receipt));
        Assert.All(departures, one => Assert.Equal("Mira Tollander", one.RequestedBy));
        Assert.Equal("undone", (await ship.Client.DepartureAsync(planned.Id)).State);
        // What was agreed before is what somebody who was ended by mistake has again.
        var back = await ship.Client.ReinstateAsync(ship.Address("guest9"));
        Assert.Equal(planned.Agreed, back.Until);
        Assert.Equal("active", (await ship.Client.PersonAsync(ship.Address("guest9"))).State);
        Assert.Equal(
            "departure.nobody",
            await CodeOf(ship.Client.StartDeparturesAsync(new DeparturesRequest { Kind = "client" }))
        );
    }

    [Fact]
    public async Task Whoever_cannot_be_ended_stays_and_holds_up_nobody()
    {
        var ship = await harbour.NewShipAsync();
        foreach (var some in Enumerable.Range(0, Many).Chunk(8))
            await Task.WhenAll(some.Select(n => ship.BringAboardAsync(ship.Address($"guest{n}"))));
        var everybody = new List<string>();
        for (string? cursor = null; ; )
        {
            var page = await ship.Client.PeopleAsync(cursor: cursor, limit: 200);
            everybody.AddRange(page.Items.Select(one => one.Address));
            if ((cursor = page.Next) is null)
                break;
        }
        Assert.Equal(Many + 1, everybody.Count);
        var tomorrow = DateOnly.FromDateTime(harbour.Clock.GetUtcNow().UtcDateTime).AddDays(2);
        var answer = await ship.Client.StartDeparturesAsync(new DeparturesRequest(everybody, On: tomorrow));
        Assert.Equal("administrator.last", answer.Refused.Single().Problem.Code);
        Assert.Equal(
            (Many, tomorrow),
            (answer.Total, (await ship.Client.PersonAsync(ship.Address("guest3"))).Until)
        );
        Assert.Equal(
            "departure.later",
            (
                await ship.Client.StartDeparturesAsync(
                    new DeparturesRequest(On: tomorrow.AddYears(3)) { Kind = "guest" }
                )
            )
                .Refused.Select(one => one.Problem.Code)
                .Distinct()
                .Single()
        );
        await harbour.LetPassAsync(TimeSpan.FromDays(4));
        Assert.Equal("ended", (await ship.Client.PersonAsync(ship.Address("guest3"))).State);
    }
}
