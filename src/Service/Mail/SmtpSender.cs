using System.Diagnostics;
using MailKit;
using MailKit.Net.Smtp;
using MailKit.Security;
using MimeKit;

namespace ComeAboard.Service.Mail;

/// <summary>What came of handing one mail to the mail server.</summary>
public abstract record SendResult
{
    private SendResult() { }

    /// <summary>The server took it.</summary>
    public sealed record Taken(string Answer) : SendResult;

    /// <summary>The server refused this mail for good (RFC 5321 section 4.2.1, replies 5yz).</summary>
    public sealed record Refused(string Answer) : SendResult;

    /// <summary>The server refused this mail for now (replies 4yz).</summary>
    public sealed record Later(string Answer) : SendResult;

    /// <summary>It was not handed over, since nobody wants it any more or it cannot be written.</summary>
    public sealed record Unwanted(string Why = "no longer wanted") : SendResult;

    /// <summary>The connection broke while it was handed over: for its sake, or not.</summary>
    public sealed record BrokenOff(string Why) : SendResult;

    /// <summary>It is no longer this process's to send, and was not.</summary>
    public sealed record Late : SendResult;

    /// <summary>The server was not there, or will not talk to us; no mail could have gone.</summary>
    public sealed record Unreachable(string Why) : SendResult;
}

/// <summary>One connection to the mail server, kept open while there is work. Not for several threads at once.</summary>
public sealed class SmtpSender(MailSettings settings) : IDisposable
{
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(1);

    // How long words that bring no mail on are waited for: whoever is that slow at them is left, and asked anew.
    private static readonly TimeSpan Civility = TimeSpan.FromSeconds(5);

    private readonly ReportingClient _client = new() { Timeout = 120_000 };
    private long _lastUsed;

    /// <summary>When the connection was made, by the monotonic clock.</summary>
    public long ConnectedAt { get; private set; }

    /// <summary>Sees to it that there is a connection.</summary>
    /// <returns>Null when there is one, else why not.</returns>
    public async Task<SendResult.Unreachable?> ReachAsync(CancellationToken cancellation = default)
    {
        try
        {
            await ConnectAsync(cancellation);
            return null;
        }
        catch (Exception fault)
            when (fault is not OperationCanceledException || !cancellation.IsCancellationRequested)
        {
            await LetGoAsync();
            return new SendResult.Unreachable(fault.Message);
        }
    }

    /// <summary>Hands one mail over; there has to be a connection.</summary>
    /// <param name="message">The mail, as it was composed.</param>
    /// <param name="to">Its recipient.</param>
    /// <param name="at">Its date.</param>
    /// <param name="isOurs">Whether it may still be sent from here: asked last before its words go out.</param>
    public async Task<SendResult> SendAsync(
        MimeMessage message,
        string to,
        DateTimeOffset at,
        Func<bool> isOurs
    )
    {
        try
        {
            (_client.Envelope, _client.IsOurs) = (message.MessageId!, isOurs);
            message.Date = at;
            var answer = await _client.SendAsync(
                message,
                new MailboxAddress("", settings.Bounces.ToString()),
                [new MailboxAddress("", to)]
            );
            _lastUsed = Stopwatch.GetTimestamp();
            return new SendResult.Taken(answer);
        }
        catch (TooLateException)
        {
            return new SendResult.Late();
        }
        catch (SmtpCommandException fault) when (fault.ErrorCode == SmtpErrorCode.SenderNotAccepted)
        {
            await LetGoAsync();
            return new SendResult.Unreachable(fault.Message);
        }
        catch (SmtpCommandException fault) when (fault.StatusCode != SmtpStatusCode.ServiceNotAvailable)
        {
            var code = (int)fault.StatusCode;
            return code >= 500
                ? new SendResult.Refused($"{code} {fault.Message}")
                : new SendResult.Later($"{code} {fault.Message}");
        }
        catch (Exception fault)
        {
            await LetGoAsync();
            return new SendResult.BrokenOff(fault.Message);
        }
    }

