using System.Diagnostics;

namespace ComeAboard.Measure;

/// <summary>V8: how long the client takes to start, against empty programs. A shell loop starts each, so that starting is all there is.</summary>
public static class ClientStart
{
    private const int Runs = 7;
    private const int Starts = 60;

    public static IEnumerable<Figure> Measure()
    {
        var (ours, native, managed) = (new List<double>(), new List<double>(), new List<double>());
        for (var run = 0; run < Runs; run++)
        {
            ours.Add(Time(Places.InOut("cli", "aboard") + " --version", Starts));
            native.Add(Time(Places.InOut("bench", "native", "Empty.Native"), Starts));
            managed.Add(Time(Places.InOut("bench", "managed", "Empty.Managed"), Starts / 6));
        }
        yield return new(
            "V8",
            "aboard --version against an empty compiled program",
            "ms",
            ours,
            native,
            "≤ 5",
            r => r <= 5
        );
        yield return new(
            "V8",
            "aboard --version against an empty dotnet program",
            "ms",
            ours,
            managed,
            "≤ 0.5",
            r => r <= 0.5
        );
    }

    private static double Time(string command, int starts)
    {
        var watch = Stopwatch.StartNew();
        Places.RunToEnd(
            "/bin/bash",
            null,
            "-c",
            $"for ((i = 0; i < {starts}; i++)); do {command} > /dev/null; done"
        );
        return watch.Elapsed.TotalMilliseconds / starts;
    }
}
