using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
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
    AccessWorlds worlds,
    OutboxBell bell,
    ServiceSettings settings,
    TimeProvider clock,
    ILogger<OutboxWorker> log
) : BackgroundService
{
    private const int Connections = 4;
    private const int LeaseSize = 32;
    private static readonly TimeSpan LeaseTime = TimeSpan.FromSeconds(15);
    private static readonly TimeSpan RenewalPause = TimeSpan.FromSeconds(5);
    private static readonly TimeSpan LookAnyway = TimeSpan.FromSeconds(1);

    private readonly SmtpSender[] _senders =
    [
        .. Enumerable.Range(0, Connections).Select(_ => new SmtpSender(settings.Mail)),
    ];
    private int _failures;
    private DateTimeOffset _awayUntil;

    /// <summary>Sends what is due now and writes down what came of it; how many mails were settled.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop = default)
    {
        var leased = await LeaseAsync(stop);
        return leased.Count == 0 ? 0 : await SettleAsync(await SendAsync(leased, stop), stop);
    }

    /// <inheritdoc/>
    protected override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        var idle = 0;
        // While one lot is being written down, the next is on its way already.
        var settling = Task.FromResult(0);
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                var leased = await LeaseAsync(stoppingToken);
                if (leased.Count > 0)
                {
                    idle = 0;
                    var sent = await SendAsync(leased, stoppingToken);
                    await settling;
                    settling = SettleAsync(sent, stoppingToken);
                    continue;
                }
                await settling;
                if (++idle == 10)
                    await Task.WhenAll(_senders.Select(sender => sender.LetGoAsync()));
                await bell.WaitAsync(LookAnyway, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                break;
            }
            catch (Exception fault)
            {
                settling = Task.FromResult(0);
                log.LogWarning(fault, "The outbox could not be worked on; it is tried again");
                await Task.Delay(LookAnyway, CancellationToken.None);
            }
        }
        await settling;
    }

    private async Task<Sent> SendAsync(IReadOnlyList<DeliveryRow> leased, CancellationToken stop)
    {
        var renewing = new CancellationTokenSource();
        var renewal = RenewAsync(leased[0].Lease, renewing.Token);
        var results = new System.Collections.Concurrent.ConcurrentBag<(DeliveryRow, SendResult)>();
        try
        {
            var letters = await LetterBook.ReadAsync(database, outbox, settings, worlds, leased, clock.Now());
            var queue = new System.Collections.Concurrent.ConcurrentQueue<DeliveryRow>(leased);
            await Task.WhenAll(
                _senders.Select(async sender =>
                {
                    while (queue.TryDequeue(out var delivery))
                    {
                        var result = await SendAsync(sender, letters, delivery, stop);
                        if (result is SendResult.Unreachable away)
                        {
                            await PutBackAsync([delivery, .. Drain(queue)], away.Why);
                            return;
                        }
                        results.Add((delivery, result));
                        Volatile.Write(ref _failures, 0);
                    }
                })
            );
            return new Sent([.. results], renewing, renewal);
        }
        catch
        {
            // What was sent before is written down all the same.
            await SettleAsync(new Sent([.. results], renewing, renewal), CancellationToken.None);
            throw;
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
        var now = clock.Now();
        // While the server is away nothing is leased: knocking for every mail would only cost this machine time.
        if (now < _awayUntil)
            return [];
        await using var rows = database.Open();
        var waiting = rows.Deliveries.IgnoreQueryFilters().Where(d => d.SettledAt == null && d.DueAt <= now);
        // A look costs less than a write, and most looks find nothing.
        if (!await waiting.AnyAsync(d => d.LeasedUntil == null || d.LeasedUntil < now, stop))
            return [];

        var lease = Guid.NewGuid();
        var until = now + LeaseTime;
        using var pass = await gate.EnterAsync();
        // What was leased comes back with the leasing: looking for it would mean walking all that waits.
        var leased = await rows
            .Deliveries.FromSql(LeaseSql(lease, now, until))
            .IgnoreQueryFilters()
            .AsNoTracking()
            .ToListAsync(stop);
        return [.. leased.OrderBy(d => d.DueAt)];
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
                       AND (leased_until IS NULL OR leased_until < {now}) ORDER BY due_at LIMIT {LeaseSize} FOR UPDATE SKIP LOCKED) RETURNING *
                    """
            : $"""
                UPDATE deliveries SET lease = {lease}, leased_until = {until.ToUnixTimeMilliseconds()} WHERE (workspace_id, id) IN
                  (SELECT workspace_id, id FROM deliveries WHERE settled_at IS NULL AND due_at <= {now.ToUnixTimeMilliseconds()}
                   AND (leased_until IS NULL OR leased_until < {now.ToUnixTimeMilliseconds()}) ORDER BY due_at LIMIT {LeaseSize}) RETURNING *
                """;

    private async Task<SendResult> SendAsync(
        SmtpSender sender,
        LetterBook letters,
        DeliveryRow delivery,
        CancellationToken stop
    )
    {
        try
        {
            return letters.Of(delivery) is { } letter
                ? await sender.SendAsync(letter, delivery.ToAddress, delivery.MessageId, clock.Now(), stop)
                : new SendResult.Unwanted();
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return new SendResult.Unwanted(
                "the mail can no longer be opened: its protection key is gone; resend the invitation"
            );
        }
    }

    /// <summary>Writes down what came of a lot; tried again for a while, since what is not written down is sent once more.</summary>
    private async Task<int> SettleAsync(Sent sent, CancellationToken stop)
    {
        try
        {
            for (var tries = 1; ; tries++)
            {
                try
                {
                    foreach (var lot in sent.Results.GroupBy(result => result.Delivery.WorkspaceId))
                        await writer.WriteAsync<bool>(
                            lot.Key,
                            Caller.Mail,
                            write => SettleAsync(write, [.. lot])
                        );
                    return sent.Results.Count;
                }
                catch (Exception fault) when (tries < 20 && !stop.IsCancellationRequested)
                {
                    log.LogWarning(fault, "What was sent could not be written down; it is tried again");
                    await Task.Delay(LookAnyway, CancellationToken.None);
                }
            }
        }
        finally
        {
            await sent.Renewing.CancelAsync();
            await sent.Renewal;
            sent.Renewing.Dispose();
        }
    }

    private async Task<Outcome<bool>> SettleAsync(
        WorkspaceWrite write,
        IReadOnlyList<(DeliveryRow Delivery, SendResult Result)> results
    )
    {
        var ids = results.Select(result => result.Delivery.Id).ToList();
        var lease = results[0].Delivery.Lease;
        var deliveries = await write
            .Rows.Deliveries.Where(d => ids.Contains(d.Id) && d.Lease == lease)
            .ToDictionaryAsync(d => d.Id);
        var about = deliveries.Values.Select(d => d.InvitationId).OfType<Guid>().Distinct().ToList();
        var invitations = await write
            .Rows.Invitations.Where(i => about.Contains(i.Id))
            .ToDictionaryAsync(i => i.Id);
        foreach (var (leased, result) in results)
        {
            if (!deliveries.TryGetValue(leased.Id, out var delivery))
                continue;
            delivery.Tries++;
            var invitation =
                delivery.Purpose is Purposes.Invitation or Purposes.Reminder
                && delivery.InvitationId is { } id
                    ? invitations.GetValueOrDefault(id)
                    : null;
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
                    DeliverySteps.NoteSent(write, delivery, invitation);
                break;
            case SendResult.Refused refused:
                Outbox.Settle(delivery, DeliveryState.Bounced, refused.Answer, write.Now);
                if (invitation is not null)
                    await DeliverySteps.NoteBouncedAsync(write, invitation, refused.Answer);
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

    /// <summary>What came of a lot, and what keeps its lease alive until that is written down.</summary>
    private sealed record Sent(
        IReadOnlyList<(DeliveryRow Delivery, SendResult Result)> Results,
        CancellationTokenSource Renewing,
        Task Renewal
    );
}
