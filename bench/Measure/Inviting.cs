using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>V4: invitations over HTTP, 32 at once, against a bare service that writes the same rows; both databases.</summary>
public static class Inviting
{
    private const int AtOnce = 32;
    private const int WarmUps = 4;
    private const string Path = "/api/v1/workspaces/the-lantern-tide/invitations";
    private static readonly TimeSpan RunTime = TimeSpan.FromSeconds(5);
    private static int _addresses;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
        {
            using var cluster = engine == "PostgreSQL" ? new PostgresCluster() : null;
            using var other = engine == "PostgreSQL" ? new PostgresCluster() : null;
            figures.AddRange(await OnAsync(engine, cluster?.Connection, other?.Connection));
        }
        return figures;
    }

    private static async Task<IEnumerable<Figure>> OnAsync(
        string engine,
        string? postgres,
        string? postgresOfBare = null
    )
    {
        using var place = new ServicePlace(postgres);
        var (service, token) = await place.OpenAsync();
        using var placeOfBare = new ServicePlace(postgresOfBare);
        var bytes = await MakeOneAsync(placeOfBare);
        var bareUrl = new Uri($"http://127.0.0.1:{Ports.Free()}");
        var bare = Places.Start(
            Environment.ProcessPath!,
            null,
            "bare",
            postgres is null ? "sqlite" : "postgres",
            postgresOfBare ?? placeOfBare.DatabasePath,
            bareUrl.ToString(),
            bytes.ToString()
        );
        await Places.UntilReadyAsync(bareUrl);
        var (ours, reference) = (new List<Load>(), new List<Load>());
        for (var run = -WarmUps; run < Places.Runs; run++)
        {
            var own = await LoadAsync(service, new Uri(place.Url, Path), token);
            var other = await LoadAsync(bare, new Uri(bareUrl, "/insert"), token);
            // The first runs show what a service that was just started costs, the others what it comes to.
            Console.Error.WriteLine(
                $"  {engine}, run {run + WarmUps + 1}: {own.PerSecond:0} a second, {own.Work:0.00} ms of processor time each; the reference {other.PerSecond:0} and {other.Work:0.00}"
            );
            if (run < 0)
                continue;
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

    /// <summary>Has the service write one invitation somewhere, for the bare one to go by; how many bytes its answer has.</summary>
    private static async Task<int> MakeOneAsync(ServicePlace place)
    {
        var (service, token) = await place.OpenAsync();
        using var http = new HttpClient();
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        using var content = new StringContent(
            """{"address":"pilot@harbour.example","kind":"guest","role":"view"}""",
            Encoding.UTF8,
            "application/json"
        );
        using var answer = await http.PostAsync(new Uri(place.Url, Path), content);
        answer.EnsureSuccessStatusCode();
        var bytes = (await answer.Content.ReadAsByteArrayAsync()).Length;
        Places.End(service);
        return bytes;
    }

    private static async Task<Load> LoadAsync(Process at, Uri url, string token)
    {
        using var http = new HttpClient(new SocketsHttpHandler { MaxConnectionsPerServer = AtOnce });
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        at.Refresh();
        var before = at.TotalProcessorTime;
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
        at.Refresh();
        return new Load(
            all.Count / watch.Elapsed.TotalSeconds,
            all[(int)(all.Count * 0.99)],
            (at.TotalProcessorTime - before).TotalMilliseconds / all.Count
        );
    }

    private sealed record Load(double PerSecond, double P99, double Work);
}
