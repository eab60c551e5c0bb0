using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Service.Connections;
using ComeAboard.Standins;
using ComeAboard.Standins.Outside;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Demo;

/// <summary>
/// Three applications outside, for which stand-ins answer, in which people have accounts as long as they have access here. One of
/// them refuses to let go of somebody; two accounts belong to nobody.
/// </summary>
public sealed class DemoConnected : IAsyncDisposable
{
    private const string ChartTable = "Chart table";
    private const string FilmStore = "Film store";
    private const string Gangway = "Gangway locks";
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(100);

    private readonly List<(string Name, OutsideApp App)> _apps = [];

    /// <summary>Where the pages of the applications are.</summary>
    public IEnumerable<(string Name, Uri Page)> Pages => _apps.Select(one => (one.Name, one.App.Page));

    /// <summary>Starts the applications.</summary>
    /// <param name="port">The port that the first is to be beside.</param>
    public static async Task<DemoConnected> StartAsync(int port)
    {
        var all = new DemoConnected();
        foreach (
            var (name, groups) in ((string, string[])[])
                [(ChartTable, ["Readers", "Writers"]), (FilmStore, ["Night shoots"]), (Gangway, [])]
        )
        {
            var app = await Ports.AfterAsync(port, at => OutsideApp.StartAsync(name, at, groups));
            all._apps.Add((name, app));
            port = app.Page.Port;
        }
        return all;
    }

    /// <summary>Connects them and lets people leave: one wholly, one who is not let go of somewhere, one tomorrow.</summary>
    public async Task MakeAsync(AboardClient client, DateOnly today, string heir)
    {
        foreach (var (name, app) in _apps)
            await client.AddConnectionAsync(
                new ConnectionRequest(name, "scim", app.Url, Secret: OutsideApp.Secret, Newcomers: "nothing")
            );
        PutLeftOvers();
        foreach (
            var (name, line) in ((string, MappingRequest)[])
                [
                    (ChartTable, new MappingRequest("group:Readers", Resource: "Port calendar")),
                    (
                        ChartTable,
                        new MappingRequest("group:Writers", Resource: "Port calendar", Level: "edit")
                    ),
                    (FilmStore, new MappingRequest("accounts", Resource: "Picture library")),
                    (Gangway, new MappingRequest("accounts", Group: "Winter refit")),
                    (Gangway, new MappingRequest("accounts", Resource: "Rigging plans", Level: "edit")),
                ]
        )
            await client.AddMappingAsync(name, line);
        foreach (var (name, _) in _apps)
            await UntilAsync(async () => (await client.LaneAsync(name)).State == "resting");
        var done = await client.EndAsync("yusra.halim@saltmarsh-university.example", to: heir);
        await UntilAsync(async () => (await client.DepartureAsync(done.Id)).State == "done");
        _apps[2].App.Manner = "refuses";
        var stuck = await client.EndAsync("olumide@strand-sailmakers.example", to: heir);
        await UntilAsync(async () => (await client.DepartureAsync(stuck.Id)).State == "stuck");
        await client.EndAsync("mei-lin@copper-and-canvas.example", today.AddDays(1), heir);
        foreach (var (name, _) in _apps)
            await client.SweepAsync(name);
    }

    /// <summary>
    /// Says where the applications are now, and gives them back what they had: stand-ins forget, and may answer elsewhere than when
    /// the world was made.
    /// </summary>
    public async Task NameAsync(AboardClient client, IServiceProvider services, string workspace)
    {
        await using var rows = services.GetRequiredService<Database>().Open();
        var house = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.ShortName == workspace);
        rows.Enter(house.Id);
        foreach (var (name, app) in _apps)
        {
            var connection = await Connections.Connections.FindAsync(rows, name);
            if (connection is null)
                continue;
            foreach (
                var account in await rows
                    .AccountsThere.AsNoTracking()
                    .Where(a => a.ConnectionId == connection.Id && a.TheirKey != "" && a.Held != null)
                    .ToListAsync()
            )
                app.Put(
                    new OutsideAccount(
                        account.TheirKey,
                        account.Address,
                        account.Name,
                        account.IsOurs ? account.MemberId.ToString() : "",
                        account.Held == Core.Connections.AccountThere.On
                    ),
                    Carrier.SetOf(account.HeldGroups)
                );
            if (connection.Place == app.Url)
                continue;
            var known = await client.ConnectionAsync(name);
            await client.ChangeConnectionAsync(
                name,
                new ConnectionRequest(
                    name,
                    Url: app.Url,
                    Secret: OutsideApp.Secret,
                    Newcomers: known.Newcomers,
                    Defaults: known.Defaults,
                    Wins: known.Wins
                )
            );
        }
        PutLeftOvers();
        _apps[2].App.Manner = "refuses";
    }

    private void PutLeftOvers()
    {
        _apps[0]
            .App.Put(
                new OutsideAccount("old1", "odo.brandt@former-crew.example", "Odo Brandt", "", true),
                "Writers"
            );
        _apps[2].App.Put(new OutsideAccount("old2", "spare.key@lantern-tide.example", "Spare key", "", true));
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        foreach (var (_, app) in _apps)
            await app.DisposeAsync();
    }

    private static async Task UntilAsync(Func<Task<bool>> isSo)
    {
        var since = TimeProvider.System.GetTimestamp();
        while (!await isSo() && TimeProvider.System.GetElapsedTime(since) < Patience)
            await Task.Delay(Beat);
    }
}
