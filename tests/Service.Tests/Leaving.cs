using System.Net;
using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Service.Tests.World;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

public sealed class Leaving_on_SQLite(SqliteHarbour harbour) : Leaving(harbour), IClassFixture<SqliteHarbour>;

public sealed class Leaving_on_PostgreSQL(PostgresHarbour harbour)
    : Leaving(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Ending access, and the record of it.</summary>
public abstract class Leaving(Harbour harbour)
{
    [Fact]
    public async Task A_session_is_dead_on_its_very_next_request_on_every_node()
    {
        var ship = await harbour.NewShipAsync();
        var kofi = ship.Address("kofi");
        await ship.BringAboardAsync(kofi, "staff", "manage");
        using var here = await ship.BrowserOfAsync(kofi);
        using var there = await ship.BrowserOfAsync(kofi, atOtherNode: true);
        Assert.Equal(HttpStatusCode.OK, (await here.GetAsync(ship.Path("/people"))).StatusCode);
        Assert.Equal(HttpStatusCode.OK, (await there.GetAsync(ship.Path("/people"))).StatusCode);
        await ship.Client.EndAsync(kofi);
        Assert.Equal(HttpStatusCode.Unauthorized, (await here.GetAsync(ship.Path("/people"))).StatusCode);
        Assert.Equal(HttpStatusCode.Unauthorized, (await there.GetAsync(ship.Path("/people"))).StatusCode);
    }

    [Fact]
    public async Task A_planned_end_comes_by_itself_at_the_end_of_its_day()
    {
        var ship = await harbour.NewShipAsync();
        var ines = ship.Address("ines");
        await ship.BringAboardAsync(ines);
        using var own = await ship.ClientOfAsync(ines);
        var workspace = await ship.Client.WorkspaceAsync();
        Assert.Equal("planned", (await ship.Client.EndAsync(ines, workspace.Today.AddDays(2))).State);
        // It can be moved as far as was agreed: the usual ninety days.
        Assert.Equal(
            "departure.later",
            await CodeOf(ship.Client.EndAsync(ines, workspace.Today.AddDays(90)))
        );
        await own.WorkspaceAsync();
        // Requests judge by the clock itself, before anybody has written the ending down.
        harbour.Clock.Offset += TimeSpan.FromDays(3);
        Assert.Contains(await CodeOf(own.WorkspaceAsync()), new[] { "access.ended", "sign-in.required" });
        Assert.Equal("ended", (await ship.Client.PersonAsync(ines)).State);
        await harbour.LetPassAsync(TimeSpan.Zero);
        var history = (await ship.Client.PersonHistoryAsync((await ship.Client.PersonAsync(ines)).Id)).Items;
        Assert.Equal(("member.ended", "clock"), (history[^1].Action, history[^1].Via));
        // Their time over, they can be invited and come again.
        await ship.InviteAsync(ines);
        var secret = await ship.SecretAsync(ines, mails: 2);
        await ship.Client.AcceptAsync(new(secret, Ship.Password, Address: ines));
        Assert.Equal("active", (await ship.Client.PersonAsync(ines)).State);
    }

    [Fact]
    public async Task The_last_administrator_cannot_be_ended_by_any_route()
    {
        var ship = await harbour.NewShipAsync();
        var today = (await ship.Client.WorkspaceAsync()).Today;
        Assert.Equal("administrator.last", await CodeOf(ship.Client.EndAsync(ship.Administrator)));
        Assert.Equal(
            "administrator.last",
            await CodeOf(ship.Client.EndAsync(ship.Administrator, today.AddDays(5)))
        );
        // Neither a manager with an end date nor an outside one counts.
        await ship.BringAboardAsync(ship.Address("brief"), "staff", "manage", today.AddDays(20));
        await ship.BringAboardAsync(ship.Address("outside"), "partner", "manage");
        Assert.Equal("administrator.last", await CodeOf(ship.Client.EndAsync(ship.Administrator)));
        Assert.Equal(
            "administrator.last",
            (await ship.Client.PlanDepartureAsync(ship.Administrator)).Problem!.Code
        );
    }

    // Thirty times at every run; COMEABOARD_TEST_ROUNDS may say another number.
    private static readonly int Rounds = int.TryParse(
        Environment.GetEnvironmentVariable("COMEABOARD_TEST_ROUNDS"),
        out var rounds
    )
        ? rounds
        : 30;

    private const int Routes = 4;

    [Fact]
    public async Task Two_administrators_who_end_each_other_at_once_leave_exactly_one()
    {
        var (ship, kofi, second) = await TwoAsync(0);
        for (var round = 0; round < Rounds; round++)
        {
            // By any of the routes, at two nodes of the same service.
            var (ours, theirs) = (round % Routes, round / 3 % Routes);
            var codes = await Task.WhenAll(
                Try(RouteAsync(ship.OtherNode, kofi, ours)),
                Try(RouteAsync(second, ship.Administrator, theirs))
            );
            Assert.Single(codes, "done");
            await using var rows = harbour.Database.Open(ship.Id);
            var world = (await Storage.Access.AccessPicture.ReadAsync(rows, 0)).World;
            Assert.Single(
                Core.Departures.AdministratorRule.Lasting(world, DateOnly.FromDateTime(DateTime.UtcNow))
            );
            // Whoever is left brings the other back, if that goes.
            var hasFirst = codes[0] == "done";
            if ((hasFirst ? ours : theirs) == 0)
                (ship, kofi, second) = await TwoAsync(round + 1);
            else if (hasFirst)
                await BackAsync(ship.Client, kofi, ours);
            else
                await BackAsync(second, ship.Administrator, theirs);
        }

        async Task<(Ship, string, AboardClient)> TwoAsync(int round)
        {
            var made = await harbour.NewShipAsync();
            var address = made.Address("kofi" + round);
            await made.BringAboardAsync(address, "staff", "manage");
            return (made, address, await made.ClientOfAsync(address));
        }

        static Task RouteAsync(AboardClient by, string whom, int route) =>
            route switch
            {
                0 => by.EndAsync(whom),
                1 => StepAsync(by, new PeopleStepRequest("pause", [whom])),
                2 => StepAsync(by, new PeopleStepRequest("take", [whom], Role: "manage")),
                _ => StepAsync(by, new PeopleStepRequest("kind", [whom], "guest")),
            };

        static Task BackAsync(AboardClient by, string whom, int route) =>
            StepAsync(
                by,
                route switch
                {
                    1 => new PeopleStepRequest("resume", [whom]),
                    2 => new PeopleStepRequest("grant", [whom], Role: "manage"),
                    _ => new PeopleStepRequest("kind", [whom], "staff"),
                }
            );

        static async Task StepAsync(AboardClient by, PeopleStepRequest step)
        {
            var answer = await by.PeopleStepsAsync(step);
            if (answer.Refused is [var refused, ..])
                throw new RefusedException(refused.Problem);
        }

        static async Task<string> Try(Task step)
        {
            try
            {
                await step;
                return "done";
            }
            catch (RefusedException refused)
            {
                return refused.Problem.Code;
            }
        }
    }

    [Fact]
    public async Task What_a_leaver_asked_passes_to_whoever_ends_them()
    {
        var ship = await harbour.NewShipAsync();
        var kofi = ship.Address("kofi");
        await ship.BringAboardAsync(kofi, "staff", "manage");
        using var second = await ship.ClientOfAsync(kofi);
        await second.SendInvitationAsync(new(ship.Address("ines"), "guest", "view"), "x");
        await ship.Client.EndAsync(kofi);
        await ship.AcceptAsync(await ship.SecretAsync(ship.Address("ines")), "Ines");
        Assert.Contains(
            "Ines accepted",
            await ship.MailAsync(ship.Administrator, "Ines accepted"),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public async Task A_change_somebody_else_made_meanwhile_is_not_overwritten()
    {
        var ship = await harbour.NewShipAsync();
        var sent = await ship.InviteAsync(ship.Address("ines"));
        await ship.SecretAsync(ship.Address("ines"));
        using var browser = await ship.BrowserOfAsync(ship.Administrator);
        Assert.Equal(
            HttpStatusCode.Forbidden,
            (await browser.PostAsync(ship.Path($"/invitations/{sent.Id}/revoke"), null)).StatusCode
        );
        var request = new HttpRequestMessage(HttpMethod.Post, ship.Path($"/invitations/{sent.Id}/revoke"));
        request.Headers.Add("If-Match", "\"99\"");
        request.Headers.Add("Authorization", "Bearer " + ship.Token);
        Assert.Equal(HttpStatusCode.PreconditionFailed, (await browser.SendAsync(request)).StatusCode);
        Assert.Equal("sent", (await ship.Client.InvitationAsync(sent.Id)).State);
    }

    [Theory]
    [InlineData("UPDATE record SET action = 'member.ended' WHERE sequence = 2", "record.changed", 2)]
    [InlineData("UPDATE record SET details = 'null' WHERE sequence = 3", "record.changed", 3)]
    [InlineData("DELETE FROM record WHERE sequence = 2", "record.missing", 2)]
    [InlineData("DELETE FROM record WHERE sequence > 3", "record.cut", 4)]
    [InlineData(
        "UPDATE record SET sequence = CASE sequence WHEN 2 THEN 1002 WHEN 3 THEN 1003 END WHERE sequence IN (2, 3); UPDATE record SET sequence = 2 WHERE sequence = 1003; UPDATE record SET sequence = 3 WHERE sequence = 1002",
        "record.reordered",
        2
    )]
    public async Task Tampering_with_the_record_is_found(string tampering, string code, long at)
    {
        var ship = await harbour.NewShipAsync();
        await ship.InviteAsync(ship.Address("ines"));
        await ship.SecretAsync(ship.Address("ines"));
        await Task.Delay(200);
        Assert.True((await ship.Client.VerifyRecordAsync()).Whole);
        harbour.IsDamaged = true;
        await Sql.RunAsync(harbour, tampering, ship.Id);
        var found = await ship.Client.VerifyRecordAsync();
        Assert.Equal((false, code, at), (found.Whole, found.FaultCode, found.FaultAt!.Value));
    }
}