    /// <summary>Ends the connection, politely where the server answers within five seconds.</summary>
    public async Task LetGoAsync()
    {
        using var civility = new CancellationTokenSource(Civility);
        try
        {
            await _client.DisconnectAsync(true, civility.Token);
        }
        catch (Exception fault) when (IsGone(fault) || civility.IsCancellationRequested)
        {
            // It is gone already, or says nothing any more: the library has closed it.
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _client.Dispose();

    private async Task ConnectAsync(CancellationToken cancellation)
    {
        if (
            _client.IsConnected
            && Stopwatch.GetElapsedTime(_lastUsed) > Fresh
            && !await AnswersAsync(cancellation)
        )
            await LetGoAsync();
        if (_client.IsConnected)
            return;
        var tls = settings.Tls switch
        {
            MailTls.None => SecureSocketOptions.None,
            MailTls.StartTls => SecureSocketOptions.StartTls,
            MailTls.Tls => SecureSocketOptions.SslOnConnect,
            _ => SecureSocketOptions.StartTlsWhenAvailable,
        };
        await _client.ConnectAsync(settings.Host, settings.Port, tls, cancellation);
        if (settings.User is { } user)
            await _client.AuthenticateAsync(user, settings.Password ?? "", cancellation);
        ConnectedAt = Stopwatch.GetTimestamp();
    }

    /// <summary>Whether a connection that was left idle is still one; servers hang up when they please.</summary>
    private async Task<bool> AnswersAsync(CancellationToken cancellation)
    {
        using var civility = CancellationTokenSource.CreateLinkedTokenSource(cancellation);
        civility.CancelAfter(Civility);
        try
        {
            await _client.NoOpAsync(civility.Token);
            return true;
        }
        catch (Exception fault)
            when (IsGone(fault) || fault is SmtpCommandException || !cancellation.IsCancellationRequested)
        {
            return false;
        }
    }

    private static bool IsGone(Exception fault) =>
        fault is IOException or TimeoutException or ServiceNotConnectedException or SmtpProtocolException;

    /// <summary>Composes a mail, all but its date.</summary>
    /// <param name="settings">Who it is from.</param>
    /// <param name="letter">What it says.</param>
    /// <param name="to">Its recipient.</param>
    /// <param name="messageId">Its Message-ID, the same at every try (RFC 5322 section 3.6.4).</param>
    public static MimeMessage Compose(MailSettings settings, Letter letter, string to, string messageId)
    {
        var message = new MimeMessage { Subject = letter.Subject, MessageId = messageId };
        message.From.Add(new MailboxAddress(letter.FromName, settings.From.ToString()));
        if (letter.ReplyTo is { } replyTo)
            message.ReplyTo.Add(MailboxAddress.Parse(replyTo));
        message.To.Add(new MailboxAddress(letter.ToName, to));
        message.Headers.Add("Auto-Submitted", "auto-generated");
        if (letter.StopLink is { } stop)
        {
            message.Headers.Add("List-Unsubscribe", $"<{stop}>");
            message.Headers.Add("List-Unsubscribe-Post", "List-Unsubscribe=One-Click");
        }
        message.Body = new BodyBuilder { TextBody = letter.Text, HtmlBody = letter.Html }.ToMessageBody();
        return message;
    }

    /// <summary>Asks the server to report what becomes of each mail (RFC 3461), where the server knows how.</summary>
    private sealed class ReportingClient : SmtpClient
    {
        public string Envelope { get; set; } = "";

        public Func<bool> IsOurs { get; set; } = () => true;

        protected override void OnRecipientAccepted(
            MimeMessage message,
            MailboxAddress mailbox,
            SmtpResponse response
        )
        {
            if (!IsOurs())
                throw new TooLateException();
            base.OnRecipientAccepted(message, mailbox, response);
        }

        protected override string GetEnvelopeId(MimeMessage message) => Envelope;

        protected override DeliveryStatusNotification? GetDeliveryStatusNotifications(
            MimeMessage message,
            MailboxAddress mailbox
        ) =>
            DeliveryStatusNotification.Success
            | DeliveryStatusNotification.Failure
            | DeliveryStatusNotification.Delay;
    }

    private sealed class TooLateException : Exception;
}
