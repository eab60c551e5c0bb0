using System.Diagnostics;
using System.Net.Http.Headers;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;

namespace ComeAboard.Measure;

/// <summary>V4, growth: what inviting one person costs beside 100,000 pending invitations, against beside 1,000; both databases.</summary>
public static class InvitingAmongMany
{
    private const int Few = 1_000;
    internal const int Many = 100_000;
    private const int AtOnce = 4;

    /// <summary>In one turn; few, so that what is pending stays about as much.</summary>
    private const int Invitations = 200;
    private const int WarmUps = 4;

    private static int _addresses;

    public static Task<IEnumerable<Figure>> MeasureAsync() =>
        Growing.OnEachAsync(engine => OnAsync(engine, Few, Many));

    /// <summary>What inviting costs beside many, against beside few.</summary>
    internal static async Task<Figure> OnAsync(string engine, int small, int large)
    {
        using var first = PostgresCluster.On(engine);
        using var second = PostgresCluster.On(engine);
        using var few = await Beside.PendingAsync(first?.Connection, small);
        using var many = await Beside.PendingAsync(second?.Connection, large);
        var (among, reference) = (new List<double>(), new List<double>());
        for (var run = -WarmUps; run < Places.Runs; run++)
        {
            var (costMany, costFew) = (await many.CostAsync(), await few.CostAsync());
            if (run < 0)
                continue;
            among.Add(costMany);
            reference.Add(costFew);
        }
        return new(
            "V4",
            $"inviting beside {large} pending, against {small}, {engine}",
            "ms",
            among,
            reference,
            "≤ 1.2",
            r => r <= 1.2
        );
    }

    /// <summary>A service whose workspace has so many pending invitations.</summary>
    private sealed record Beside(ServicePlace Place, Process Service, HttpClient Http) : IDisposable
    {
        public static async Task<Beside> PendingAsync(string? postgres, int pending)
        {
            var place = new ServicePlace(postgres);
            var (service, token) = await place.OpenAsync();
            using var client = new AboardClient(place.Url, "the-lantern-tide", token);
            await Importing.InAsync(client, ImportingMany.FileOf(pending), pending);
            var http = new HttpClient { BaseAddress = place.Url };
            http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
            return new Beside(place, service, http);
        }

        /// <summary>Milliseconds for one invitation, of a turn of them.</summary>
        public async Task<double> CostAsync()
        {
            var left = Invitations;
            var watch = Stopwatch.StartNew();
            await Task.WhenAll(
                Enumerable
                    .Range(0, AtOnce)
                    .Select(async _ =>
                    {
                        while (Interlocked.Decrement(ref left) >= 0)
                            await InviteAsync(Interlocked.Increment(ref _addresses));
                    })
            );
            return watch.Elapsed.TotalMilliseconds / Invitations;
        }

        private async Task InviteAsync(int number)
        {
            using var content = new StringContent(
                $$"""{"address":"guest{{number}}@quay{{number % 500}}.example","kind":"guest","role":"view"}""",
                Encoding.UTF8,
                "application/json"
            );
            using var answer = await Http.PostAsync(
                "/api/v1/workspaces/the-lantern-tide/invitations",
                content
            );
            answer.EnsureSuccessStatusCode();
        }

        public void Dispose()
        {
            Http.Dispose();
            Places.End(Service);
            Place.Dispose();
        }
    }
}
