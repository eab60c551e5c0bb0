using System.Diagnostics;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Standins;
using ComeAboard.Standins.Mail;

namespace ComeAboard.Measure;

/// <summary>
/// V5: sending queued invitations, by a service that has sent some before, against a bare loop in another process that has, too;
/// also where the server takes 5 ms for each; both databases.
/// </summary>
public static class Sending
{
    private const int Mails = 4_000;
    private const int WarmUp = 1_500;
    private static int _lists;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in Places.Engines)
        {
            using var cluster = PostgresCluster.On(engine);
            using var place = new ServicePlace(cluster?.Connection, firstRetrySeconds: 1);
            var port = Ports.Free();
            var (service, token) = await place.OpenAsync(port);
            using var client = new AboardClient(place.Url, "the-lantern-tide", token);
            BareSending.Words letter;
            await using (var server = new SmtpStandin(new Inbox(), port))
            {
                await QueueAsync(client, WarmUp);
                await UntilAsync(server.Inbox, WarmUp);
                letter = BareSending.Words.Of(server.Inbox.To()[0].Message);
            }
            using var loop = new BareSending.Loop(letter, place.DatabasePath, cluster?.Connection);
            await BareAsync(loop, WarmUp, TimeSpan.Zero);
            foreach (
                var (takes, called, least) in ((TimeSpan, string, double)[])
                    [
                        (TimeSpan.Zero, "", 0.8),
                        (TimeSpan.FromMilliseconds(5), ", a server that takes 5 ms", 0.95),
                    ]
            )
            {
                var (ours, reference) = (new List<double>(), new List<double>());
                for (var run = 0; run < Places.Runs; run++)
                {
                    await QueueAsync(client, Mails);
                    service.Refresh();
                    var before = service.TotalProcessorTime;
                    ours.Add(await EmptiedAsync(port, Mails, takes));
                    service.Refresh();
                    var work = (service.TotalProcessorTime - before).TotalMilliseconds / Mails;
                    var beforeLoop = loop.ProcessorTime;
                    reference.Add(await BareAsync(loop, Mails, takes));
                    var workOfLoop = (loop.ProcessorTime - beforeLoop).TotalMilliseconds / Mails;
                    Console.Error.WriteLine(
                        $"  {engine}{called}, run {run + 1}: {ours[^1]:0} a second, {work:0.00} ms of processor time each; the reference {reference[^1]:0} and {workOfLoop:0.00}"
                    );
                }
                figures.Add(
                    new(
                        "V5",
                        $"sending queued mail on {engine}{called}",
                        "mails/s",
                        ours,
                        reference,
                        $"≥ {least}",
                        r => r >= least
                    )
                );
            }
            Places.End(service);
        }
        return figures;
    }

    /// <summary>What one mail of a queue costs that is ten times as long as the row's, against one of the row's.</summary>
    internal static async Task<Figure> GrowthAsync(string engine)
    {
        using var cluster = PostgresCluster.On(engine);
        using var place = new ServicePlace(cluster?.Connection, firstRetrySeconds: 1);
        var port = Ports.Free();
        var (service, token) = await place.OpenAsync(port);
        using var client = new AboardClient(place.Url, "the-lantern-tide", token);
        await QueueAsync(client, WarmUp);
        await EmptiedAsync(port, WarmUp, TimeSpan.Zero);
        var (many, few) = (new List<double>(), new List<double>());
        for (var run = 0; run < Places.Runs; run++)
        {
            foreach (
                var (mails, costs) in ((int, List<double>)[])[(Mails, few), (Growing.Times * Mails, many)]
            )
            {
                await QueueAsync(client, mails);
                costs.Add(1_000 / await EmptiedAsync(port, mails, TimeSpan.Zero));
            }
        }
        Places.End(service);
        return Growing.Of(
            "V5",
            $"sending one of {Growing.Times * Mails} queued mails on {engine}",
            "ms",
            many,
            few
        );
    }

    /// <summary>Mails a second of a queue that a server takes whole.</summary>
    private static async Task<double> EmptiedAsync(int port, int mails, TimeSpan takes)
    {
        await using var server = new SmtpStandin(new Inbox(), port) { Takes = takes };
        return await RateAsync(server.Inbox, mails);
    }

    /// <summary>Has the service invite so many that nobody has invited before.</summary>
    private static Task QueueAsync(AboardClient client, int mails)
    {
        var list = ++_lists;
        var csv = new StringBuilder("Address,Kind,Role\n");
        for (var n = 0; n < mails; n++)
            csv.Append($"sailor{n}.{list}@harbour.example,guest,view\n");
        return Importing.InAsync(client, Encoding.UTF8.GetBytes(csv.ToString()), mails);
    }

    /// <summary>Mails a second that the bare loop sends to a server like ours.</summary>
    private static async Task<double> BareAsync(BareSending.Loop loop, int mails, TimeSpan takes)
    {
        await using var server = new SmtpStandin(new Inbox()) { Takes = takes };
        var sending = loop.SendAsync(server.Port, mails);
        var measured = RateAsync(server.Inbox, mails);
        // A loop that fails says so, and does not leave the last mail waited for.
        if (await Task.WhenAny(sending, measured) == sending)
            await sending;
        var rate = await measured;
        await sending;
        return rate;
    }

    private static async Task UntilAsync(Inbox inbox, int count)
    {
        var watch = Stopwatch.StartNew();
        while (inbox.Count < count)
        {
            if (watch.Elapsed > TimeSpan.FromMinutes(3))
                throw new TimeoutException($"Only {inbox.Count} mails arrived.");
            await Task.Delay(1);
        }
    }

    /// <summary>Mails a second between the hundredth and the last.</summary>
    private static async Task<double> RateAsync(Inbox inbox, int mails)
    {
        const int Begun = 100;
        await UntilAsync(inbox, Begun);
        var (watch, from) = (Stopwatch.StartNew(), inbox.Count);
        await UntilAsync(inbox, mails);
        return (mails - from) / watch.Elapsed.TotalSeconds;
    }
}
