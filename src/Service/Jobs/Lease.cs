using System.Diagnostics;

namespace ComeAboard.Service.Jobs;

/// <summary>
/// A lease of this process on some work. How long it lasts is written into the database by the database's own clock; here
/// it is watched by a clock that nobody can set, so that a process that was frozen or cut off does nothing with work that
/// others may have taken over meanwhile.
/// </summary>
public sealed class Lease : IAsyncDisposable
{
    /// <summary>How long a lease lasts unless it is renewed.</summary>
    public static readonly TimeSpan Length = TimeSpan.FromSeconds(15);

    // What takes longer than this between looking and doing would be a strange machine.
    private static readonly TimeSpan Margin = TimeSpan.FromSeconds(3);
    private static readonly TimeSpan RenewalPause = TimeSpan.FromSeconds(4);

    private readonly CancellationTokenSource _over = new();
    private long _asked = Stopwatch.GetTimestamp();
    private Task _renewing = Task.CompletedTask;

    /// <summary>The id under which the work is leased.</summary>
    public Guid Id { get; } = Guid.NewGuid();

    /// <summary>Whether it is certain that nobody else has the work: to be looked at before each piece of it.</summary>
    public bool IsHeld => Stopwatch.GetElapsedTime(Interlocked.Read(ref _asked)) < Length - Margin;

    /// <summary>Keeps the lease alive until it is let go. One renewal that fails is no reason to stop trying.</summary>
    /// <param name="renew">Writes the lease anew; true when it was still ours.</param>
    /// <param name="failed">Told what went wrong.</param>
    public void Keep(Func<CancellationToken, Task<bool>> renew, Action<Exception> failed) =>
        _renewing = RenewAsync(renew, failed);

    /// <summary>Stops renewing; the work is done, or given back. Once is enough, twice does no harm.</summary>
    public async ValueTask DisposeAsync()
    {
        if (_over.IsCancellationRequested)
            return;
        await _over.CancelAsync();
        await _renewing;
        _over.Dispose();
    }

    private async Task RenewAsync(Func<CancellationToken, Task<bool>> renew, Action<Exception> failed)
    {
        try
        {
            using var timer = new PeriodicTimer(RenewalPause);
            while (await timer.WaitForNextTickAsync(_over.Token))
            {
                // What is asked for now counts from now, however long the answer takes.
                var asked = Stopwatch.GetTimestamp();
                try
                {
                    if (!await renew(_over.Token))
                        return;
                    Interlocked.Exchange(ref _asked, asked);
                }
                catch (Exception fault) when (!_over.IsCancellationRequested)
                {
                    failed(fault);
                }
            }
        }
        catch (OperationCanceledException)
        {
            // Let go.
        }
    }
}
