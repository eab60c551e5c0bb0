using System.Collections.Concurrent;
using System.Diagnostics;
using System.Diagnostics.CodeAnalysis;
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
using MimeKit;

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

    private readonly Connection[] _connections =
    [
        .. Enumerable.Range(0, Connections).Select(_ => new Connection(new SmtpSender(settings.Mail))),
    ];
    private readonly SemaphoreSlim _unsettled = new(MostUnsettled);
    private int _lotSize = 32;
    private int _failures;
    private DateTimeOffset _awayUntil;

    /// <summary>A connection, and whose turn it is to send over it: one lot's after another's.</summary>
    private sealed record Connection(SmtpSender Sender)
    {
        public SemaphoreSlim Turn { get; } = new(1);
    }

    /// <summary>Mails that were leased, and what they need.</summary>
    private sealed record Lot(Lease Lease, IReadOnlyList<DeliveryRow> Mails, LetterBook Letters)
    {
        /// <summary>Done once few of them are left to be sent.</summary>
        public TaskCompletionSource IsNearlySent { get; } =
            new(TaskCreationOptions.RunContinuationsAsynchronously);

        /// <summary>Done once each of them is sent, or on its way: whoever has sent one may go on with the next lot.</summary>
        public TaskCompletionSource IsHandedOut { get; } =
            new(TaskCreationOptions.RunContinuationsAsynchronously);

        /// <summary>Whether what came of its mails could not be written down; none is sent any more then.</summary>
        public bool IsLost { get; set; }
    }

    /// <summary>A mail as it is handed over, with the letters it is one of; without words, what comes of it.</summary>
    private sealed record LaidOut(
        DeliveryRow Delivery,
        LetterBook Letters,
        Letter? Letter,
        MimeMessage? Message,
        SendResult? Instead
    ) : IDisposable
    {
        // A message that is left to be finalized outlives a collection with all it says: a tenth of the time for a mail, measured.
        public void Dispose() => Message?.Dispose();
    }

    /// <summary>Sends what is due now and writes down what came of it; how many mails were settled.</summary>
    public async Task<int> SendDueAsync(CancellationToken stop = default) =>
        await TakeAsync(stop) is { } lot ? await SendAsync(lot, stop) : 0;

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

    /// <summary>Sends a lot and writes down what came of it; how many were settled.</summary>
    private async Task<int> SendAsync(Lot lot, CancellationToken stop)
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
            lot.IsHandedOut.TrySetResult();
        }
        sent.Writer.Complete();
        return await settling;
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
                    await Task.WhenAll(_connections.Select(each => each.Sender.LetGoAsync()));
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

    /// <summary>
    /// Sends lot after lot until nothing is due; how many were settled. The next one is taken while one is on its way, and whoever
    /// has nothing left to send of one begins with the next.
    /// </summary>
    private async Task<int> SendAllAsync(CancellationToken stop)
    {
        var count = 0;
        var next = TakeAsync(stop);
        var underWay = new List<Task<int>>();
        try
        {
            while (true)
            {
                if (await next is not { } lot)
                {
                    if (underWay.Count == 0)
                        break;
                    await bell.WaitAsync(LookAnyway, stop);
                    await CountAsync();
                    next = TakeAsync(stop);
                    continue;
                }
                // The server went away while it was taken, or this process is told to stop.
                if (stop.IsCancellationRequested || clock.Now() < _awayUntil)
                {
                    await GiveBackAsync(next);
                    break;
                }
                next = TakeAfterAsync(lot, stop);
                underWay.Add(SendAsync(lot, stop));
                await lot.IsHandedOut.Task;
                await CountAsync();
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
            count += (await Task.WhenAll(underWay)).Sum();
        }
        return count;

        // A mail at which the server hangs holds up its own lot, and as long as there are others its connection alone.
        async Task CountAsync()
        {
            while (underWay.Count == Connections || underWay.Exists(sending => sending.IsCompleted))
            {
                var done = await Task.WhenAny(underWay);
                underWay.Remove(done);
                count += await done;
            }
        }
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
        // Laid out while the server had the word, for whichever connection is free next.
        var ready = new ConcurrentQueue<LaidOut>();
        var unsent = new ConcurrentQueue<DeliveryRow>();
        try
        {
            // No more connections than there is work for, the free ones first; when none reaches the server, the mails are put back.
            var crew = _connections.OrderByDescending(each => each.Turn.CurrentCount).Take(lot.Mails.Count);
            var answers = await Task.WhenAll(crew.Select(TakePartAsync));
            if (answers.All(answer => answer is not null))
                await PutBackAsync(lot.Lease, [.. Waiting()], answers[0]!.Why);
        }
        finally
        {
            // Told to stop, or hindered: others send the rest, or the next try.
            if (Drain(unsent).Concat(Waiting()).ToList() is { Count: > 0 } rest)
                await GiveBackAsync(
                    lot.Lease,
                    rest,
                    clock.Now() + (stop.IsCancellationRequested ? default : LookAnyway)
                );
        }

        async Task<SendResult.Unreachable?> TakePartAsync(Connection connection)
        {
            await connection.Turn.WaitAsync(CancellationToken.None);
            try
            {
                if (queue.IsEmpty && ready.IsEmpty)
                    return null;
                if (await connection.Sender.ReachAsync(stop) is { } away)
                    return away;
                await SendAsync(connection.Sender, lot.Letters);
                return null;
            }
            finally
            {
                connection.Turn.Release();
            }
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
                    if (!lot.Lease.IsHeld || lot.IsLost || stop.IsCancellationRequested)
                        return;
                    if (!ready.TryDequeue(out var mail) && !TryLayOut(letters, out mail))
                        return;
                    SendResult result;
                    try
                    {
                        if (!mail.Letters.IsFresh)
                        {
                            mail.Dispose();
                            letters = await ReadAsync(WithWaiting(mail.Delivery, queue));
                            mail = LayOut(letters, mail.Delivery);
                        }
                        var sending = SendOneAsync(sender, mail, lot.Lease);
                        // While the server has the word.
                        if (ready.IsEmpty && letters.IsFresh && TryLayOut(letters, out var ahead))
                            ready.Enqueue(ahead);
                        result = await sending;
                    }
                    catch
                    {
                        unsent.Enqueue(mail.Delivery);
                        throw;
                    }
                    switch (result)
                    {
                        case SendResult.Unreachable away:
                            await PutBackAsync(lot.Lease, [mail.Delivery, .. Waiting()], away.Why);
                            return;
                        case SendResult.Late:
                            return;
                        default:
                            isSent = sent.TryWrite(new Sent(mail.Delivery, result));
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

        bool TryLayOut(LetterBook letters, [NotNullWhen(true)] out LaidOut? mail)
        {
            mail = queue.TryDequeue(out var delivery) ? LayOut(letters, delivery) : null;
            if (queue.Count <= Math.Max(Few, lot.Mails.Count / 4))
                lot.IsNearlySent.TrySetResult();
            if (queue.IsEmpty)
                lot.IsHandedOut.TrySetResult();
            return mail is not null;
        }

        IEnumerable<DeliveryRow> Waiting() => Drain(ready).Select(mail => mail.Delivery).Concat(Drain(queue));
    }

    /// <summary>
    /// Sends one mail. A connection that breaks may have nothing to do with it – servers hang up after so many – so it is
    /// tried once more over another; one at which that breaks, too, waits by itself, and costs nobody else's.
    /// </summary>
    private async Task<SendResult> SendOneAsync(SmtpSender sender, LaidOut mail, Lease lease)
    {
        try
        {
            for (var isFirst = true; ; isFirst = false)
            {
                if (await sender.ReachAsync() is { } away)
                    return away;
                // Getting there may have taken long: what is sent is looked at after that.
                if (!mail.Letters.WasReadSince(sender.ConnectedAt))
                {
                    mail.Dispose();
                    mail = LayOut(await ReadAsync([mail.Delivery]), mail.Delivery);
                }
                // What is on its way arrives, or comes again.
                var result = await SendAsync(sender, mail, lease);
                if (result is not SendResult.BrokenOff broken)
                    return result;
                if (!isFirst)
                    return new SendResult.Later("the server broke off at this mail: " + broken.Why);
            }
        }
        finally
        {
            mail.Dispose();
        }
    }

    /// <inheritdoc/>
    public override void Dispose()
    {
        foreach (var connection in _connections)
        {
            connection.Sender.Dispose();
            connection.Turn.Dispose();
        }
        _unsettled.Dispose();
        base.Dispose();
    }

    /// <summary>Leases what is due. While the server is away nothing is: knocking for every mail would only cost time.</summary>
    private async Task<IReadOnlyList<DeliveryRow>> LeaseAsync(Lease lease, CancellationToken stop) =>
        clock.Now() < _awayUntil ? [] : await queues.LeaseAsync(lease, _lotSize, stop);

    private Task<LetterBook> ReadAsync(IReadOnlyList<DeliveryRow> deliveries) =>
        LetterBook.ReadAsync(database, outbox, settings, worlds, deliveries, clock.Now());

    private LaidOut LayOut(LetterBook letters, DeliveryRow delivery)
    {
        try
        {
            return letters.Of(delivery) is { } letter
                ? new(delivery, letters, letter, Compose(letter, letters.ToOf(delivery), delivery), null)
                : Without(new SendResult.Unwanted());
        }
        catch (System.Security.Cryptography.CryptographicException)
        {
            return Without(
                new SendResult.Unwanted(
                    "the mail can no longer be opened: its protection key is gone; resend the invitation"
                )
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
            return Without(new SendResult.Later("the mail could not be put together"));
        }

        LaidOut Without(SendResult instead) => new(delivery, letters, null, null, instead);
    }

    private MimeMessage Compose(Letter letter, string to, DeliveryRow delivery) =>
        SmtpSender.Compose(settings.Mail, letter, to, delivery.MessageId);

    private async Task<SendResult> SendAsync(SmtpSender sender, LaidOut mail, Lease lease)
    {
        if (mail.Instead is { } instead)
            return instead;
        var to = mail.Letters.ToOf(mail.Delivery);
        var result = await To(to, mail.Message!);
        // What an address of somebody's own choice does not take goes where the workspace knows them, and nowhere else is told.
        if (to == mail.Delivery.ToAddress || result is not (SendResult.Refused or SendResult.Later))
            return result;
        using var other = Compose(mail.Letter!, mail.Delivery.ToAddress, mail.Delivery);
        return await To(mail.Delivery.ToAddress, other);

        Task<SendResult> To(string address, MimeMessage message) =>
            sender.SendAsync(message, address, clock.Now(), () => lease.IsHeld);
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
