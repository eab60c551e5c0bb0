using System.Collections.Concurrent;
using System.Diagnostics;
using System.Threading.Channels;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Jobs;
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
    MailQueues queues,
    Settlement settlement,
    Outbox outbox,
    AccessWorlds worlds,
    OutboxBell bell,
    ServiceSettings settings,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<OutboxWorker> log
) : BackgroundWork(first)
{
    private const int Connections = 4;

    // A lot is what takes a moment: something more urgent that comes meanwhile waits for it, and where the server is quick many
    // mails are written down as cheaply as few.
    private const int SmallestLot = 16;
    private const int LargestLot = 128;
    private static readonly TimeSpan Moment = TimeSpan.FromMilliseconds(300);

    // So many may have been sent, or be about to be, of which nothing is written down yet.
    private const int MostUnsettled = 2 * Settlement.MostAtOnce;

    // The next lot is taken when so few of one are left, or a quarter of it: no sooner, as something more urgent may come.
    private const int Few = 8;
    private static readonly TimeSpan LookAnyway = TimeSpan.FromSeconds(1);

    private readonly SmtpSender[] _senders =
    [
        .. Enumerable.Range(0, Connections).Select(_ => new SmtpSender(settings.Mail)),
    ];
    private readonly SemaphoreSlim _unsettled = new(MostUnsettled);
    private int _lotSize = 32;
    private int _failures;
    private DateTimeOffset _awayUntil;

    /// <summary>Mails that were leased, and what they need.</summary>
    private sealed record Lot(Lease Lease, IReadOnlyList<DeliveryRow> Mails, LetterBook Letters)
    {
        /// <summary>Done once few of them are left to be sent.</summary>
        public TaskCompletionSource IsNearlySent { get; } =
            new(TaskCreationOptions.RunContinuationsAsynchronously);

        /// <summary>Whether what came of its mails could not be written down; none is sent any more then.</summary>
        public bool IsLost { get; set; }
    }

    /// <summary>Sends what is due now and writes down what came of it; how many mails were settled.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop = default) =>
        await TakeAsync(stop) is { } lot ? await await SendAsync(lot, stop) : 0;

    /// <summary>Leases what is due next, and reads what it needs; null for nothing.</summary>
    private async Task<Lot?> TakeAsync(CancellationToken stop)
    {
        var lease = new Lease();
        try
        {
            var leased = await LeaseAsync(lease, stop);
            if (leased.Count > 0)
            {
                // However slow the server: a killed process stops renewing, and its mails are taken over.
                lease.Keep(
                    cancelled => queues.RenewAsync(lease.Id, cancelled),
                    fault => log.LogWarning(fault, "A lease could not be renewed; it is tried again")
                );
                return new Lot(lease, leased, await ReadAsync(leased));
            }
        }
        catch
        {
            // Whatever was leased by then waits for as long as the next try, and not until the lease is over.
            await lease.DisposeAsync();
            await GiveBackAsync(lease, null, clock.Now() + LookAnyway);
            throw;
        }
        await lease.DisposeAsync();
        return null;
    }

    /// <summary>Sends a lot; what comes back counts those that are written down, once they are.</summary>
    private async Task<Task<int>> SendAsync(Lot lot, CancellationToken stop)
    {
        // What is sent is written down while others are on their way.
        var sent = Channel.CreateUnbounded<Sent>();
        var settling = SettleAsync(lot, sent.Reader, stop);
        var begun = Stopwatch.GetTimestamp();
        try
        {
            await SendAsync(lot, sent.Writer, stop);
            _lotSize = LotOf(lot.Mails.Count, Stopwatch.GetElapsedTime(begun));
        }
        catch
        {
            sent.Writer.Complete();
            await settling;
            throw;
        }
        finally
        {
            lot.IsNearlySent.TrySetResult();
        }
        sent.Writer.Complete();
        return settling;
    }

    /// <summary>How many are taken next: as many as go out in a moment, by how long the last ones took, no more than twice as many.</summary>
    public static int LotOf(int sent, TimeSpan took) =>
        Math.Clamp((int)(sent * Math.Min(2, Moment / took)), SmallestLot, LargestLot);

    /// <summary>One mail and those that wait behind it at one moment: others go on taking them out.</summary>
    public static IReadOnlyList<T> WithWaiting<T>(T one, ConcurrentQueue<T> queue) =>
        [one, .. queue.ToArray()];

    private async Task<int> SettleAsync(Lot lot, ChannelReader<Sent> sent, CancellationToken stop)
    {
        await using var lease = lot.Lease;
        try
        {
            return await settlement.WriteDownAsync(sent, count => _unsettled.Release(count), stop);
        }
        catch
        {
            lot.IsLost = true;
            await foreach (var _ in sent.ReadAllAsync(CancellationToken.None))
                _unsettled.Release();
            throw;
        }
    }

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        var idle = 0;
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                if (await SendAllAsync(stoppingToken) > 0)
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

    /// <summary>Sends lot after lot until nothing is due, the next one taken while one is on its way; how many were settled.</summary>
    private async Task<int> SendAllAsync(CancellationToken stop)
    {
        var count = 0;
        var next = TakeAsync(stop);
        var settling = Task.FromResult(0);
        try
        {
            while (await next is { } lot)
            {
                // The server went away while it was taken, or this process is told to stop.
                if (stop.IsCancellationRequested || clock.Now() < _awayUntil)
                {
                    await GiveBackAsync(next);
                    break;
                }
                next = TakeAfterAsync(lot, stop);
                var settled = await SendAsync(lot, stop);
                count += await settling;
                settling = settled;
            }
        }
        catch
        {
            // Whatever stops it: what was taken up and is not sent, others have at once.
            await GiveBackAsync(next);
            throw;
        }
        finally
        {
            count += await settling;
        }
        return count;
    }

    private async Task<Lot?> TakeAfterAsync(Lot lot, CancellationToken stop)
    {
        await lot.IsNearlySent.Task;
        return await TakeAsync(stop);
    }

    private async Task GiveBackAsync(Task<Lot?> taken)
    {
        Lot? lot;
        try
        {
            lot = await taken;
        }
        catch (Exception fault)
        {
            log.LogDebug(fault, "What would have been next could not be taken up");
            return;
        }
        if (lot is null)
            return;
        await lot.Lease.DisposeAsync();
        var now = clock.Now();
        await GiveBackAsync(lot.Lease, lot.Mails, now < _awayUntil ? _awayUntil : now);
    }

    /// <summary>Gives back what was taken up and is not sent, null for all of it; where that fails, the lease runs out.</summary>
    private async Task GiveBackAsync(Lease lease, IReadOnlyList<DeliveryRow>? mails, DateTimeOffset due)
    {
        try
        {
            await queues.PutBackAsync(lease.Id, mails, due, null);
        }
        catch (Exception fault)
        {
            log.LogDebug(fault, "What was taken up could not be given back; its lease runs out");
        }
    }

    private async Task SendAsync(Lot lot, ChannelWriter<Sent> sent, CancellationToken stop)
    {
        var queue = new ConcurrentQueue<DeliveryRow>(lot.Mails);
        var unsent = new ConcurrentQueue<DeliveryRow>();
        try
        {
            // Whoever waits for a connection waits for long: what was read before that is not fresh any more, and read again.
            var crew = await ConnectAsync(lot, queue, stop);
            var read = crew.Count == 0 || lot.Letters.IsFresh ? lot.Letters : await ReadAsync(lot.Mails);
            await Task.WhenAll(crew.Select(sender => SendAsync(sender, read)));
        }
        finally
        {
            // Told to stop, or hindered: others send the rest, or the next try.
            if (Drain(unsent).Concat(Drain(queue)).ToList() is { Count: > 0 } rest)
                await GiveBackAsync(
                    lot.Lease,
                    rest,
                    clock.Now() + (stop.IsCancellationRequested ? default : LookAnyway)
                );
        }

        async Task SendAsync(SmtpSender sender, LetterBook letters)
        {
            while (true)
            {
                // A process that is killed has sent no more than these without anybody knowing.
                await _unsettled.WaitAsync(CancellationToken.None);
                var isSent = false;
                try
                {
                    // Once the lease may be over, others may have these mails: none is sent any more.
                    if (
                        !lot.Lease.IsHeld
                        || lot.IsLost
                        || stop.IsCancellationRequested
                        || !queue.TryDequeue(out var delivery)
                    )
                        return;
                    if (queue.Count <= Math.Max(Few, lot.Mails.Count / 4))
                        lot.IsNearlySent.TrySetResult();
                    SendResult result;
                    try
                    {
                        if (!letters.IsFresh)
                            letters = await ReadAsync(WithWaiting(delivery, queue));
                        result = await SendOneAsync(sender, letters, delivery, lot.Lease);
                    }
                    catch
                    {
                        unsent.Enqueue(delivery);
                        throw;
                    }
                    switch (result)
                    {
                        case SendResult.Unreachable away:
                            await PutBackAsync(lot.Lease, [delivery, .. Drain(queue)], away.Why);
                            return;
                        case SendResult.Late:
                            return;
                        default:
                            isSent = sent.TryWrite(new Sent(delivery, result));
                            Volatile.Write(ref _failures, 0);
                            break;
                    }
                }
                finally
                {
                    if (!isSent)
                        _unsettled.Release();
                }
            }
        }
    }

    /// <summary>
    /// Sends one mail. A connection that breaks may have nothing to do with it – servers hang up after so many – so it is
    /// tried once more over another; one at which that breaks, too, waits by itself, and costs nobody else's.
    /// </summary>
    private async Task<SendResult> SendOneAsync(
        SmtpSender sender,
        LetterBook letters,
        DeliveryRow delivery,
        Lease lease
    )
    {
        for (var isFirst = true; ; isFirst = false)
        {
            if (await sender.ReachAsync() is { } away)
                return away;
            // Getting there may have taken long: what is sent is looked at after that.
            if (!letters.WasReadSince(sender.ConnectedAt))
                letters = await ReadAsync([delivery]);
            // What is on its way arrives, or comes again.
            var result = await SendAsync(sender, letters, delivery, lease);
            if (result is not SendResult.BrokenOff broken)
                return result;
            if (!isFirst)
                return new SendResult.Later("the server broke off at this mail: " + broken.Why);
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        foreach (var sender in _senders)
            sender.Dispose();
        _unsettled.Dispose();
        base.Dispose();
    }

    /// <summary>Leases what is due. While the server is away nothing is: knocking for every mail would only cost time.</summary>
    private async Task<IReadOnlyList<DeliveryRow>> LeaseAsync(Lease lease, CancellationToken stop) =>
        clock.Now() < _awayUntil ? [] : await queues.LeaseAsync(lease, _lotSize, stop);

    /// <summary>Those of the senders, no more than there is work for, that reached the server; when none did, the mails are put back.</summary>
    private async Task<IReadOnlyList<SmtpSender>> ConnectAsync(
        Lot lot,
        ConcurrentQueue<DeliveryRow> queue,
        CancellationToken stop
    )
    {
        var crew = _senders.Take(queue.Count).ToList();
        var answers = await Task.WhenAll(crew.Select(sender => sender.ReachAsync(stop)));
        if (answers.All(answer => answer is not null))
            await PutBackAsync(lot.Lease, [.. Drain(queue)], answers[0]!.Why);
        return [.. crew.Where((_, i) => answers[i] is null)];
    }

    private Task<LetterBook> ReadAsync(IReadOnlyList<DeliveryRow> deliveries) =>
        LetterBook.ReadAsync(database, outbox, settings, worlds, deliveries, clock.Now());

    private async Task<SendResult> SendAsync(
        SmtpSender sender,
        LetterBook letters,
        DeliveryRow delivery,
        Lease lease
    )
    {
        Letter? letter;
        try
        {
            letter = letters.Of(delivery);
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return new SendResult.Unwanted(
                "the mail can no longer be opened: its protection key is gone; resend the invitation"
            );
        }
        catch (Exception fault)
        {
            // Whatever is wrong with one is wrong with that one.
            log.LogWarning(
                fault,
                "The mail {Mail} could not be put together; it is tried again",
                delivery.Id
            );
            return new SendResult.Later("the mail could not be put together");
        }
        if (letter is null)
            return new SendResult.Unwanted();
        var to = letters.ToOf(delivery);
        var result = await To(to);
        // What an address of somebody's own choice does not take goes where the workspace knows them, and nowhere else is told.
        return to != delivery.ToAddress && result is SendResult.Refused or SendResult.Later
            ? await To(delivery.ToAddress)
            : result;

        Task<SendResult> To(string address) =>
            sender.SendAsync(letter, address, delivery.MessageId, clock.Now(), () => lease.IsHeld);
    }

    /// <summary>Keeps mails for later because the server is away: that is no fault of theirs and the wait is shared.</summary>
    private async Task PutBackAsync(Lease lease, IReadOnlyList<DeliveryRow> deliveries, string why)
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
        await queues.PutBackAsync(lease.Id, deliveries, due, answer);
    }

    private static IEnumerable<T> Drain<T>(ConcurrentQueue<T> queue)
    {
        while (queue.TryDequeue(out var item))
            yield return item;
    }
}
