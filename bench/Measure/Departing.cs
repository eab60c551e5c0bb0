using System.Diagnostics;
using System.Net;
using System.Net.Http.Headers;
using ComeAboard.Client;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Departures;
using ComeAboard.Core.Connections;
using ComeAboard.Standins.Outside;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Measure;

/// <summary>
/// V7: ending the access of 10,000 people who have accounts in three outside systems that answer in 20 ms, against bare clients that
/// make the same calls with the same concurrency; and how soon all of them are out here.
/// </summary>
public static class Departing
{
    private const int AtOnce = 8;
    private static readonly int People = Places.People(10_000);
    private static readonly TimeSpan Takes = TimeSpan.FromMilliseconds(20);
    private static readonly string[] Names = ["Chart table", "Film store", "Gangway locks"];

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
        {
            var (ours, reference, cut) = (new List<double>(), new List<double>(), new List<double>());
            for (var run = 0; run < Places.Runs; run++)
            {
                using var cluster = PostgresCluster.On(engine);
                using var place = new ServicePlace(cluster?.Connection);
                var (rate, seconds) = await OursAsync(place, cluster?.Connection, People, Takes);
                ours.Add(rate);
                cut.Add(seconds);
                reference.Add(await BareAsync());
            }
            figures.Add(
                new(
                    "V7",
                    $"ending {People} people in three systems on {engine}",
                    "accounts/s",
                    ours,
                    reference,
                    "≥ 0.8",
                    r => r >= 0.8
                )
            );
            figures.Add(new("V7", $"{People} people out here on {engine}", "s", cut, [], "≤ 5", s => s <= 5));
        }
        return figures;
    }

    /// <summary>
    /// What ending one account costs where ten times as many people go, against as many as in the row. The systems answer at once: waiting
    /// for them would hide what grows.
    /// </summary>
    internal static async Task<Figure> GrowthAsync(string engine)
    {
        var (many, few) = (new List<double>(), new List<double>());
        foreach (
            var (people, costs) in ((int, List<double>)[])[(People, few), (Growing.Times * People, many)]
        )
        {
            using var cluster = PostgresCluster.On(engine);
            using var place = new ServicePlace(cluster?.Connection);
            var (rate, _) = await OursAsync(place, cluster?.Connection, people, TimeSpan.Zero);
            costs.Add(1_000 / rate);
        }
        return Growing.Of(
            "V7",
            $"ending one of {Growing.Times * People} people's accounts on {engine}",
            "ms",
            many,
            few
        );
    }

    private static async Task<(double Rate, double Cut)> OursAsync(
        ServicePlace place,
        string? postgres,
        int people,
        TimeSpan takes
    )
    {
        var apps = await StartAsync(takes);
        var (first, token) = await place.OpenAsync();
        Places.End(first);
        var database = postgres is null ? Database.Sqlite(place.DatabasePath) : Database.Postgres(postgres);
        await Deciding.FillAsync(database, people);
        var service = place.Serve();
        await Places.UntilReadyAsync(place.Url);
        using var client = new AboardClient(place.Url, "the-lantern-tide", token);
        foreach (var (name, app) in Names.Zip(apps))
            await client.AddConnectionAsync(
                new ConnectionRequest(name, "scim", app.Url, Secret: OutsideApp.Secret, Newcomers: "nothing")
            );
        await FillAsync(database, apps);
        await Deciding.SettleAsync(database);
        foreach (var name in Names)
            await client.AddMappingAsync(name, new MappingRequest("accounts", Resource: "Register 1"));
        foreach (var name in Names)
            while ((await client.LaneAsync(name)).State != "resting")
                await Task.Delay(100);
        var watch = Stopwatch.StartNew();
        var answer = await client.StartDeparturesAsync(new DeparturesRequest { Kind = "guest" });
        var cut = watch.Elapsed.TotalSeconds;
        if (answer.Total != people)
            throw new InvalidOperationException(
                $"{answer.Total} people are out, {answer.Refused.Count} refused."
            );
        // Whoever asks for it stays, and keeps theirs.
        while (apps.Any(app => app.Accounts.Count > 1))
        {
            if (watch.Elapsed > TimeSpan.FromMinutes(15))
                throw new TimeoutException(
                    $"Left: {string.Join(", ", apps.Select(app => app.Accounts.Count))}."
                );
            await Task.Delay(50);
        }
        var rate = apps.Count * people / watch.Elapsed.TotalSeconds;
        for (
            DepartureProgress now;
            (now = await client.DepartureProgressAsync()) is not { Here: 0, Running: 0 };

        )
        {
            if (watch.Elapsed > TimeSpan.FromMinutes(20))
                throw new TimeoutException($"{now.Here} here, {now.Running} running.");
            await Task.Delay(200);
        }
        Console.Error.WriteLine(
            $"  closed after {apps.Count * people / rate:0} s, all receipts signed after {watch.Elapsed.TotalSeconds:0} s"
        );
        Places.End(service);
        foreach (var app in apps)
            await app.DisposeAsync();
        return (rate, cut);
    }

    /// <summary>Accounts there, and what is known of them here.</summary>
    private static async Task FillAsync(Database database, IReadOnlyList<OutsideApp> apps)
    {
        await using var look = database.Open();
        var workspace = await look.Workspaces.Select(w => w.Id).FirstAsync();
        look.Enter(workspace);
        var members = await look
            .Members.Where(m => m.Kind == Core.Access.Kind.Guest)
            .Select(m => new
            {
                m.Id,
                m.Address,
                m.Name,
            })
            .ToListAsync();
        foreach (var (name, app) in Names.Zip(apps))
        {
            var connection = await look.Connections.Where(c => c.Name == name).Select(c => c.Id).FirstAsync();
            foreach (var one in members)
                app.Put(
                    new OutsideAccount(one.Id.ToString(), one.Address, one.Name, one.Id.ToString(), true)
                );
            await Deciding.LoadAsync<AccountThereRow>(
                database,
                workspace,
                [
                    .. members.Select(one => new AccountThereRow
                    {
                        WorkspaceId = workspace,
                        ConnectionId = connection,
                        MemberId = one.Id,
                        TheirKey = one.Id.ToString(),
                        IsOurs = true,
                        Wanted = AccountThere.On,
                        WantedGroups = "",
                        Address = one.Address,
                        Name = one.Name,
                        Held = AccountThere.On,
                        State = ThereState.Confirmed,
                        Urgency = 1,
                        ConfirmedAt = DateTimeOffset.UtcNow,
                    }),
                ]
            );
        }
    }

    /// <summary>The same calls by bare clients: looked at, removed, looked at again.</summary>
    private static async Task<double> BareAsync()
    {
        var apps = await StartAsync(Takes);
        foreach (var app in apps)
            for (var n = 0; n < People; n++)
                app.Put(new OutsideAccount($"k{n}", $"sailor{n}@harbour.example", $"Sailor {n}", "", true));
        var watch = Stopwatch.StartNew();
        await Task.WhenAll(apps.Select(EndAllAsync));
        var rate = apps.Count * People / watch.Elapsed.TotalSeconds;
        foreach (var app in apps)
            await app.DisposeAsync();
        return rate;
    }

    private static async Task EndAllAsync(OutsideApp app)
    {
        using var http = new HttpClient();
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", OutsideApp.Secret);
        await Parallel.ForAsync(
            0,
            People,
            new ParallelOptions { MaxDegreeOfParallelism = AtOnce },
            async (n, stop) =>
            {
                var one = new Uri($"{app.Url}/Users/k{n}");
                (await http.GetAsync(one, stop)).EnsureSuccessStatusCode().Dispose();
                (await http.DeleteAsync(one, stop)).EnsureSuccessStatusCode().Dispose();
                using var gone = await http.GetAsync(one, stop);
                if (gone.StatusCode != HttpStatusCode.NotFound)
                    throw new InvalidOperationException("It is still there.");
            }
        );
    }

    private static async Task<IReadOnlyList<OutsideApp>> StartAsync(TimeSpan takes)
    {
        var apps = new List<OutsideApp>();
        foreach (var name in Names)
        {
            var app = await OutsideApp.StartAsync(name);
            app.Takes = takes;
            apps.Add(app);
        }
        return apps;
    }
}
