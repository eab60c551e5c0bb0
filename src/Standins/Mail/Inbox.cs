using MimeKit;

namespace ComeAboard.Standins.Mail;

/// <summary>A mail the stand-in server has taken.</summary>
/// <param name="Number">Its place in the order of arrival, from 1.</param>
/// <param name="At">When it arrived.</param>
/// <param name="Recipients">The envelope recipients.</param>
/// <param name="Message">The message itself.</param>
public sealed record ReceivedMail(
    int Number,
    DateTimeOffset At,
    IReadOnlyList<string> Recipients,
    MimeMessage Message
);

/// <summary>Everything the stand-in mail server has taken since it started; the oldest are dropped past a bound.</summary>
public sealed class Inbox
{
    /// <summary>How many mails are kept.</summary>
    public const int Capacity = 50_000;

    private readonly Lock _lock = new();
    private readonly LinkedList<ReceivedMail> _mails = [];
    private int _count;

    /// <summary>How many mails have arrived in all.</summary>
    public int Count => Volatile.Read(ref _count);

    /// <summary>Takes a mail.</summary>
    /// <param name="recipients">The envelope recipients.</param>
    /// <param name="message">The message itself.</param>
    /// <param name="at">When it arrived; now when left out.</param>
    public void Add(IReadOnlyList<string> recipients, MimeMessage message, DateTimeOffset? at = null)
    {
        lock (_lock)
        {
            _mails.AddFirst(new ReceivedMail(++_count, at ?? DateTimeOffset.UtcNow, recipients, message));
            if (_mails.Count > Capacity)
                _mails.RemoveLast();
        }
    }

    /// <summary>The mails to an address, or all; newest first.</summary>
    public IReadOnlyList<ReceivedMail> To(string? address = null)
    {
        lock (_lock)
        {
            return
            [
                .. _mails.Where(mail =>
                    string.IsNullOrEmpty(address)
                    || mail.Recipients.Contains(address, StringComparer.OrdinalIgnoreCase)
                ),
            ];
        }
    }
}
