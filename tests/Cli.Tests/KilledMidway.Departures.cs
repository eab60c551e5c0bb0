using System.Diagnostics;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Invitations;
using ComeAboard.Standins.Outside;
using Xunit;

namespace ComeAboard.Cli.Tests;

public sealed partial class KilledMidway
{
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
            await KillAsync(service);
        }
        await UntilAsync(async () => (await house.LaneAsync(name)).State == "resting");
        Assert.Equal(
            (count, count),
            (app.Accounts.Count, app.Accounts.Select(one => one.UserName).Distinct().Count())
        );

        using (var service = await ServeAsync())
        {
            await house.StartDeparturesAsync(
                new DeparturesRequest([.. Enumerable.Range(0, count).Select(n => $"p{n}@harbour.example")])
            );
            await KillAsync(service);
        }
        await UntilAsync(async () => (await house.DeparturesAsync()).Items.All(one => one.State == "done"));
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

        async Task KillAsync(Process service)
        {
            await Task.Delay(Random.Shared.Next(20, 600));
            service.Kill();
            await service.WaitForExitAsync();
        }

        // Whoever comes next goes on, and is killed as well.
        async Task UntilAsync(Func<Task<bool>> isSo)
        {
            for (var kills = 0; ; kills++)
            {
                using var service = await ServeAsync();
                if (kills < Kills)
                {
                    await KillAsync(service);
                    continue;
                }
                await RealService.UntilAsync(isSo);
                await EndAsync(service);
                return;
            }
        }
    }
}
