using System.Buffers;
using System.IO.Pipelines;
using System.Net;
using System.Net.Sockets;
using System.Text;
using MimeKit;

namespace ComeAboard.Standins.Mail;

/// <summary>
/// A mail server for the demo and the tests: it speaks enough of RFC 5321 (with PIPELINING, 8BITMIME and SMTPUTF8) to
/// take mail from one client, keeps it in an <see cref="Inbox"/>, and sends nothing on. It listens on loopback only.
/// </summary>
public sealed class SmtpStandin : IAsyncDisposable
{
    private const int LongestLine = 4096;
    private const int LongestMessage = 10 * 1024 * 1024;

    private readonly TcpListener _listener;

    // Never disposed: conversations may still look at it, and it holds nothing that needs to be.
    private readonly CancellationTokenSource _stop = new();
    private readonly Task _accepting;
    private readonly Func<Task> _greeting;
    private readonly System.Collections.Concurrent.ConcurrentDictionary<Task, bool> _conversations = new();

    /// <summary>Starts listening.</summary>
    /// <param name="inbox">Where mails are kept.</param>
    /// <param name="port">The port, or 0 for any free one.</param>
    /// <param name="greeting">What whoever connects waits for before being greeted: a slow server.</param>
    public SmtpStandin(Inbox inbox, int port = 0, Func<Task>? greeting = null)
    {
        _greeting = greeting ?? (() => Task.CompletedTask);
        Inbox = inbox;
        Verdict = ByName;
        _listener = new TcpListener(IPAddress.Loopback, port);
        _listener.Start();
        Port = ((IPEndPoint)_listener.LocalEndpoint).Port;
        _accepting = AcceptAsync();
    }

    /// <summary>Where mails are kept.</summary>
    public Inbox Inbox { get; }

    /// <summary>The port it listens on.</summary>
    public int Port { get; }

    /// <summary>
    /// What to answer to a recipient in place of taking it: a reply such as <c>550 5.1.1 no such mailbox</c>, or null.
    /// Unless a caller decides otherwise, addresses whose local part begins with <c>nobody</c> do not exist, and those
    /// that begin with <c>later</c> are put off at the first try.
    /// </summary>
    public Func<string, string?> Verdict { get; set; }

    /// <summary>
    /// What a server further on says of a mail that was taken, as in <c>5.2.2 mailbox full</c>: it comes back as a
    /// delivery report. Unless a caller decides otherwise that is so for addresses that begin with <c>full</c>.
    /// </summary>
    public Func<string, string?> Return { get; set; } =
        address =>
            address.StartsWith("full", StringComparison.OrdinalIgnoreCase)
                ? "5.2.2 The mailbox is full"
                : null;

    /// <summary>Takes the delivery reports (RFC 3464) of mails that came back; null to let them go.</summary>
    public Func<MimeMessage, Task>? OnReturn { get; set; }

    /// <summary>Whether it breaks the connection off at a mail to an address, in the middle of its words.</summary>
    public Func<string, bool> BreaksOffAt { get; set; } = _ => false;

    /// <summary>After how many mails it hangs up.</summary>
    public int MailsPerConnection { get; set; } = int.MaxValue;

    /// <summary>Whether it says nothing to a command, such as <c>NOOP</c>, and to none that comes after it.</summary>
    public Func<string, bool> FallsSilentAt { get; set; } = _ => false;

    /// <summary>How long it takes over each mail before it says that it was taken.</summary>
    public TimeSpan Takes { get; set; }

    private readonly System.Collections.Concurrent.ConcurrentDictionary<string, bool> _putOff = new();

    private string? ByName(string address)
    {
        if (address.StartsWith("nobody", StringComparison.OrdinalIgnoreCase))
            return "550 5.1.1 The mailbox does not exist";
        return
            address.StartsWith("later", StringComparison.OrdinalIgnoreCase) && _putOff.TryAdd(address, true)
            ? "451 4.3.2 Come back later"
            : null;
    }

