using System.Diagnostics;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Storage;

namespace ComeAboard.Measure;

/// <summary>
/// Growth: what one of something costs in ten times the size of its row – one row of a list, one decision, mail, account, start, click –
/// against in that size; ours alone, in the same run. What grows faster than the work is a fault.
/// </summary>
public static class Growing
{
    internal const int Times = 10;
    private const double Bound = 1.3;

    public static async Task<IEnumerable<Figure>> MeasureAsync() =>
        [
            .. await ImportingMany.MeasureAsync(),
            .. await BesidePeopleAsync(),
            .. await OnEachAsync(InvitingAsync),
            .. await OnEachAsync(Sending.GrowthAsync),
            Matching.Growth(),
            .. await OnEachAsync(Departing.GrowthAsync),
        ];

    /// <summary>Something on each database.</summary>
    public static async Task<IEnumerable<Figure>> OnEachAsync(Func<string, Task<Figure>> measure)
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
            figures.Add(await measure(engine));
        return figures;
    }

    /// <summary>What inviting costs beside ten times as many pending invitations.</summary>
    public static Task<Figure> InvitingAsync(string engine)
    {
        var pending = Places.People(InvitingAmongMany.Many);
        return InvitingAmongMany.OnAsync(engine, pending, Times * pending);
    }

    /// <summary>The cost of one in the large size, and in the small as its reference.</summary>
    internal static Figure Of(
        string row,
        string what,
        string unit,
        IReadOnlyList<double> large,
        IReadOnlyList<double> small
    ) => new(row, what, unit, large, small, $"≤ {Bound}", ratio => ratio <= Bound);

    /// <summary>
    /// A decision (V2), a start (V9) and a click (V10) beside a million people with ten million grants, against a tenth of both. What is
    /// decided is decided from memory, and the console's own work is the most of a click: a file has to do.
    /// </summary>
    public static async Task<IEnumerable<Figure>> BesidePeopleAsync()
    {
        var people = Places.People(Deciding.Members);
        using var few = await Beside.OpenAsync(people);
        using var many = await Beside.OpenAsync(Times * people);
        var figures = new List<Figure>
        {
            // Whoever comes at once waits until who may do what is read.
            Of(
                "V2",
                $"the first decision after a start beside {many.People} people, for each of them",
                "µs",
                [await many.FirstDecisionAsync()],
                [await few.FirstDecisionAsync()]
            ),
            await InTurnsAsync("V2", "a decision", few, many, beside => beside.DecisionAsync()),
            await InTurnsAsync("V9", "start to first answer", few, many, beside => beside.StartAsync()),
        };
        await few.FillInvitationsAsync();
        await many.FillInvitationsAsync();
        var clicks = (
            Few: Clicking.Quartiles(few.Url).Take(Places.Runs).ToList(),
            Many: Clicking.Quartiles(many.Url).Take(Places.Runs).ToList()
        );
        foreach (var page in clicks.Few[0].Keys)
            figures.Add(
                Of(
                    "V10",
                    $"from click to drawn, {page}, beside {many.People} people",
                    "ms",
                    [.. clicks.Many.Select(run => run[page])],
                    [.. clicks.Few.Select(run => run[page])]
                )
            );
        return figures;
    }

    /// <summary>Milliseconds for something beside many and beside few, in turns.</summary>
    private static async Task<Figure> InTurnsAsync(
        string row,
        string what,
        Beside few,
        Beside many,
        Func<Beside, Task<double>> costs
    )
    {
        var (large, small) = (new List<double>(), new List<double>());
        for (var run = 0; run <= Places.Runs; run++)
        {
            var (one, other) = (await costs(many), await costs(few));
            // The first of each makes both warm.
            if (run == 0)
                continue;
            large.Add(one);
            small.Add(other);
        }
        return Of(row, $"{what} beside {many.People} people", "ms", large, small);
    }

    /// <summary>A service whose workspace has so many people with ten grants each.</summary>
    private sealed class Beside(ServicePlace place, string token, int people) : IDisposable
    {
        private Process? _service;

        public int People => people;
        public Uri Url => place.Url;

        public static async Task<Beside> OpenAsync(int people)
        {
            var place = new ServicePlace(null);
            var (first, token) = await place.OpenAsync();
            Places.End(first);
            var database = Database.Sqlite(place.DatabasePath);
            await Deciding.FillAsync(database, people);
            await Deciding.SettleAsync(database);
            return new Beside(place, token, people);
        }

        /// <summary>Starts the service anew: who may do what is read after a start before anybody asks.</summary>
        public async Task<double> FirstDecisionAsync()
        {
            End();
            await ServeAsync();
            using var http = new HttpClient { Timeout = TimeSpan.FromMinutes(15) };
            http.DefaultRequestHeaders.Authorization = new("Bearer", token);
            using var question = new StringContent(
                """{"subject":{"type":"user","id":"sailor1@harbour.example"},"action":{"name":"view"},"resource":{"type":"resource","id":"Register 1"}}""",
                Encoding.UTF8,
                "application/json"
            );
            var watch = Stopwatch.StartNew();
            using var answer = await http.PostAsync(Deciding.AskedAt(Url), question);
            answer.EnsureSuccessStatusCode();
            return watch.Elapsed.TotalMicroseconds / people;
        }

        public async Task<double> DecisionAsync() =>
            1_000 / (await Deciding.LoadAsync(Deciding.AskedAt(Url), token, people)).PerSecond;

        /// <summary>Ends the service and times another, which is ended, too.</summary>
        public Task<double> StartAsync()
        {
            End();
            return ServiceStart.TimeAsync(Url, () => place.Serve());
        }

        /// <summary>As many pending invitations as people; the service starts anew after it.</summary>
        public async Task FillInvitationsAsync()
        {
            End();
            var database = Database.Sqlite(place.DatabasePath);
            await Listing.FillAsync(database, await Listing.WorkspaceAsync(database), 0, people);
            await FirstDecisionAsync();
            using var client = new AboardClient(Url, "the-lantern-tide", token);
            await client.PeopleAsync();
        }

        private async Task ServeAsync()
        {
            _service = place.Serve();
            await Places.UntilReadyAsync(Url);
        }

        private void End()
        {
            if (_service is not null)
                Places.End(_service);
            _service = null;
        }

        public void Dispose()
        {
            End();
            place.Dispose();
        }
    }
}
