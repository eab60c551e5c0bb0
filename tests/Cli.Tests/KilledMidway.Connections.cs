using System.Text;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Invitations;
using Xunit;

namespace ComeAboard.Cli.Tests;

public sealed partial class KilledMidway
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
            await KillAsync(service);
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
            await KillAsync(service);
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

        async Task KillAsync(System.Diagnostics.Process service)
        {
            await Task.Delay(Random.Shared.Next(20, 500));
            service.Kill();
            await service.WaitForExitAsync();
        }

        // The work is taken up by whoever comes next, and that one is killed as well.
        async Task<ConnectionView> RestAsync()
        {
            for (var kills = 0; ; kills++)
            {
                using var service = await ServeAsync();
                if (kills < Kills)
                {
                    await KillAsync(service);
                    continue;
                }
                while (true)
                {
                    var view = await house.ConnectionAsync(name);
                    if (view.State == "resting")
                    {
                        await EndAsync(service);
                        return view;
                    }
                    await Task.Delay(100);
                }
            }
        }
    }
}
