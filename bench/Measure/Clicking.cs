using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Storage;

namespace ComeAboard.Measure;

/// <summary>
/// V10: from the click to the drawn page, for the five pages people live on, in a workspace of 100,000 people and as many
/// pending invitations, in a headless browser whose processor is slowed down to a quarter.
/// </summary>
public static class Clicking
{
    private const int Rounds = 8;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        using var place = new ServicePlace(null);
        var (first, token) = await place.OpenAsync();
        Places.End(first);
        var database = Database.Sqlite(place.DatabasePath);
        await Deciding.FillAsync(database);
        await Listing.FillAsync(database, await Listing.WorkspaceAsync(database), 0, 100_000);
        var service = place.Serve();
        await Places.UntilReadyAsync(place.Url);
        using var client = new AboardClient(place.Url, "the-lantern-tide", token);
        await client.PeopleAsync();
        var runs = RunsAt(place.Url).Take(Places.Runs).ToList();
        Places.End(service);
        return
        [
            .. runs[0]
                .Keys.Select(page => new Figure(
                    "V10",
                    $"from click to drawn, {page}, slowest of four (p75)",
                    "ms",
                    [.. runs.Select(run => UpperQuartile(run[page].Ms))],
                    [],
                    "≤ 300",
                    ms => ms <= 300
                )),
            .. runs[0]
                .Keys.Select(page => new Figure(
                    "V10",
                    $"requests for {page}",
                    "",
                    [.. runs.Select(run => Figure.Median(run[page].Requests))],
                    [],
                    "–",
                    _ => true
                )),
        ];
    }

    /// <summary>The slowest of four clicks on each page (p75), ms, run by run.</summary>
    internal static IEnumerable<IReadOnlyDictionary<string, double>> Quartiles(Uri service) =>
        RunsAt(service)
            .Select(seen => seen.ToDictionary(page => page.Key, page => UpperQuartile(page.Value.Ms)));

    /// <summary>What is seen of each page in one run of the rounds after another; as many as are taken.</summary>
    private static IEnumerable<Dictionary<string, Seen>> RunsAt(Uri service)
    {
        while (true)
        {
            var said = Places.RunToEnd(
                "node",
                null,
                Path.Combine(Places.Root, "console", "click.mjs"),
                service.ToString().TrimEnd('/'),
                "the-lantern-tide",
                Rounds.ToString()
            );
            yield return JsonSerializer.Deserialize<Dictionary<string, Seen>>(
                said,
                JsonSerializerOptions.Web
            )!;
        }
    }

    private static double UpperQuartile(IReadOnlyList<double> values) =>
        values.Order().ElementAt((values.Count * 3 + 3) / 4 - 1);

    /// <summary>What was seen of one page.</summary>
    /// <param name="Ms">From click to drawn, ms, once for each round.</param>
    /// <param name="Requests">How many calls over the network interface it took, once for each round.</param>
    private sealed record Seen(IReadOnlyList<double> Ms, IReadOnlyList<double> Requests);
}
