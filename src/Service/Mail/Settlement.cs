using System.Threading.Channels;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>A mail, and what came of it.</summary>
public sealed record Sent(DeliveryRow Delivery, SendResult Result);

/// <summary>Writes down what came of mails, and what their invitations learn from it.</summary>
public sealed class Settlement(
    WorkspaceWriter writer,
    DeliverySteps steps,
    ServiceSettings settings,
    ILogger<Settlement> log
)
{
    /// <summary>How many are written down at once.</summary>
    public const int MostAtOnce = 16;

    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan Moment = TimeSpan.FromMilliseconds(12);

    // What it changes of a mail, and of its invitation, that the server took it.
    private static readonly string[] Settled =
    [
        nameof(DeliveryRow.State),
        nameof(DeliveryRow.Answer),
        nameof(DeliveryRow.SettledAt),
        nameof(DeliveryRow.Sealed),
        nameof(DeliveryRow.Lease),
        nameof(DeliveryRow.LeasedUntil),
        nameof(DeliveryRow.Tries),
    ];
    private static readonly string[] Learned =
    [
        nameof(InvitationRow.State),
        nameof(InvitationRow.Deadline),
        nameof(InvitationRow.NextReminderAt),
        nameof(InvitationRow.SentAt),
        nameof(InvitationRow.LastStepAt),
        nameof(InvitationRow.Version),
    ];

    /// <summary>Writes down what came of mails, as many at once as there are; how many it were.</summary>
    /// <param name="sent">What came of them.</param>
    /// <param name="done">Told of each lot that was taken up how many it were, once it is written down or cannot be.</param>
    /// <param name="stop">Has it try no more than once.</param>
    public async Task<int> WriteDownAsync(ChannelReader<Sent> sent, Action<int> done, CancellationToken stop)
    {
        var count = 0;
        while (await sent.WaitToReadAsync(CancellationToken.None))
        {
            var results = await GatherAsync(sent);
            try
            {
                foreach (var lot in results.GroupBy(result => result.Delivery.WorkspaceId))
                    await SettleAsync(lot.Key, [.. lot], stop);
            }
            finally
            {
                done(results.Count);
            }
            count += results.Count;
        }
        return count;
    }

    /// <summary>Those that are there, with those that come within a moment: each writing down costs much the same, however many it is for.</summary>
    private static async Task<List<Sent>> GatherAsync(ChannelReader<Sent> sent)
    {
        var (results, over) = (new List<Sent>(), Task.Delay(Moment));
        while (results.Count < MostAtOnce)
        {
            if (sent.TryRead(out var one))
            {
                results.Add(one);
                continue;
            }
            var more = sent.WaitToReadAsync(CancellationToken.None).AsTask();
            if (await Task.WhenAny(more, over) == over || !await more)
                break;
        }
        return results;
    }

    /// <summary>Writes it down; tried again for a while, since what is not written down is sent once more.</summary>
    private async Task SettleAsync(Guid workspace, IReadOnlyList<Sent> results, CancellationToken stop)
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                await writer.WriteAsync<bool>(workspace, Caller.Mail, write => SettleAsync(write, results));
                return;
            }
            catch (Exception fault) when (tries < 20 && !stop.IsCancellationRequested)
            {
                log.LogWarning(fault, "What was sent could not be written down; it is tried again");
                await Task.Delay(Pause, CancellationToken.None);
            }
        }
    }

    private async Task<Outcome<bool>> SettleAsync(WorkspaceWrite write, IReadOnlyList<Sent> results)
    {
        var ids = results.Select(result => result.Delivery.Id).ToList();
        var lease = results[0].Delivery.Lease;
        var deliveries = await write
            .Rows.Deliveries.AsNoTracking()
            .Where(d => EF.Parameter(ids).Contains(d.Id) && d.Lease == lease)
            .ToDictionaryAsync(d => d.Id);
        var about = deliveries.Values.Select(d => d.InvitationId).OfType<Guid>().Distinct().ToList();
        var invitations = await write
            .Rows.Invitations.AsNoTracking()
            .Where(i => EF.Parameter(about).Contains(i.Id))
            .ToDictionaryAsync(i => i.Id);
        foreach (var (leased, result) in results)
        {
            if (!deliveries.TryGetValue(leased.Id, out var delivery))
                continue;
            var invitation =
                delivery.Purpose is Purposes.Invitation or Purposes.Reminder
                && delivery.InvitationId is { } id
                    ? invitations.GetValueOrDefault(id)
                    : null;
            // Most are taken, and what that changes is known.
            if (result is SendResult.Taken)
            {
                write.Rewrite(delivery, Settled);
                if (invitation is not null)
                    write.Rewrite(invitation, Learned);
            }
            else
            {
                write.Rows.Attach(delivery);
                if (invitation is not null)
                    write.Rows.Attach(invitation);
            }
            delivery.Tries++;
            await NoteAsync(write, delivery, invitation, result);
        }
        return true;
    }

    private async Task NoteAsync(
        WorkspaceWrite write,
        DeliveryRow delivery,
        InvitationRow? invitation,
        SendResult result
    )
    {
        switch (result)
        {
            case SendResult.Taken taken:
                Outbox.Settle(delivery, DeliveryState.Accepted, taken.Answer, write.Now);
                if (invitation is not null)
                    await steps.NoteSentAsync(write, delivery, invitation);
                break;
            case SendResult.Refused refused:
                Outbox.Settle(delivery, DeliveryState.Bounced, refused.Answer, write.Now);
                if (invitation is not null)
                    await steps.NoteBouncedAsync(write, invitation, refused.Answer);
                break;
            case SendResult.Unwanted unwanted:
                Outbox.Settle(delivery, DeliveryState.Failed, unwanted.Why, write.Now);
                break;
            case SendResult.Later later:
                delivery.State = DeliveryState.Deferred;
                delivery.Answer = later.Answer;
                delivery.DueAt =
                    write.Now
                    + RetryTimes.Wait(delivery.Tries, settings.Mail.FirstRetry, Random.Shared.NextDouble());
                delivery.Lease = null;
                delivery.LeasedUntil = null;
                break;
        }
    }
}
