using System.CommandLine;
using System.Diagnostics;
using ComeAboard.Client;
using ComeAboard.Client.Departures;

namespace ComeAboard.Cli.Departures;

/// <summary><c>aboard departures progress</c>: how far the departures of everybody have come.</summary>
public static class ProgressCommand
{
    private static readonly TimeSpan Beat = TimeSpan.FromSeconds(2);

    private static readonly Option<bool> Follow = new("--follow")
    {
        Description = "Say it again every two seconds, with rate and time left, until nothing waits",
    };

    private static readonly Listing<SystemProgress> Systems = new(
        new("In", one => one.Connection),
        new("Accounts to close", one => one.Due.ToString(), 0, true),
        new("", one => one.IsPaused ? "told to wait" : one.Answer)
    );

    public static Command Make()
    {
        var progress = Commands.Made(
            "progress",
            "Show how far the departures of everybody have come; connections pause and resume has a system wait",
            [Follow]
        );
        Session.On(
            progress,
            async (session, parsed, cancellation) =>
            {
                var now = await session.Client.DepartureProgressAsync(cancellation);
                var (first, begun) = (now, Stopwatch.GetTimestamp());
                Print(session, now);
                while (parsed.GetValue(Follow) && WaitsOf(now) > 0)
                {
                    await Task.Delay(Beat, cancellation);
                    now = await session.Client.DepartureProgressAsync(cancellation);
                    if (session.Json)
                        Print(session, now);
                    else
                        Session.Say(Rate(first, now, Stopwatch.GetElapsedTime(begun)));
                }
                return ExitStatus.Done;
            }
        );
        return progress;
    }

    private static int WaitsOf(DepartureProgress progress) =>
        progress.Here + progress.Systems.Sum(one => one.Due);

    private static string Rate(DepartureProgress first, DepartureProgress now, TimeSpan passed)
    {
        var (waits, done) = (WaitsOf(now), WaitsOf(first) - WaitsOf(now));
        var rate = done / passed.TotalSeconds;
        var left = rate > 0 ? TimeSpan.FromSeconds(waits / rate) : (TimeSpan?)null;
        return waits == 0
            ? "Nothing waits any more."
            : $"{now.Here} here, {string.Join(", ", now.Systems.Select(one => $"{one.Due} in {one.Connection}"))}: {rate:0} a second{(left is { } time ? $", {(int)time.TotalMinutes} min {time.Seconds} s left" : "")}";
    }

    private static void Print(Session session, DepartureProgress progress)
    {
        if (session.Json)
        {
            Session.Print(progress, WireJson.Default.DepartureProgress);
            return;
        }
        if (progress.Systems.Count > 0)
            Systems.Print(progress.Systems);
        Console.WriteLine(
            progress is { Here: 0, Running: 0, Systems.Count: 0 }
                ? "Nobody's departure waits for anything."
                : $"{Texts.Many(progress.Here, "person is", "people are")} out and not done with here; {Texts.Many(progress.Running, "departure waits", "departures wait")} for connected systems."
        );
    }
}