    private async Task ReturnAsync(IReadOnlyList<string> recipients, MimeMessage message)
    {
        foreach (var recipient in recipients)
        {
            if (OnReturn is { } take && Return(recipient) is { } why)
                await take(DeliveryReport.Failed(recipient, message, why));
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        _listener.Dispose();
        await _accepting;
        await Task.WhenAll(_conversations.Keys);
    }

    private async Task AcceptAsync()
    {
        while (!_stop.IsCancellationRequested)
        {
            try
            {
                var client = await _listener.AcceptTcpClientAsync(_stop.Token);
                var serving = ServeAsync(client);
                _conversations[serving] = true;
                _ = serving.ContinueWith(
                    done => _conversations.TryRemove(done, out _),
                    TaskScheduler.Default
                );
            }
            catch (Exception fault) when (fault is OperationCanceledException or ObjectDisposedException)
            {
                return;
            }
            catch (SocketException) when (!_stop.IsCancellationRequested)
            {
                // One that had already gone, or too many at once: there are others.
                await Task.Delay(10);
            }
            catch (SocketException)
            {
                return;
            }
        }
    }

    private async Task ServeAsync(TcpClient client)
    {
        try
        {
            using (client)
            {
                client.NoDelay = true;
                await new Conversation(this, client.GetStream(), _stop.Token).RunAsync();
            }
        }
        catch (Exception fault) when (fault is IOException or OperationCanceledException or SocketException)
        {
            // The client went away in the middle; what it had finished sending is kept.
        }
    }

    private sealed class Conversation(SmtpStandin server, Stream stream, CancellationToken stop)
    {
        private readonly PipeReader _reader = PipeReader.Create(stream);
        private readonly List<string> _recipients = [];
        private bool _hasSender;
        private int _taken;

        public async Task RunAsync()
        {
            await server._greeting().WaitAsync(stop);
            await SayAsync("220 standin.example ready");
            while (_taken < server.MailsPerConnection && await ReadLineAsync() is { } line)
            {
                var verb = line.Split(' ', 2)[0].ToUpperInvariant();
                if (server.FallsSilentAt(verb))
                    await Task.Delay(Timeout.Infinite, stop);
                if (verb == "QUIT")
                {
                    await SayAsync("221 2.0.0 Goodbye");
                    return;
                }
                await SayAsync(verb == "DATA" ? await TakeDataAsync() : Answer(verb, line));
            }
        }

        private string Answer(string verb, string line) =>
            verb switch
            {
                "EHLO" =>
                    $"250-standin.example\r\n250-PIPELINING\r\n250-8BITMIME\r\n250-SMTPUTF8\r\n250-ENHANCEDSTATUSCODES\r\n250 SIZE {LongestMessage}",
                "HELO" => "250 standin.example",
                "MAIL" => TakeSender(),
                "RCPT" => TakeRecipient(line),
                "RSET" => Reset("250 2.0.0 Forgotten"),
                "NOOP" => "250 2.0.0 Still here",
                _ => "502 5.5.1 Not understood",
            };

        private string TakeSender()
        {
            Reset("");
            _hasSender = true;
            return "250 2.1.0 Sender taken";
        }

        private string TakeRecipient(string line)
        {
            var open = line.IndexOf('<', StringComparison.Ordinal);
            var close = line.IndexOf('>', StringComparison.Ordinal);
            if (!_hasSender || open < 0 || close < open)
                return "503 5.5.1 Say MAIL FROM:<…> first";
            var address = line[(open + 1)..close];
            if (server.Verdict(address) is { } refusal)
                return refusal;
            _recipients.Add(address);
            return "250 2.1.5 Recipient taken";
        }

        private string Reset(string answer)
        {
            _recipients.Clear();
            _hasSender = false;
            return answer;
        }

        private async Task<string> TakeDataAsync()
        {
            if (_recipients.Count == 0)
                return "503 5.5.1 No recipients";
            await SayAsync("354 End with a dot on its own line");
            using var data = new MemoryStream();
            while (true)
            {
                var line =
                    await ReadLineBytesAsync() ?? throw new IOException("The client left in the middle.");
                if (line is [(byte)'.'])
                    break;
                data.Write(line.AsSpan(line is [(byte)'.', ..] ? 1 : 0));
                data.Write("\r\n"u8);
                if (data.Length > LongestMessage)
                    return "552 5.3.4 The message is too long";
            }
            data.Position = 0;
            if (_recipients.Any(server.BreaksOffAt))
                throw new IOException("Broken off on purpose.");
            var message = await MimeMessage.LoadAsync(data, stop);
            if (server.Takes > TimeSpan.Zero)
                await Task.Delay(server.Takes, stop);
            _taken++;
            IReadOnlyList<string> recipients = [.. _recipients];
            server.Inbox.Add(recipients, message);
            await server.ReturnAsync(recipients, message);
            return Reset("250 2.0.0 Message taken");
        }

        private async Task SayAsync(string line) =>
            await stream.WriteAsync(Encoding.UTF8.GetBytes(line + "\r\n"), stop);

        private async Task<string?> ReadLineAsync() =>
            await ReadLineBytesAsync() is { } bytes ? Encoding.UTF8.GetString(bytes) : null;

        private async Task<byte[]?> ReadLineBytesAsync()
        {
            while (true)
            {
                var read = await _reader.ReadAsync(stop);
                if (read.Buffer.PositionOf((byte)'\n') is { } end)
                {
                    var line = read.Buffer.Slice(0, end).ToArray();
                    _reader.AdvanceTo(read.Buffer.GetPosition(1, end));
                    return line is [.., (byte)'\r'] ? line[..^1] : line;
                }
                if (read.IsCompleted)
                    return null;
                if (read.Buffer.Length > LongestLine)
                    throw new IOException("The line is too long.");
                _reader.AdvanceTo(read.Buffer.Start, read.Buffer.End);
            }
        }
    }
}
