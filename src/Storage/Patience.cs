using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Storage;

/// <summary>
/// How long to wait for an answer of a database server that may hang. Whoever waits for a request waits for little; work that
/// nobody waits for takes the time it takes. What the operator says themselves wins.
/// </summary>
public static class Patience
{
    /// <summary>
    /// For each statement of a request, and of whatever a request may wait behind, and for a connection. Calling off a statement that
    /// hangs takes one second more, so that every request is answered within five, whatever the database does.
    /// </summary>
    public static readonly TimeSpan OfRequest = TimeSpan.FromSeconds(3);

    // A commit whose answer does not come is looked up after it.
    private static readonly TimeSpan OfEnd = TimeSpan.FromSeconds(2);

    private static readonly AsyncLocal<TimeSpan?> Longest = new();

    /// <summary>Bounds the wait for each statement of what follows, until disposed.</summary>
    public static IDisposable Within(TimeSpan longest)
    {
        var before = Longest.Value;
        Longest.Value = longest;
        return new Ending(before);
    }

    /// <summary>Ends a transaction or a part of it, or begins one, for which the driver itself knows no such bound.</summary>
    /// <param name="context">Whose transaction.</param>
    /// <param name="step">What is waited for.</param>
    /// <param name="stop">Stops waiting.</param>
    /// <exception cref="TimeoutException">No answer came.</exception>
    public static async Task BoundAsync(
        DbContext? context,
        Func<CancellationToken, Task> step,
        CancellationToken stop = default
    )
    {
        if (For(context) is null)
        {
            await step(stop);
            return;
        }
        using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
        patience.CancelAfter(OfEnd);
        try
        {
            await step(patience.Token);
        }
        catch (OperationCanceledException fault) when (!stop.IsCancellationRequested)
        {
            throw new TimeoutException("The database does not answer.", fault);
        }
    }

    /// <summary>The longest wait for one statement of a context; null for no particular one.</summary>
    internal static TimeSpan? For(DbContext? context) =>
        context is ComeAboardContext { WaitsAsTold: true } ? null : Longest.Value;

    /// <summary>The same in the whole seconds that commands know.</summary>
    internal static int Seconds(TimeSpan longest) => (int)Math.Ceiling(longest.TotalSeconds);

    private sealed class Ending(TimeSpan? before) : IDisposable
    {
        public void Dispose() => Longest.Value = before;
    }
}
