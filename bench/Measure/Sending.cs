using System.Diagnostics;
using System.Text;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Standins.Mail;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace ComeAboard.Measure;

/// <summary>V5: sending queued invitations against a bare loop over as many connections to the same server; both databases.</summary>
public static class Sending
{
    private const int Mails = 4_000;
    private const int Connections = 4;
    private static readonly int Runs = Places.Runs;

    public static async Task<IEnumerable<Figure>> MeasureAsync()
    {
        var figures = new List<Figure>();
        foreach (var engine in new[] { "SQLite", "PostgreSQL" })
        {
            var (ours, reference) = (new List<double>(), new List<double>());
            for (var run = 0; run < Runs; run++)
            {
                using var cluster = engine == "PostgreSQL" ? new PostgresCluster() : null;
                using var place = new ServicePlace(cluster?.Connection, firstRetrySeconds: 1);
                var (rate, letter) = await OursAsync(place);
                ours.Add(rate);
                reference.Add(await BareAsync(letter));
            }
            figures.Add(
                new(
                    "V5",
                    $"sending queued mail on {engine}",
                    "mails/s",
                    ours,
                    reference,
                    "≥ 0.9",
                    r => r >= 0.9
                )
            );
        }
        return figures;
    }

    private static async Task<(double Rate, MimeMessage Letter)> OursAsync(ServicePlace place)
    {
        var (service, token) = await place.OpenAsync();
        using (var client = new AboardClient(place.Url, "the-lantern-tide", token))
        {
            var csv = new StringBuilder("Address,Kind,Role\n");
            for (var n = 0; n < Mails; n++)
                csv.Append($"sailor{n}@harbour.example,guest,view\n");
            await Importing.InAsync(client, Encoding.UTF8.GetBytes(csv.ToString()), Mails);
        }
        Places.End(service);
        await using var server = new SmtpStandin(new Inbox());
        // Mails that were tried while nobody listened wait a moment; the clock runs from the first that arrives.
        using var again = place.Serve(server.Port);
        var rate = await RateAsync(server.Inbox);
        again.Kill();
        return (rate, server.Inbox.To()[0].Message);
    }

    /// <summary>The same letter to as many people.</summary>
    private static async Task<double> BareAsync(MimeMessage letter)
    {
        await using var server = new SmtpStandin(new Inbox());
        var next = 0;
        var sending = Task.WhenAll(
            Enumerable
                .Range(0, Connections)
                .Select(_ =>
                    Task.Run(async () =>
                    {
                        using var smtp = new SmtpClient();
                        await smtp.ConnectAsync("127.0.0.1", server.Port, SecureSocketOptions.None);
                        for (int n; (n = Interlocked.Increment(ref next)) <= Mails; )
                            await smtp.SendAsync(
                                letter,
                                new MailboxAddress("", "aboard@come-aboard.example"),
                                [new MailboxAddress("", $"sailor{n}@harbour.example")]
                            );
                        await smtp.DisconnectAsync(true);
                    })
                )
        );
        var rate = await RateAsync(server.Inbox);
        await sending;
        return rate;
    }

    /// <summary>Mails a second between the hundredth and the last.</summary>
    private static async Task<double> RateAsync(Inbox inbox)
    {
        const int WarmUp = 100;
        while (inbox.Count < WarmUp)
            await Task.Delay(1);
        var watch = Stopwatch.StartNew();
        var begun = inbox.Count;
        while (inbox.Count < Mails)
        {
            if (watch.Elapsed > TimeSpan.FromMinutes(2))
                throw new TimeoutException($"Only {inbox.Count} mails arrived.");
            await Task.Delay(1);
        }
        return (Mails - begun) / watch.Elapsed.TotalSeconds;
    }
}
