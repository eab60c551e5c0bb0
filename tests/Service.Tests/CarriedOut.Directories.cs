using ComeAboard.Client.Accounts;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Tests.World;
using Xunit;

namespace ComeAboard.Service.Tests;

// A real directory that access is carried out to.
public abstract partial class CarriedOut
{
    [Fact]
    public async Task In_a_directory_somebody_has_an_entry_in_groups_is_locked_for_a_while_and_is_gone_at_the_end()
    {
        var ship = await harbour.NewShipAsync();
        await using var server = await DirectoryServer.StartAsync(["Pilot One"]);
        await ship.Client.AddConnectionAsync(
            new ConnectionRequest(
                Name,
                "ldap",
                server.Url,
                DirectoryServer.Base,
                SignInAs: DirectoryServer.Keeper,
                Secret: DirectoryServer.Secret,
                Certificate: server.Certificate
            )
        );
        var hamish = ship.Address("hamish");
        await ship.BringAboardAsync(hamish);
        var line = new MappingRequest("group:" + DirectoryServer.Group, Role: "view");
        var preview = await ship.Client.PreviewCarryingAsync(Name, new PreviewRequest(line));
        Assert.Equal(
            ("make, join-group " + DirectoryServer.Group, 1),
            (string.Join(", ", preview.Changes.Single().Deeds), preview.LeftOver)
        );
        await ship.Client.AddMappingAsync(Name, line);
        await SettledAsync(ship);
        await HoldsAsync("on " + DirectoryServer.Group);
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("pause", [hamish]));
        await HoldsAsync("off ");
        await ship.Client.PeopleStepsAsync(new PeopleStepRequest("resume", [hamish]));
        await HoldsAsync("on " + DirectoryServer.Group);
        await SettledAsync(ship);

        // Away, it waits; back again, it is done by itself.
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
        await HoldsAsync("gone");
        // Whoever was there before us is as they were.
        Assert.Contains("uid: p0\n", await server.DumpAsync(), StringComparison.Ordinal);

        async Task HoldsAsync(string held) =>
            Assert.Equal(held, await Patience.UntilAsync(HeldAsync, now => now == held));

        async Task<string> HeldAsync()
        {
            var entries = (await server.DumpAsync()).Split("\n\n");
            var entry = entries.FirstOrDefault(one =>
                one.Contains($"mail: {hamish}\n", StringComparison.Ordinal)
            );
            if (entry is null)
                return "gone";
            var name = entry.Split('\n')[0]["dn: ".Length..];
            var isIn = entries.Any(one =>
                one.Contains("groupOfNames", StringComparison.Ordinal)
                && one.Contains("member: " + name, StringComparison.Ordinal)
            );
            return (entry.Contains("pwdAccountLockedTime", StringComparison.Ordinal) ? "off " : "on ")
                + (isIn ? DirectoryServer.Group : "");
        }
    }
}
