using System.Data.Common;
using System.Diagnostics;
using System.Text;
using System.Threading.Channels;
using ComeAboard.Client;
using ComeAboard.Standins;
using ComeAboard.Standins.Mail;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.Data.Sqlite;
using MimeKit;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>
/// V5: sending queued invitations, by a service that has sent some before, against a bare loop over as many connections to the
/// same server that composes each letter anew and writes down by a prepared update that it was taken, with one commit for those
/// that wait together; also where the server takes 5 ms for each; both databases.
/// </summary>
public static class Sending
{
    private const int Mails = 4_000;
    private const int WarmUp = 1_500;
    private const int Connections = 4;
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
            Words letter;
            await using (var server = new SmtpStandin(new Inbox(), port))
            {
                await QueueAsync(client, WarmUp);
                await UntilAsync(server.Inbox, WarmUp);
                letter = Words.Of(server.Inbox.To()[0].Message);
            }
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
                    reference.Add(await BareAsync(letter, takes, place.DatabasePath, cluster?.Connection));
                    Console.Error.WriteLine(
                        $"  {engine}{called}, run {run + 1}: {ours[^1]:0} a second, {work:0.00} ms of processor time each; the reference {reference[^1]:0}"
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

    private static async Task<double> BareAsync(Words letter, TimeSpan takes, string path, string? postgres)
    {
        await using var server = new SmtpStandin(new Inbox()) { Takes = takes };
        await using DbConnection connection = postgres is null
            ? new SqliteConnection($"Data Source={path}")
            : new NpgsqlConnection(postgres);
        await connection.OpenAsync();
        var ids = await IdsAsync(connection);
        var sent = Channel.CreateUnbounded<object>();
        var writing = WriteDownAsync(connection, sent.Reader);
        var next = -1;
        var sending = Task.WhenAll(
            Enumerable
                .Range(0, Connections)
                .Select(_ =>
                    Task.Run(async () =>
                    {
                        using var smtp = new SmtpClient();
                        await smtp.ConnectAsync("127.0.0.1", server.Port, SecureSocketOptions.None);
                        for (int n; (n = Interlocked.Increment(ref next)) < Mails; )
                        {
                            var to = $"sailor{n}@harbour.example";
                            await smtp.SendAsync(
                                Compose(letter, to),
                                new MailboxAddress("", "aboard@come-aboard.example"),
                                [new MailboxAddress("", to)]
                            );
                            await sent.Writer.WriteAsync(ids[n]);
                        }
                        await smtp.DisconnectAsync(true);
                    })
                )
        );
        var measured = RateAsync(server.Inbox, Mails);
        // A connection that fails says so, and does not leave the last mail waited for.
        if (await Task.WhenAny(sending, measured) == sending)
            await sending;
        var rate = await measured;
        await sending;
        sent.Writer.Complete();
        await writing;
        return rate;
    }

    /// <summary>The same words to somebody else.</summary>
    private static MimeMessage Compose(Words letter, string to)
    {
        var message = new MimeMessage { Subject = letter.Subject, Date = DateTimeOffset.UtcNow };
        message.From.AddRange(letter.From);
        message.To.Add(new MailboxAddress("", to));
        message.MessageId = Guid.NewGuid() + "@harbour.example";
        message.Body = new BodyBuilder { TextBody = letter.Text, HtmlBody = letter.Html }.ToMessageBody();
        return message;
    }

    /// <summary>What a letter says, read once: a message is not for several threads at once, not even for reading.</summary>
    private sealed record Words(string Subject, IReadOnlyList<InternetAddress> From, string Text, string Html)
    {
        public static Words Of(MimeMessage letter) =>
            new(letter.Subject ?? "", [.. letter.From], letter.TextBody ?? "", letter.HtmlBody ?? "");
    }

    private static async Task<List<object>> IdsAsync(DbConnection connection)
    {
        await using var look = connection.CreateCommand();
        look.CommandText = $"SELECT id FROM deliveries ORDER BY id DESC LIMIT {Mails}";
        await using var reader = await look.ExecuteReaderAsync();
        var ids = new List<object>();
        while (await reader.ReadAsync())
            ids.Add(reader.GetValue(0));
        return ids;
    }

    private static async Task WriteDownAsync(DbConnection connection, ChannelReader<object> sent)
    {
        await using var update = connection.CreateCommand();
        var isPostgres = connection is NpgsqlConnection;
        update.CommandText =
            $"UPDATE deliveries SET state = 'accepted', answer = '250 2.0.0 Message taken', settled_at = {(isPostgres ? "now()" : "unixepoch() * 1000")}, tries = tries + 1 WHERE workspace_id = (SELECT id FROM workspaces) AND id = @id";
        var id = update.CreateParameter();
        id.ParameterName = "@id";
        if (id is NpgsqlParameter typed)
            typed.DataTypeName = "uuid";
        id.Value = isPostgres ? Guid.Empty : "";
        update.Parameters.Add(id);
        await update.PrepareAsync();
        while (await sent.WaitToReadAsync())
        {
            await using var transaction = await connection.BeginTransactionAsync();
            update.Transaction = transaction;
            while (sent.TryRead(out var one))
            {
                id.Value = one;
                await update.ExecuteNonQueryAsync();
            }
            await transaction.CommitAsync();
        }
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
