using System.Threading.Channels;

namespace ComeAboard.Service.Mail;

/// <summary>Wakes the outbox of this process when a change has left mail to send; other processes look by themselves.</summary>
public sealed class OutboxBell
{
    private readonly Channel<bool> _rings = Channel.CreateBounded<bool>(
        new BoundedChannelOptions(1) { FullMode = BoundedChannelFullMode.DropWrite }
    );

    /// <summary>Rings; rings nobody has heard yet are one.</summary>
    public void Ring() => _rings.Writer.TryWrite(true);

    /// <summary>Waits for a ring, but not longer than a time.</summary>
    public async Task WaitAsync(TimeSpan longest, CancellationToken stop)
    {
        using var timed = CancellationTokenSource.CreateLinkedTokenSource(stop);
        timed.CancelAfter(longest);
        try
        {
            await _rings.Reader.ReadAsync(timed.Token);
        }
        catch (OperationCanceledException) when (!stop.IsCancellationRequested)
        {
            // Nobody rang; time to look anyway.
        }
    }
}
