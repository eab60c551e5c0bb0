using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Tests.World;
using Npgsql;
using Xunit;
using static ComeAboard.Service.Tests.World.Refusing;

namespace ComeAboard.Service.Tests;

// A real database server that members have login roles on.
public abstract partial class CarriedOut
{
    [Fact]
    public async Task On_a_database_server_a_role_lives_as_its_owner_is_here_and_what_they_leave_is_kept()
    {
        var ship = await harbour.NewShipAsync();
        await using var server = await RoleServer.StartAsync();
        await ConnectAsync(ship, server);
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        var line = new MappingRequest("group:" + RoleServer.Group, Role: "view");
        var missing = await ship.Client.PreviewCarryingAsync(
            Name,
            new PreviewRequest(line with { To = "group:pg_execute_server_program" })
        );
        Assert.Equal(["pg_execute_server_program"], missing.MissingGroups);
        await ship.Client.AddMappingAsync(Name, line);
        await SettledAsync(ship);
        var until = (await ship.Client.PersonAsync(hamish)).Until!.Value.AddDays(1);
        Assert.Equal($"LOGIN readers {until:yyyy-MM-dd} 00:00 Lisbon", await RoleAsync(server, hamish));

        // What they own in two databases, and who is signed in.
        foreach (var database in (string[])["charts", "lists"])
            await server.DoAsync(database, "CREATE TABLE public.soundings (depth int)", hamish);
        await using (var inside = await server.SignInAsync(hamish))
        {
            await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
            await HasAsync($"NOLOGIN  {until:yyyy-MM-dd} 00:00 Lisbon");
            await Assert.ThrowsAnyAsync<NpgsqlException>(() => AskAsync(inside));
            await Assert.ThrowsAsync<PostgresException>(() => server.SignInAsync(hamish));
        }
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [hamish]));
        await HasAsync($"LOGIN readers {until:yyyy-MM-dd} 00:00 Lisbon");
        var longer = new PeopleStepRequest("extend", [hamish], Until: until.AddDays(30));
        Assert.Empty((await ship.Client.PeopleStepsAsync(longer)).Refused);
        await HasAsync($"LOGIN readers {until.AddDays(31):yyyy-MM-dd} 00:00 Lisbon");
        foreach (
            var (wish, code) in ((PeopleStepRequest, string)[])
                [
                    (longer, "stay.not-later"),
                    (longer with { Until = until.AddDays(-30) }, "stay.not-later"),
                    (longer with { Until = null }, "stay.until-missing"),
                    (longer with { Until = new DateOnly(2020, 1, 1) }, "stay.past"),
                    (longer with { People = [ship.Administrator] }, "stay.not-later"),
                ]
        )
            Assert.Equal(code, (await ship.Client.PeopleStepsAsync(wish)).Refused.Single().Problem.Code);
        // The last day of their stay is kept there, too, to its end in the workspace's time zone.
        var last = DateOnly.FromDateTime(harbour.Clock.GetUtcNow().UtcDateTime).AddDays(40);
        await ship.Client.EndAsync(hamish, last);
        await HasAsync($"LOGIN readers {last.AddDays(1):yyyy-MM-dd} 00:00 Lisbon");
        await SettledAsync(ship);
        Assert.Equal(
            "departure.planned",
            (await ship.Client.PeopleStepsAsync(longer with { Until = until.AddDays(90) }))
                .Refused.Single()
                .Problem.Code
        );

        await server.StopAsync();
        var departure = await ship.Client.EndAsync(hamish);
        departure = await Patience.UntilAsync(
            () => ship.Client.DepartureAsync(departure.Id),
            one => one.State == "stuck"
        );
        Assert.Equal("stuck", departure.State);
        await server.StartAgainAsync();
        await ship.Client.RetryDepartureAsync(departure.Id);
        await DoneAsync(ship, departure.Id);
        Assert.Equal("", await RoleAsync(server, hamish));
        foreach (var database in (string[])["charts", "lists"])
            Assert.Equal(
                "come_aboard_left",
                await server.AskAsync(
                    "SELECT tableowner FROM pg_tables WHERE tablename = 'soundings'",
                    database
                )
            );

        async Task HasAsync(string role) =>
            Assert.Equal(
                role,
                await Patience.UntilAsync(() => RoleAsync(server, hamish), now => now == role)
            );
    }

    [Fact]
    public async Task A_session_that_was_just_coming_in_when_access_ended_is_found_and_ended()
    {
        var ship = await harbour.NewShipAsync();
        await using var server = await RoleServer.StartAsync();
        await ConnectAsync(ship, server);
        var (hamish, petra) = (ship.Address("hamish"), ship.Address("petra"));
        await ship.BringAboardAsync(hamish);
        await ship.BringAboardAsync(petra);
        await ship.Client.AddMappingAsync(Name, new MappingRequest("accounts", Role: "view"));
        await SettledAsync(ship);
        // Whoever signs in may have their session wait before it is to be seen by anybody.
        var coming = ((string[])[hamish, petra])
            .Select(role => server.SignInAsync(role, options: "-c post_auth_delay=15"))
            .ToArray();
        await Task.Delay(TimeSpan.FromSeconds(2));
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
        var departure = await ship.Client.EndAsync(petra);
        await DoneAsync(ship, departure.Id);
        await SettledAsync(ship);
        await using var one = await coming[0];
        await using var other = await coming[1];
        // They are in, one by a role that lets nobody in, the other by one that is gone.
        Assert.Equal(1, await AskAsync(one));
        Assert.Equal(1, await AskAsync(other));
        var swept = await ship.Client.SweepAsync(Name);
        Assert.Equal(
            ((string[])[hamish, petra]).Order(),
            swept.Otherwise.Select(change => change.Address).Order()
        );
        await SettledAsync(ship);
        await Assert.ThrowsAnyAsync<NpgsqlException>(() => AskAsync(one));
        await Assert.ThrowsAnyAsync<NpgsqlException>(() => AskAsync(other));
        Assert.Equal(0, (await ship.Client.SweepAsync(Name)).OtherwiseTotal);
    }

    [Fact]
    public async Task Whoever_has_our_login_there_touches_no_role_but_those_of_members()
    {
        await using var server = await RoleServer.StartAsync();
        await server.DoAsync("charts", "CREATE ROLE master LOGIN; CREATE ROLE crew LOGIN");
        var (master, crew) = (
            await server.AskAsync("SELECT oid FROM pg_roles WHERE rolname = 'master'"),
            await server.AskAsync("SELECT oid FROM pg_roles WHERE rolname = 'come_aboard_keeper'")
        );
        // One of a member that somebody made mighty is none of ours any more.
        await server.DoAsync("charts", "GRANT come_aboard_members TO crew; ALTER ROLE crew SUPERUSER");
        foreach (
            var attempt in (string[])
                [
                    $"SELECT come_aboard.let_in({master}, false)",
                    $"SELECT come_aboard.end_sessions({master})",
                    $"SELECT come_aboard.remove({master})",
                    $"SELECT come_aboard.hand_over({crew})",
                    "SELECT come_aboard.remove((SELECT oid FROM pg_roles WHERE rolname = 'crew'))",
                    $"SELECT come_aboard.put_in({master}, 'readers', true)",
                    "SELECT come_aboard.put_in(come_aboard.make('a', '', '', null), 'pg_execute_server_program', true)",
                    "SELECT come_aboard.put_in(come_aboard.make('b', '', '', null), 'come_aboard_keeper', true)",
                    "SELECT come_aboard.make('master', '', '', null)",
                    $"SELECT come_aboard.make('{new string('m', 64)}', '', '', null)",
                    "CREATE ROLE other",
                    "ALTER ROLE master NOLOGIN",
                    "SET ROLE come_aboard_keeper",
                    "GRANT readers TO come_aboard",
                    "INSERT INTO come_aboard.gone (role, name, mark) VALUES (10, '', '')",
                    "CREATE FUNCTION come_aboard.other() RETURNS int LANGUAGE sql AS 'SELECT 1'",
                ]
        )
        {
            var no = await Xunit.Record.ExceptionAsync(() =>
                server.DoAsync("charts", attempt, "come_aboard")
            );
            Assert.True(no is PostgresException, attempt);
        }
        const string Odd = "x\" SUPERUSER; --";
        await server.DoAsync("charts", $"SELECT come_aboard.make('{Odd}', '', '{Odd}', null)", "come_aboard");
        Assert.Equal(
            "False",
            await server.AskAsync($"SELECT rolsuper FROM pg_roles WHERE rolname = '{Odd}'")
        );
    }

    [Fact]
    public async Task A_database_server_that_is_not_prepared_or_shows_no_certificate_of_its_own_is_not_used()
    {
        var ship = await harbour.NewShipAsync();
        await using var server = await RoleServer.StartAsync();
        Assert.Equal(
            "connection.place",
            await CodeOf(
                ship.Client.AddConnectionAsync(
                    new ConnectionRequest(Name, "postgres", "postgres://127.0.0.1")
                )
            )
        );
        await ConnectAsync(ship, server, certificate: "");
        Assert.Equal("connection.unreachable", await CodeOf(ship.Client.TestConnectionAsync(Name)));
        var wish = new ConnectionRequest(
            Name,
            Url: server.Url.Replace("/charts", "/postgres", StringComparison.Ordinal),
            Secret: RoleServer.Secret,
            Certificate: server.Certificate
        );
        await ship.Client.ChangeConnectionAsync(Name, wish);
        var refused = await Assert.ThrowsAsync<Client.RefusedException>(() =>
            ship.Client.TestConnectionAsync(Name)
        );
        Assert.Contains("aboard connections script", refused.Problem.Title, StringComparison.Ordinal);
        await ship.Client.ChangeConnectionAsync(Name, wish with { Url = server.Url, Secret = "high water" });
        Assert.Equal("connection.refused", await CodeOf(ship.Client.TestConnectionAsync(Name)));
        await ship.Client.ChangeConnectionAsync(Name, wish with { Url = server.Url });
        Assert.Equal(0, (await ship.Client.TestConnectionAsync(Name)).Seen);
        Assert.Equal("connection.no-source", await CodeOf(ship.Client.ReadConnectionAsync(Name)));
    }

    private static Task<ConnectionView> ConnectAsync(
        Ship ship,
        RoleServer server,
        string? certificate = null
    ) =>
        ship.Client.AddConnectionAsync(
            new ConnectionRequest(
                Name,
                "postgres",
                server.Url,
                Secret: RoleServer.Secret,
                Certificate: certificate ?? server.Certificate
            )
        );

    private static async Task<int> AskAsync(NpgsqlConnection inside)
    {
        await using var command = new NpgsqlCommand("SELECT 1", inside);
        return (int)(await command.ExecuteScalarAsync())!;
    }

    private static Task<string> RoleAsync(RoleServer server, string role) =>
        server.AskAsync(
            $"""
            SELECT CASE WHEN rolcanlogin THEN 'LOGIN ' ELSE 'NOLOGIN ' END
              || (SELECT coalesce(string_agg(g.rolname, ','), '') FROM pg_auth_members m JOIN pg_roles g ON g.oid = m.roleid
                  WHERE m.member = r.oid AND g.rolname <> 'come_aboard_members')
              || ' ' || CASE WHEN rolvaliduntil = 'infinity' THEN 'no end'
                             ELSE to_char(rolvaliduntil AT TIME ZONE 'Europe/Lisbon', 'YYYY-MM-DD HH24:MI') || ' Lisbon' END
            FROM pg_roles r WHERE rolname = '{role}'
            """
        );
}
