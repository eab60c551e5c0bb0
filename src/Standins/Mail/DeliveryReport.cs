using MimeKit;

namespace ComeAboard.Standins.Mail;

/// <summary>Delivery reports (RFC 3464) as a mail server further on would write them.</summary>
public static class DeliveryReport
{
    /// <summary>A report that a mail could not be delivered.</summary>
    /// <param name="recipient">To whom.</param>
    /// <param name="original">The mail.</param>
    /// <param name="why">The enhanced status code and the words of the server: <c>5.2.2 The mailbox is full</c>.</param>
    public static MimeMessage Failed(string recipient, MimeMessage original, string why) =>
        Of(recipient, original, "failed", why);

    /// <summary>A report about a mail.</summary>
    /// <param name="recipient">To whom.</param>
    /// <param name="original">The mail.</param>
    /// <param name="action">failed, delayed or delivered.</param>
    /// <param name="why">The enhanced status code and the words of the server.</param>
    public static MimeMessage Of(string recipient, MimeMessage original, string action, string why)
    {
        var status = new MessageDeliveryStatus();
        status.StatusGroups.Add(new HeaderList { { "Reporting-MTA", "dns; standin.example" } });
        status.StatusGroups.Add(
            new HeaderList
            {
                { "Final-Recipient", $"rfc822; {recipient}" },
                { "Action", action },
                { "Status", why.Split(' ')[0] },
                { "Diagnostic-Code", $"smtp; 5{why[2..3]}0 {why}" },
            }
        );
        var headers = new TextPart("rfc822-headers")
        {
            Text =
                string.Join("\r\n", original.Headers.Select(header => $"{header.Field}: {header.Value}"))
                + "\r\n",
        };
        var report = new MultipartReport("delivery-status")
        {
            new TextPart("plain") { Text = $"The mail to {recipient} could not be delivered: {why}" },
            status,
            headers,
        };
        var message = new MimeMessage { Subject = "Undelivered mail returned to sender", Body = report };
        message.From.Add(new MailboxAddress("Mail delivery", "postmaster@standin.example"));
        message.To.AddRange(original.From);
        return message;
    }
}
