using System.Diagnostics;
using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>V9: from starting the process to its first answer, on an existing database, against an empty service.</summary>
public static class ServiceStart
{
    private const int Runs = 7;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        using var place = new ServicePlace(null);
        place.Init();
        var (ours, reference) = (new List<double>(), new List<double>());
        for (var run = 0; run <= Runs; run++)
        {
            var own = await TimeAsync(place.Url, () => place.Serve());
            var port = Ports.Free();
            var bare = await TimeAsync(
                new Uri($"http://127.0.0.1:{port}"),
                () =>
                    Places.Start(
                        Places.InOut("bench", "web", "Empty.Web"),
                        null,
                        "--urls",
                        $"http://127.0.0.1:{port}"
                    )
            );
            if (run == 0)
                continue; // The first of each fills the machine's caches.
            ours.Add(own);
            reference.Add(bare);
        }
        return
        [
            new(
                "V9",
                "start to first answer against an empty service",
                "ms",
                ours,
                reference,
                "≤ 3.5",
                r => r <= 3.5
            ),
        ];
    }

    /// <summary>Milliseconds from the start of a process to its first answer.</summary>
    internal static async Task<double> TimeAsync(Uri url, Func<Process> start)
    {
        var watch = Stopwatch.StartNew();
        var process = start();
        await Places.UntilReadyAsync(url);
        var elapsed = watch.Elapsed.TotalMilliseconds;
        Places.End(process);
        return elapsed;
    }
}
