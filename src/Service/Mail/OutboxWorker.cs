using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>
/// Sends queued mail. Several processes may run one each: a mail is leased before it is sent and settled after, so a
/// process killed in between leaves at most the mails it was just sending to be sent once more, under the same Message-ID.
/// </summary>
public sealed class OutboxWorker(
    Database database,
    WriteGate gate,
    WorkspaceWriter writer,
    Outbox outbox,
    OutboxBell bell,
    ServiceSettings settings,
    TimeProvider clock,
    ILogger<OutboxWorker> log
) : BackgroundService
{
    private const int Connections = 4;
    private const int LeaseSize = 20;
    private static readonly TimeSpan LeaseTime = TimeSpan.FromSeconds(15);
    private static readonly TimeSpan RenewalPause = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan LookAnyway = TimeSpan.FromSeconds(1);

    private readonly SmtpSender[] _senders =
    [
        .. Enumerable.Range(0, Connections).Select(_ => new SmtpSender(settings.Mail)),
    ];
    private int _failures;
    private DateTimeOffset _awayUntil;

    /// <summary>Sends what is due now; how many mails were settled.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop = default)
    {
        // While the server is away nothing is leased: knocking for every mail would only cost this machine time.
        if (clock.Now() < _awayUntil)
            return 0;
        var leased = await LeaseAsync(stop);
        if (leased.Count == 0)
            return 0;
        using var sent = new CancellationTokenSource();
        var renewing = RenewAsync(leased[0].Lease, sent.Token);
        try
        {
            return await SendAllAsync(leased, stop);
        }
        finally
        {
            await sent.CancelAsync();
            await renewing;
        }
    }

    private async Task<int> SendAllAsync(IReadOnlyList<DeliveryRow> leased, CancellationToken stop)
    {
        var queue = new System.Collections.Concurrent.ConcurrentQueue<DeliveryRow>(leased);
        var settled = 0;
        await Task.WhenAll(
            _senders.Select(async sender =>
            {
                while (queue.TryDequeue(out var delivery))
                {
                    var result = await SendAsync(sender, delivery, stop);
                    if (result is SendResult.Unreachable away)
                    {
                        await PutBackAsync([delivery, .. Drain(queue)], away.Why);
                        return;
                    }
                    await SettleAsync(delivery, result);
                    Interlocked.Increment(ref settled);
                    Volatile.Write(ref _failures, 0);
                }
            })
        );
        return settled;
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var idle = 0;
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                if (await SendDueAsync(stoppingToken) > 0)
                {
                    idle = 0;
                    continue;
                }
                if (++idle == 10)
                    await Task.WhenAll(_senders.Select(sender => sender.LetGoAsync()));
                await bell.WaitAsync(LookAnyway, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "The outbox could not be worked on; it is tried again");
                await Task.Delay(LookAnyway, CancellationToken.None);
            }
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        foreach (var sender in _senders)
            sender.Dispose();
        base.Dispose();
    }

    private async Task<List<DeliveryRow>> LeaseAsync(CancellationToken stop)
    {
        await using var rows = database.Open();
        var now = clock.Now();
        var waiting = rows.Deliveries.IgnoreQueryFilters().Where(d => d.SettledAt == null && d.DueAt <= now);
        // A look costs less than a write, and most looks find nothing.
        if (!await waiting.AnyAsync(d => d.LeasedUntil == null || d.LeasedUntil < now, stop))
            return [];

        var lease = Guid.NewGuid();
        var until = now + LeaseTime;
        using var pass = await gate.EnterAsync();
        await rows.Database.ExecuteSqlAsync(LeaseSql(lease, now, until), stop);
        return await rows
            .Deliveries.IgnoreQueryFilters()
            .AsNoTracking()
            .Where(d => d.SettledAt == null && d.DueAt <= now && d.Lease == lease)
            .OrderBy(d => d.DueAt)
            .ToListAsync(stop);
    }

    /// <summary>Keeps a lease alive while its mails are being sent, however slow the server; a killed process stops doing so.</summary>
    private async Task RenewAsync(Guid? lease, CancellationToken sent)
    {
        try
        {
            using var timer = new PeriodicTimer(RenewalPause);
            while (await timer.WaitForNextTickAsync(sent))
            {
                var until = clock.Now() + LeaseTime;
                using var pass = await gate.EnterAsync();
                await using var rows = database.Open();
                await rows
                    .Deliveries.IgnoreQueryFilters()
                    .Where(d => d.SettledAt == null && d.Lease == lease)
                    .ExecuteUpdateAsync(set => set.SetProperty(d => d.LeasedUntil, until), sent);
            }
        }
        catch (OperationCanceledException)
        {
            // All sent.
        }
        catch (Exception fault)
        {
            log.LogWarning(fault, "A lease could not be renewed; its mails may be sent once more");
        }
    }

    private FormattableString LeaseSql(Guid lease, DateTimeOffset now, DateTimeOffset until) =>
        database.Engine == Engine.Postgres
            ? (FormattableString)
                $"""
                    UPDATE deliveries SET lease = {lease}, leased_until = {until} WHERE (workspace_id, id) IN
                      (SELECT workspace_id, id FROM deliveries WHERE settled_at IS NULL AND due_at <= {now}
                       AND (leased_until IS NULL OR leased_until < {now}) ORDER BY due_at LIMIT {LeaseSize} FOR UPDATE SKIP LOCKED)
                    """
            : $"""
                UPDATE deliveries SET lease = {lease}, leased_until = {until.ToUnixTimeMilliseconds()} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM deliveries WHERE settled_at IS NULL AND due_at <= {now.ToUnixTimeMilliseconds()}
                   AND (leased_until IS NULL OR leased_until < {now.ToUnixTimeMilliseconds()}) ORDER BY due_at LIMIT {LeaseSize})
                """;

    private async Task<SendResult> SendAsync(SmtpSender sender, DeliveryRow delivery, CancellationToken stop)
    {
        try
        {
            var letter = outbox.Unseal(delivery.SealedLetter!);
            return await sender.SendAsync(letter, delivery.ToAddress, delivery.MessageId, clock.Now(), stop);
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return new SendResult.Refused(
                "the mail can no longer be opened: its protection key is gone; resend the invitation"
            );
        }
    }

    private Task SettleAsync(DeliveryRow leased, SendResult result) =>
        writer.WriteAsync<bool>(
            leased.WorkspaceId,
            Caller.Mail,
            async write =>
            {
                var delivery = await write.Rows.Deliveries.FirstOrDefaultAsync(d =>
                    d.Id == leased.Id && d.Lease == leased.Lease
                );
                if (delivery is null)
                    return false;
                delivery.Tries++;
                switch (result)
                {
                    case SendResult.Taken taken:
                        Outbox.Settle(delivery, DeliveryState.Accepted, taken.Answer, write.Now);
                        await AdvanceAsync(write, delivery, InvitationStep.Send);
                        break;
                    case SendResult.Refused refused:
                        Outbox.Settle(delivery, DeliveryState.Bounced, refused.Answer, write.Now);
                        await AdvanceAsync(write, delivery, InvitationStep.Bounce);
                        break;
                    case SendResult.Later later:
                        delivery.State = DeliveryState.Deferred;
                        delivery.Answer = later.Answer;
                        delivery.DueAt =
                            write.Now
                            + RetryTimes.Wait(
                                delivery.Tries,
                                settings.Mail.FirstRetry,
                                Random.Shared.NextDouble()
                            );
                        delivery.Lease = null;
                        delivery.LeasedUntil = null;
                        break;
                }
                return true;
            }
        );

    private static async Task AdvanceAsync(WorkspaceWrite write, DeliveryRow delivery, InvitationStep step)
    {
        if (delivery.Purpose != Purposes.Invitation || delivery.InvitationId is not { } id)
            return;
        var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == id);
        if (
            !InvitationLife
                .Take(invitation.State, step, invitation.Deadline, write.Now)
                .Try(out var next, out _)
        )
            return;
        write.Move(invitation.State, next);
        invitation.State = next;
        invitation.LastStepAt = write.Now;
        invitation.Version++;
        if (step == InvitationStep.Send)
            invitation.SentAt = write.Now;
        write.Record(
            "invitation." + next.Word(),
            invitation.Id,
            ("address", invitation.Address),
            ("answer", step == InvitationStep.Bounce ? delivery.Answer : null)
        );
    }

    /// <summary>Keeps mails for later because the server is away: that is no fault of theirs and the wait is shared.</summary>
    private async Task PutBackAsync(IReadOnlyList<DeliveryRow> deliveries, string why)
    {
        var wait = RetryTimes.Wait(
            Interlocked.Increment(ref _failures),
            settings.Mail.FirstRetry,
            Random.Shared.NextDouble()
        );
        var longest = TimeSpan.FromMinutes(1);
        var due = clock.Now() + (wait < longest ? wait : longest);
        _awayUntil = due;
        var answer = "the mail server cannot be reached: " + (why.Length > 400 ? why[..400] : why);
        log.LogWarning("{Count} mails wait: {Answer}", deliveries.Count, answer);
        var ids = deliveries.Select(d => d.Id).ToList();
        var lease = deliveries[0].Lease;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        await rows
            .Deliveries.IgnoreQueryFilters()
            .Where(d => ids.Contains(d.Id) && d.Lease == lease)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(d => d.DueAt, due)
                    .SetProperty(d => d.Tries, d => d.Tries + 1)
                    .SetProperty(d => d.Answer, answer)
                    .SetProperty(d => d.Lease, (Guid?)null)
                    .SetProperty(d => d.LeasedUntil, (DateTimeOffset?)null)
            );
    }

    private static IEnumerable<T> Drain<T>(System.Collections.Concurrent.ConcurrentQueue<T> queue)
    {
        while (queue.TryDequeue(out var item))
            yield return item;
    }
}
