using System.Threading.Channels;

namespace ComeAboard.Service.Jobs;

/// <summary>Wakes whoever waits for work in this process; other processes look by themselves.</summary>
public class Bell
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

/// <summary>Rung when a change has left mail to send.</summary>
public sealed class OutboxBell : Bell;

/// <summary>Rung when a list is to be read or sent.</summary>
public sealed class BatchBell : Bell;
