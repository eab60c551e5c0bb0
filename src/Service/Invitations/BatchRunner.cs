using ComeAboard.Service.Jobs;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Does the work of lists in the background, lot by lot: leases one, works on it, puts it off when that fails.
/// </summary>
public sealed class BatchRunner(BatchQueue queue, BatchLots lots, BatchBell bell, ILogger<BatchRunner> log)
    : BackgroundService
{
    // So that one workspace's heap does not hold up another's list: their lots are written by turns.
    private const int AtOnce = 3;
    private static readonly TimeSpan LookAnyway = TimeSpan.FromSeconds(1);

    /// <summary>Tells that there is work.</summary>
    public void Ring() => bell.Ring();

    /// <summary>Does all the work there is; how many batches were worked on.</summary>
    public async Task<int> RunDueAsync(CancellationToken stop = default)
    {
        var count = 0;
        while (await RunNextAsync(stop))
            count++;
        return count;
    }

    /// <inheritdoc/>
    protected override Task ExecuteAsync(CancellationToken stoppingToken) =>
        Task.WhenAll(Enumerable.Range(0, AtOnce).Select(_ => WorkAsync(stoppingToken)));

    private async Task WorkAsync(CancellationToken stop)
    {
        while (!stop.IsCancellationRequested)
        {
            try
            {
                if (!await RunNextAsync(stop))
                    await bell.WaitAsync(LookAnyway, stop);
            }
            catch (OperationCanceledException) when (stop.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "A batch could not be worked on; it is tried again");
                await Task.Delay(LookAnyway, CancellationToken.None);
            }
        }
    }

    private async Task<bool> RunNextAsync(CancellationToken stop)
    {
        await using var lease = new Lease();
        if (await queue.LeaseAsync(lease, stop) is not { } batch)
            return false;
        lease.Keep(
            cancelled => queue.RenewAsync(lease, batch, cancelled),
            fault => log.LogWarning(fault, "The lease of a list could not be renewed; it is tried again")
        );
        try
        {
            await lots.RunAsync(batch, stop);
        }
        catch (OperationCanceledException) when (stop.IsCancellationRequested)
        {
            await lease.DisposeAsync();
            await queue.LetGoAsync(lease, batch);
            throw;
        }
        catch (Exception fault) when (!stop.IsCancellationRequested)
        {
            log.LogWarning(fault, "The list {Batch} could not be worked on", batch.Id);
            // What renews must not take back that it is put off.
            await lease.DisposeAsync();
            if (!await queue.PutOffAsync(lease, batch))
                await lots.StopAsync(batch, "It failed again and again; the operator finds why in the log.");
        }
        return true;
    }
}
