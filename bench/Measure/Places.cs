using System.Collections.Concurrent;
using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Standins;

namespace ComeAboard.Measure;

/// <summary>Where things are, and starting them.</summary>
public static class Places
{
    public static string Root { get; } = FindRoot();

    /// <summary>How many paired runs are made: five, or more or fewer while something is tried out.</summary>
    public static int Runs { get; } =
        int.TryParse(Environment.GetEnvironmentVariable("BENCH_RUNS"), out var runs) ? runs : 5;

    /// <summary>How many people there are: as many as usual, or more or fewer while something is tried out.</summary>
    public static int People(int usual) =>
        int.TryParse(Environment.GetEnvironmentVariable("BENCH_PEOPLE"), out var people) ? people : usual;

    /// <summary>The databases that are measured on: both, or one while something is tried out.</summary>
    public static IReadOnlyList<string> Engines { get; } =
        Environment.GetEnvironmentVariable("BENCH_ENGINE") is { Length: > 0 } only
            ? [only]
            : ["SQLite", "PostgreSQL"];

    public static string InOut(params string[] parts) => Path.Combine([Root, "out", .. parts]);

    private static readonly ConcurrentDictionary<Process, bool> Running = [];

    public static Process Start(
        string program,
        IReadOnlyDictionary<string, string>? environment,
        params string[] arguments
    )
    {
        var start = new ProcessStartInfo(program)
        {
            RedirectStandardInput = true,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            WorkingDirectory = Path.GetTempPath(),
        };
        foreach (var argument in arguments)
            start.ArgumentList.Add(argument);
        foreach (var (name, value) in environment ?? new Dictionary<string, string>())
            start.Environment[name] = value;
        var process = Process.Start(start)!;
        Running[process] = true;
        process.ErrorDataReceived += (_, _) => { };
        process.BeginErrorReadLine();
        return process;
    }

    public static string RunToEnd(
        string program,
        IReadOnlyDictionary<string, string>? environment,
        params string[] arguments
    )
    {
        using var process = Start(program, environment, arguments);
        var output = process.StandardOutput.ReadToEnd();
        process.WaitForExit();
        Running.TryRemove(process, out _);
        if (process.ExitCode != 0)
            throw new InvalidOperationException($"{program} ended with {process.ExitCode}: {output}");
        return output;
    }

    /// <summary>Waits until a service answers; how long that took from the start of the waiting.</summary>
    public static async Task<TimeSpan> UntilReadyAsync(Uri url)
    {
        var watch = Stopwatch.StartNew();
        using var http = new HttpClient { BaseAddress = url };
        while (watch.Elapsed < TimeSpan.FromSeconds(30))
        {
            try
            {
                if ((await http.GetAsync(new Uri("/health/ready", UriKind.Relative))).IsSuccessStatusCode)
                    return watch.Elapsed;
            }
            catch (HttpRequestException)
            {
                await Task.Delay(2);
            }
        }
        throw new TimeoutException($"{url} did not answer in 30 seconds.");
    }

    public static void End(Process process)
    {
        Running.TryRemove(process, out _);
        process.Kill();
        process.WaitForExit();
        process.Dispose();
    }

    /// <summary>Ends what a measurement that failed has left running.</summary>
    public static void EndAll()
    {
        foreach (var process in Running.Keys)
            End(process);
    }

    private static string FindRoot()
    {
        var directory = new DirectoryInfo(AppContext.BaseDirectory);
        while (!File.Exists(Path.Combine(directory!.FullName, "ComeAboard.slnx")))
            directory = directory.Parent;
        return directory.FullName;
    }
}
