using ComeAboard.Service.Jobs;
using ComeAboard.Storage.Invitations;

namespace ComeAboard.Service.Invitations;

/// <summary>Does the work of lists in the background, lot by lot.</summary>
public sealed class BatchRunner(
    BatchQueue queue,
    BatchLots lots,
    BatchBell bell,
    FirstAnswer first,
    ILogger<BatchRunner> log
) : LeasedRunner<BatchRow>(queue, bell, first, log)
{
    /// <inheritdoc/>
    protected override Task WorkAsync(BatchRow row, CancellationToken stop) => lots.RunAsync(row, stop);

    /// <inheritdoc/>
    protected override Task StopAsync(BatchRow row, string why) => lots.StopAsync(row, why);
}
