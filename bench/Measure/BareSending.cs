using System.Data.Common;
using System.Diagnostics;
using System.Text.Json;
using System.Threading.Channels;
using MailKit.Net.Smtp;
using MailKit.Security;
using Microsoft.Data.Sqlite;
using MimeKit;
using Npgsql;

namespace ComeAboard.Measure;

/// <summary>
/// The reference of V5, in a process of its own as the service is: a bare loop over four connections that composes each letter
/// anew and writes down by a prepared update that it was taken, with one commit for those that wait together.
/// </summary>
public static class BareSending
{
    private const int Connections = 4;

    /// <summary>Sends what is asked for in lines of its input, one at a time, and says after each that it is done.</summary>
    public static async Task RunAsync()
    {
        while (await Console.In.ReadLineAsync() is { } line)
        {
            await SendAsync(JsonSerializer.Deserialize<Wish>(line)!);
            await Console.Out.WriteLineAsync("sent");
        }
    }

    private static async Task SendAsync(Wish wish)
    {
        await using DbConnection connection = wish.Postgres is null
            ? new SqliteConnection($"Data Source={wish.Path}")
            : new NpgsqlConnection(wish.Postgres);
        await connection.OpenAsync();
        var ids = await IdsAsync(connection, wish.Mails);
        var sent = Channel.CreateUnbounded<object>();
        var writing = WriteDownAsync(connection, sent.Reader);
        var next = -1;
        await Task.WhenAll(
            Enumerable
                .Range(0, Connections)
                .Select(_ =>
                    Task.Run(async () =>
                    {
                        using var smtp = new SmtpClient();
                        await smtp.ConnectAsync("127.0.0.1", wish.Port, SecureSocketOptions.None);
                        for (int n; (n = Interlocked.Increment(ref next)) < wish.Mails; )
                        {
                            var to = $"sailor{n}@harbour.example";
                            using var message = Compose(wish.Letter, to);
                            await smtp.SendAsync(
                                message,
                                new MailboxAddress("", "aboard@come-aboard.example"),
                                [new MailboxAddress("", to)]
                            );
                            await sent.Writer.WriteAsync(ids[n]);
                        }
                        await smtp.DisconnectAsync(true);
                    })
                )
        );
        sent.Writer.Complete();
        await writing;
    }

    /// <summary>The same words to somebody else.</summary>
    private static MimeMessage Compose(Words letter, string to)
    {
        var message = new MimeMessage { Subject = letter.Subject, Date = DateTimeOffset.UtcNow };
        message.From.Add(new MailboxAddress(letter.FromName, letter.FromAddress));
        message.To.Add(new MailboxAddress("", to));
        message.MessageId = Guid.NewGuid() + "@harbour.example";
        message.Body = new BodyBuilder { TextBody = letter.Text, HtmlBody = letter.Html }.ToMessageBody();
        return message;
    }

    private static async Task<List<object>> IdsAsync(DbConnection connection, int mails)
    {
        await using var look = connection.CreateCommand();
        look.CommandText = $"SELECT id FROM deliveries ORDER BY id DESC LIMIT {mails}";
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

    /// <summary>So many letters to the server at a port, and so many deliveries of a database written down.</summary>
    private sealed record Wish(int Port, int Mails, Words Letter, string Path, string? Postgres);

    /// <summary>What a letter says, read once: a message is not for several threads at once, not even for reading.</summary>
    public sealed record Words(string Subject, string FromName, string FromAddress, string Text, string Html)
    {
        public static Words Of(MimeMessage letter)
        {
            var from = letter.From.Mailboxes.First();
            return new(
                letter.Subject ?? "",
                from.Name ?? "",
                from.Address,
                letter.TextBody ?? "",
                letter.HtmlBody ?? ""
            );
        }
    }

    /// <summary>The loop's process, as the measurement sees it.</summary>
    public sealed class Loop(Words letter, string path, string? postgres) : IDisposable
    {
        private readonly Process _process = Places.Start(Environment.ProcessPath!, null, "send");

        public TimeSpan ProcessorTime
        {
            get
            {
                _process.Refresh();
                return _process.TotalProcessorTime;
            }
        }

        /// <summary>Has it send so many to the server at a port; done when all are written down.</summary>
        /// <exception cref="InvalidOperationException">It ended.</exception>
        public async Task SendAsync(int port, int mails)
        {
            var wish = new Wish(port, mails, letter, path, postgres);
            await _process.StandardInput.WriteLineAsync(JsonSerializer.Serialize(wish));
            await _process.StandardInput.FlushAsync();
            if (await _process.StandardOutput.ReadLineAsync() != "sent")
                throw new InvalidOperationException("The bare loop ended.");
        }

        public void Dispose() => Places.End(_process);
    }
}
