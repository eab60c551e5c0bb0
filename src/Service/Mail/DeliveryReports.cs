using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;
using MimeKit;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Reads delivery reports (RFC 3464) and notes what they say. A report counts only when it names, by its Message-ID, a
/// mail of ours and the address that mail went to.
/// </summary>
public sealed class DeliveryReports(WorkspaceWriter writer, DeliverySteps steps, Storage.Database database)
{
    /// <summary>Takes one report; of a workspace when one is named, else of any.</summary>
    public async Task<ReportAnswer> TakeAsync(MimeMessage message, Guid? only = null, bool rehearses = false)
    {
        var results = new List<ReportResult>();
        foreach (var notice in Read(message))
        {
            if (only is not null && notice.Workspace != only || !await ExistsAsync(notice.Workspace))
                continue;
            var noted = await writer.WriteAsync<ReportResult>(
                notice.Workspace,
                Caller.Mail with
                {
                    Rehearses = rehearses,
                },
                write => NoteAsync(write, notice)
            );
            if (noted.Try(out var result, out _))
                results.Add(result);
        }
        return new ReportAnswer(results.Count, results);
    }

    private async Task<bool> ExistsAsync(Guid workspace)
    {
        await using var rows = database.Open();
        return await rows.Workspaces.AnyAsync(w => w.Id == workspace);
    }

    private async Task<Core.Outcome<ReportResult>> NoteAsync(WorkspaceWrite write, Notice notice)
    {
        var delivery = await write.Rows.Deliveries.FirstOrDefaultAsync(d => d.Id == notice.Delivery);
        if (delivery is null || KeyOf(delivery.ToAddress) != KeyOf(notice.Recipient))
            return Unmatched;
        var answer = notice.Answer.Length > 500 ? notice.Answer[..500] : notice.Answer;
        await CatchUpAsync(write, delivery, notice.Action);
        var state = delivery.State;
        switch (notice.Action)
        {
            // A mail that has come back does not arrive after all.
            case "delivered" or "expanded" when state is DeliveryState.Accepted:
                (delivery.State, delivery.Answer) = (DeliveryState.Delivered, answer);
                break;
            case "delayed" when state is DeliveryState.Accepted:
                delivery.Answer = answer;
                break;
            case "failed" when state is DeliveryState.Accepted or DeliveryState.Delivered:
                (delivery.State, delivery.Answer) = (DeliveryState.Bounced, answer);
                var invitation = delivery.InvitationId is { } id
                    ? await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id)
                    : null;
                // A report about a mail sent to an address corrected since says nothing about the new one.
                if (invitation is not null && invitation.AddressKey == KeyOf(delivery.ToAddress))
                    await steps.NoteBouncedAsync(write, invitation, answer);
                break;
        }
        var (word, sentence) = notice.Action switch
        {
            "failed" => ("bounced", $"The mail came back: {EnhancedStatus.Explain(answer)}."),
            "delayed" => ("deferred", $"The mail is under way still: {EnhancedStatus.Explain(answer)}."),
            _ => ("delivered", "The mail is in the recipient's mailbox."),
        };
        return new ReportResult(delivery.ToAddress, word, sentence, delivery.InvitationId);
    }

    /// <summary>A report can be here before it is written down that the mail server took the mail.</summary>
    private async Task CatchUpAsync(WorkspaceWrite write, DeliveryRow delivery, string action)
    {
        if (delivery.SettledAt is not null || action == "delayed")
            return;
        Outbox.Settle(delivery, DeliveryState.Accepted, "known by a report", write.Now);
        if (
            delivery.Purpose is Purposes.Invitation or Purposes.Reminder
            && delivery.InvitationId is { } id
            && await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id) is { } invitation
        )
            await steps.NoteSentAsync(write, delivery, invitation);
    }

    private static Core.Refusal Unmatched { get; } =
        new("report.unmatched", "The report is about no mail of ours.", "Nothing needs to be done.");

    private static IEnumerable<Notice> Read(MimeMessage message)
    {
        if (message.Body is not Multipart report)
            yield break;
        var original = report.OfType<MessagePart>().FirstOrDefault()?.Message?.MessageId ?? HeadersOf(report);
        foreach (var status in report.OfType<MessageDeliveryStatus>())
        {
            var id = Id(status.StatusGroups.FirstOrDefault()?["Original-Envelope-Id"]) ?? Id(original);
            if (id is not var (delivery, workspace))
                continue;
            foreach (var group in status.StatusGroups.Skip(1))
            {
                var recipient = Address(group["Original-Recipient"]) ?? Address(group["Final-Recipient"]);
                if (recipient is null || group["Action"] is not { } action)
                    continue;
                var words = $"{group["Status"]} {Address(group["Diagnostic-Code"])}".Trim();
                // Some servers put what they were told into the text for people alone.
                if (words.EndsWith(".0.0", StringComparison.Ordinal) && LineWithCode(report) is { } line)
                    words = line;
                yield return new Notice(
                    delivery,
                    workspace,
                    recipient,
                    action.Trim().ToLowerInvariant(),
                    words
                );
            }
        }
    }

    private static string? LineWithCode(Multipart report) =>
        report
            .OfType<TextPart>()
            .Where(part => part.IsPlain)
            .SelectMany(part => part.Text.Split('\n'))
            .Select(line => line.Trim())
            .FirstOrDefault(line => EnhancedStatus.In(line) is not null);

    /// <summary>The Message-ID out of headers that were returned without the rest of the mail.</summary>
    private static string? HeadersOf(Multipart report) =>
        report
            .OfType<TextPart>()
            .Where(part => part.ContentType.IsMimeType("text", "rfc822-headers"))
            .Select(part => part.Text)
            .Select(text =>
                text.Split('\n')
                    .FirstOrDefault(line =>
                        line.StartsWith("Message-ID:", StringComparison.OrdinalIgnoreCase)
                    )
                    ?["Message-ID:".Length..]
            )
            .FirstOrDefault(id => id is not null);

    /// <summary>The value behind a type as in <c>rfc822; somebody@…</c> or <c>smtp; 550 5.1.1 …</c>.</summary>
    private static string? Address(string? field)
    {
        if (field is null)
            return null;
        var at = field.IndexOf(';', StringComparison.Ordinal);
        return string.Join(' ', field[(at + 1)..].Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries))
            .Trim('<', '>');
    }

    /// <summary>The delivery and workspace that a Message-ID of ours holds.</summary>
    private static (Guid Delivery, Guid Workspace)? Id(string? messageId)
    {
        var local = (messageId ?? "").Trim().Trim('<', '>').Split('@')[0].Split('.');
        return
            local.Length == 2
            && Guid.TryParseExact(local[0], "N", out var delivery)
            && Guid.TryParseExact(local[1], "N", out var workspace)
            ? (delivery, workspace)
            : null;
    }

    private static string KeyOf(string address) =>
        EmailAddress.Read(address).Try(out var read, out _) ? read.Key : address;

    private sealed record Notice(
        Guid Delivery,
        Guid Workspace,
        string Recipient,
        string Action,
        string Answer
    );
}
