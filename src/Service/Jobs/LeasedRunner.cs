using ComeAboard.Storage;

namespace ComeAboard.Service.Jobs;

/// <summary>Does leased work in the background: takes a piece up, works on it, puts it off when that fails.</summary>
/// <param name="queue">Which piece is next.</param>
/// <param name="bell">Rings when there is work.</param>
/// <param name="first">When it begins.</param>
/// <param name="log">Where faults are told.</param>
public abstract class LeasedRunner<TRow>(LeasedQueue<TRow> queue, Bell bell, FirstAnswer first, ILogger log)
    : BackgroundWork(first)
    where TRow : class, ILeasedRow
{
    private static readonly TimeSpan LookAnyway = TimeSpan.FromSeconds(1);

    /// <summary>How many pieces are worked on side by side, so that one workspace's heap does not hold up another's.</summary>
    protected virtual int AtOnce => 3;

    /// <summary>Tells that there is work.</summary>
    public void Ring() => bell.Ring();

    /// <summary>Does all the work there is; how many pieces were worked on.</summary>
    public async Task<int> RunDueAsync(CancellationToken stop = default)
    {
        var count = 0;
        for (; await TakeAsync(stop) is { } taken; count++)
            await WorkAsync(taken, stop);
        return count;
    }

    /// <summary>Works on a piece until nothing of it is left.</summary>
    protected abstract Task WorkAsync(TRow row, CancellationToken stop);

    /// <summary>Ends the work on a piece that failed again and again.</summary>
    protected abstract Task StopAsync(TRow row, string why);

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        var working = new List<Task>();
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                working.RemoveAll(task => task.IsCompleted);
                // One looks for all: however many may be at work, nobody asks more often than is of use.
                if (working.Count < AtOnce && await TakeAsync(stoppingToken) is { } taken)
                    working.Add(
                        Task.Run(() => WorkAndRingAsync(taken, stoppingToken), CancellationToken.None)
                    );
                else
                    await bell.WaitAsync(LookAnyway, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                break;
            }
            catch (Exception fault)
            {
                Tell(fault);
                await Task.Delay(LookAnyway, CancellationToken.None);
            }
        }
        await Task.WhenAll(working);
    }

    private async Task WorkAndRingAsync((Lease, TRow) taken, CancellationToken stop)
    {
        try
        {
            await WorkAsync(taken, stop);
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            // It was given back.
        }
        catch (Exception fault)
        {
            Tell(fault);
        }
        finally
        {
            // There is room for another, and what was worked on may have something left.
            bell.Ring();
        }
    }

    private void Tell(Exception fault) =>
        log.LogWarning(fault, "Leased work could not be done; it is tried again");

    private async Task<(Lease, TRow)?> TakeAsync(CancellationToken stop)
    {
        var lease = new Lease();
        if (await queue.LeaseAsync(lease, stop) is { } row)
            return (lease, row);
        await lease.DisposeAsync();
        return null;
    }

    private async Task WorkAsync((Lease Lease, TRow Row) taken, CancellationToken stop)
    {
        var row = taken.Row;
        await using var lease = taken.Lease;
        lease.Keep(
            cancelled => queue.RenewAsync(lease, row, cancelled),
            fault => log.LogWarning(fault, "A lease could not be renewed; it is tried again")
        );
        try
        {
            await WorkAsync(row, stop);
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            await lease.DisposeAsync();
            await queue.LetGoAsync(lease, row);
            throw;
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            log.LogWarning(fault, "The leased work {Id} could not be done", row.Id);
            // What renews must not take back that it is put off.
            await lease.DisposeAsync();
            if (!await queue.PutOffAsync(lease, row))
                await StopAsync(row, "It failed again and again; the operator finds why in the log.");
        }
    }
}
