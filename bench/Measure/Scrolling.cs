using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Storage;

namespace ComeAboard.Measure;

/// <summary>
/// V10: the page of a resource to which 100,000 people have access, scrolled in a headless browser: the frames in which part
/// of the list shows nothing, and those in which somebody in sight has no name yet.
/// </summary>
public static class Scrolling
{
    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        using var place = new ServicePlace(null);
        var (first, token) = await place.OpenAsync();
        Places.End(first);
        await Deciding.FillAsync(Database.Sqlite(place.DatabasePath));
        var service = place.Serve();
        await Places.UntilReadyAsync(place.Url);
        using var client = new AboardClient(place.Url, "the-lantern-tide", token);
        var resource = await client.Resources.ShowAsync("Register 1");
        var runs = new List<Seen>();
        for (var run = 0; run < Places.Runs; run++)
        {
            var said = Places.RunToEnd(
                "node",
                null,
                Path.Combine(Places.Root, "console", "scroll.mjs"),
                place.Url.ToString().TrimEnd('/'),
                "the-lantern-tide",
                resource.Id.ToString()
            );
            runs.Add(JsonSerializer.Deserialize<Seen>(said, JsonSerializerOptions.Web)!);
        }
        Places.End(service);
        foreach (var run in runs)
            Console.Error.WriteLine(run);
        return [Of("partly blank", run => run.Blank), Of("somebody still unnamed", run => run.Unnamed)];

        Figure Of(string what, Func<Seen, double> count) =>
            new(
                "V10",
                $"a list of 100,000 scrolled, {what}",
                "frames of 1,000",
                [.. runs.Select(run => 1000 * count(run) / run.Frames)],
                [],
                "0",
                share => share == 0
            );
    }

    /// <summary>What one run saw.</summary>
    /// <param name="Opened">Until the first people are there, ms.</param>
    /// <param name="Frames">How many frames were looked at.</param>
    /// <param name="Blank">Frames in which part of the list shows no row.</param>
    /// <param name="Unnamed">Frames in which a row in sight has no name yet.</param>
    /// <param name="Slowest">The longest from one frame to the next, ms.</param>
    /// <param name="Scrolled">How far it went, px.</param>
    /// <param name="Jump">The last but one of 20 far jumps: until everybody in sight is named, ms.</param>
    /// <param name="Drawn">Rows in the page at the end.</param>
    private sealed record Seen(
        double Opened,
        int Frames,
        int Blank,
        int Unnamed,
        double Slowest,
        double Scrolled,
        double Jump,
        int Drawn
    );
}
