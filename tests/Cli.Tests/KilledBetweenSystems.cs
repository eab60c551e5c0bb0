using System.Diagnostics;
using System.Text;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Standins.Outside;
using Xunit;

namespace ComeAboard.Cli.Tests;

/// <summary>The service killed while it deals with other systems: a directory that people come from, an application they are given access in.</summary>
public sealed class KilledBetweenSystems : Killing
{
    [Fact]
    public async Task Killed_while_a_directory_is_read_and_brought_in_everybody_is_in_once()
    {
        const string name = "Harbour authority";
        const int count = 900;
        using var house = await SetUpWorkspaceAsync();
        var rows = Enumerable
            .Range(0, count)
            .Select(n => $"{n},Pilot Number{n:000},p{n}@harbour.example,Pilot\n");
        using (var service = await ServeAsync())
        {
            await AcceptAsync(
                house,
                new InvitationRequest("p7@harbour.example", "guest", "view"),
                isNew: true
            );
            await house.AddConnectionAsync(
                new ConnectionRequest(name, "file", Defaults: new BatchDefaults("guest", "view"))
            );
            await house.HandInAsync(
                name,
                new MemoryStream(Encoding.UTF8.GetBytes("id,name,address,title\n" + string.Concat(rows))),
                "pilots.csv"
            );
            await house.ReadConnectionAsync(name);
            await KillSoonAsync(service, longestMs: 500);
        }
        var read = await RestAsync();
        // Whoever is here is called otherwise there: that is for somebody to say.
        Assert.Equal(
            (null, count - 1, 1),
            (read.Problem?.Code, read.Counts["new"], read.Counts["conflicting"])
        );
        using (var service = await ServeAsync())
        {
            await house.DecideAsync(name, new DecideRequest([new RecordDecision("id:7", "join")]));
            await house.RunConnectionAsync(name);
            await KillSoonAsync(service, longestMs: 500);
        }
        var done = await RestAsync();
        Assert.Equal((count, 0), (done.Counts["done"], done.Counts["refused"]));

        using var last = await ServeAsync();
        // Everybody was invited once and by one record, and whoever was here has what the record says of them.
        Assert.Equal(
            (count, count),
            (
                await CountAsync("SELECT count(*) FROM invitations WHERE address LIKE '%@harbour.example'"),
                await CountAsync("SELECT count(DISTINCT address_key) FROM invitations")
            )
        );
        Assert.Equal(
            count - 1,
            await CountAsync(
                "SELECT count(*) FROM source_records r JOIN invitations i ON i.id = r.invitation_id AND i.address = r.address"
            )
        );
        Assert.Equal("Pilot", (await house.PersonAsync("p7@harbour.example")).Title);
        Assert.True((await house.VerifyRecordAsync()).Whole);
        await EndAsync(last);

        // The work is taken up by whoever comes next, and that one is killed as well.
        async Task<ConnectionView> RestAsync()
        {
            ConnectionView? view = null;
            await UntilUnderKillsAsync(
                500,
                async () => (view = await house.ConnectionAsync(name)).State == "resting"
            );
            return view!;
        }
    }

    [Fact]
    public async Task Killed_while_access_is_carried_out_nobody_is_there_twice_and_nobody_stays()
    {
        const string name = "Chart table";
        const int count = 24;
        await using var app = await OutsideApp.StartAsync(name, 0, "Readers");
        using var house = await SetUpWorkspaceAsync();
        using (var service = await ServeAsync())
        {
            for (var n = 0; n < count; n++)
                await AcceptAsync(
                    house,
                    new InvitationRequest($"p{n}@harbour.example", "guest", "view"),
                    isNew: true
                );
            await house.AddConnectionAsync(
                new ConnectionRequest(name, "scim", app.Url, Secret: OutsideApp.Secret)
            );
            await house.AddMappingAsync(name, new MappingRequest("group:Readers", Role: "view"));
            await KillSoonAsync(service, longestMs: 600);
        }
        await UntilUnderKillsAsync(600, async () => (await house.LaneAsync(name)).State == "resting");
        Assert.Equal(
            (count, count),
            (app.Accounts.Count, app.Accounts.Select(one => one.UserName).Distinct().Count())
        );

        using (var service = await ServeAsync())
        {
            await house.StartDeparturesAsync(
                new DeparturesRequest([.. Enumerable.Range(0, count).Select(n => $"p{n}@harbour.example")])
            );
            await KillSoonAsync(service, longestMs: 600);
        }
        await UntilUnderKillsAsync(
            600,
            async () => (await house.DeparturesAsync()).Items.All(one => one.State == "done")
        );
        Assert.Empty(app.Accounts);

        using var last = await ServeAsync();
        var all = (await house.DeparturesAsync()).Items;
        var keys = System.Text.Json.JsonSerializer.Serialize(
            await house.ReceiptKeysAsync(),
            Client.WireJson.Default.ReceiptKeys
        );
        Assert.Equal(count, all.Count);
        Assert.All(all, one => Assert.Null(ReceiptSeal.Verify(one.Receipt!, keys).Problem));
        Assert.True((await house.VerifyRecordAsync()).Whole);
        await EndAsync(last);
    }
}
