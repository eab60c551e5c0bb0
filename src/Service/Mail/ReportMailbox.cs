using ComeAboard.Service.Jobs;
using MailKit;
using MailKit.Net.Imap;
using MailKit.Search;
using MailKit.Security;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Reads the mailbox into which delivery reports come (IMAP, RFC 9051). What was read is marked so and left there; mail
/// that is no report is left alone.
/// </summary>
public sealed class ReportMailbox(
    ServiceSettings settings,
    DeliveryReports reports,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<ReportMailbox> log
) : BackgroundWork(first)
{
    /// <summary>Reads what is new; how many reports were taken.</summary>
    public async Task<int> ReadNewAsync(CancellationToken stop = default)
    {
        if (settings.Mail.Reports is not { } mailbox)
            return 0;
        using var client = new ImapClient { Timeout = 60_000 };
        var tls = mailbox.Tls switch
        {
            MailTls.None => SecureSocketOptions.None,
            MailTls.StartTls => SecureSocketOptions.StartTls,
            MailTls.Tls => SecureSocketOptions.SslOnConnect,
            _ => SecureSocketOptions.StartTlsWhenAvailable,
        };
        await client.ConnectAsync(mailbox.Host, mailbox.Port, tls, stop);
        await client.AuthenticateAsync(mailbox.User, mailbox.Password, stop);
        var folder = await client.GetFolderAsync(mailbox.Folder, stop);
        await folder.OpenAsync(FolderAccess.ReadWrite, stop);
        var taken = 0;
        foreach (var id in await folder.SearchAsync(SearchQuery.NotSeen, stop))
        {
            var message = await folder.GetMessageAsync(id, stop);
            if ((await reports.TakeAsync(message)).Matched > 0)
                taken++;
            await folder.AddFlagsAsync(id, MessageFlags.Seen, true, stop);
        }
        await client.DisconnectAsync(true, stop);
        return taken;
    }

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        if (settings.Mail.Reports is not { } mailbox)
            return;
        using var timer = new PeriodicTimer(mailbox.Pause, clock);
        do
        {
            try
            {
                await ReadNewAsync(stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "The mailbox of delivery reports could not be read; it is tried again");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }
}
