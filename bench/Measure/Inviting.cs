using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>V4: invitations over HTTP, 32 at once, against bare inserts over HTTP in the same database; both databases.</summary>
public static class Inviting
{
    private const int AtOnce = 32;
    private const int Runs = 5;
    private static readonly TimeSpan RunTime = TimeSpan.FromSeconds(4);
    private static int _addresses;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        figures.AddRange(await OnAsync("SQLite", null));
        using var cluster = new PostgresCluster();
        figures.AddRange(await OnAsync("PostgreSQL", cluster.Connection));
        return figures;
    }

    private static async Task<IEnumerable<Figure>> OnAsync(string engine, string? postgres)
    {
        using var place = new ServicePlace(postgres);
        var (service, token) = await place.OpenAsync();
        var bareUrl = new Uri($"http://127.0.0.1:{Ports.Free()}");
        var bare = Places.Start(
            Environment.ProcessPath!,
            null,
            "bare",
            postgres is null ? "sqlite" : "postgres",
            postgres ?? place.DatabasePath,
            bareUrl.ToString()
        );
        await Places.UntilReadyAsync(bareUrl);
        var (ours, reference) = (new List<Load>(), new List<Load>());
        for (var run = 0; run <= Runs; run++)
        {
            var own = await LoadAsync(
                new Uri(place.Url, "/api/v1/workspaces/the-lantern-tide/invitations"),
                token
            );
            var other = await LoadAsync(new Uri(bareUrl, "/insert"), token);
            if (run == 0)
                continue; // The first of each warms the programs up.
            ours.Add(own);
            reference.Add(other);
        }
        Places.End(service);
        Places.End(bare);
        return
        [
            new(
                "V4",
                $"inviting on {engine}, 32 at once",
                "requests/s",
                [.. ours.Select(l => l.PerSecond)],
                [.. reference.Select(l => l.PerSecond)],
                "≥ 0.5",
                r => r >= 0.5
            ),
            new(
                "V4",
                $"inviting on {engine}, slowest of a hundred (p99)",
                "ms",
                [.. ours.Select(l => l.P99)],
                [.. reference.Select(l => l.P99)],
                "≤ 2",
                r => r <= 2
            ),
        ];
    }

    private static async Task<Load> LoadAsync(Uri url, string token)
    {
        using var http = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = AtOnce });
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        var watch = Stopwatch.StartNew();
        var times = await Task.WhenAll(
            Enumerable
                .Range(0, AtOnce)
                .Select(async _ =>
                {
                    var own = new List<double>();
                    while (watch.Elapsed < RunTime)
                    {
                        var body =
                            $$"""{"address":"guest{{Interlocked.Increment(ref _addresses)}}@harbour.example","kind":"guest","role":"view"}""";
                        using var content = new StringContent(body, Encoding.UTF8, "application/json");
                        var started = Stopwatch.GetTimestamp();
                        using var answer = await http.PostAsync(url, content);
                        own.Add(Stopwatch.GetElapsedTime(started).TotalMilliseconds);
                        answer.EnsureSuccessStatusCode();
                    }
                    return own;
                })
        );
        var all = times.SelectMany(t => t).Order().ToList();
        return new Load(all.Count / watch.Elapsed.TotalSeconds, all[(int)(all.Count * 0.99)]);
    }

    private sealed record Load(double PerSecond, double P99);
}
