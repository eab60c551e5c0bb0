using System.Diagnostics;
using System.Runtime.ExceptionServices;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// Those who wait for one thing, one after another. Whoever waits while the database is at fault hears that at once: none
/// would fare better, and each would take its time to find out.
/// </summary>
public sealed class Line
{
    private LineFault _fault;

    private SemaphoreSlim Gate { get; } = new(1, 1);

    /// <summary>Waits in line; who came in has to leave.</summary>
    /// <param name="asked">Since when it is waited for, by <see cref="Stopwatch.GetTimestamp"/>.</param>
    /// <exception cref="Exception">What was wrong with the database while this waited; it is not in the line then.</exception>
    public async Task EnterAsync(long asked)
    {
        await Gate.WaitAsync();
        if (_fault.Since(asked) is not { } fault)
            return;
        Leave();
        ExceptionDispatchInfo.Throw(fault);
    }

    /// <summary>Lets the next one in.</summary>
    public void Leave() => Gate.Release();

    /// <summary>Tells those who wait what was wrong, where that was the database; to be said before leaving.</summary>
    public void Tell(Exception fault) => _fault = LineFault.Of(fault) ?? _fault;
}

/// <summary>What was wrong with the database last, and when that was known, by a clock that nobody sets.</summary>
public readonly record struct LineFault(long At, Exception? Fault)
{
    /// <summary>A fault as those hear it who waited; null where it was not the database's.</summary>
    public static LineFault? Of(Exception fault) =>
        StorageFaults.Explain(fault) is null
            ? null
            : new LineFault(
                Stopwatch.GetTimestamp(),
                // Of those who still wait nothing can be in.
                fault is UnknownFateException { InnerException: { } away }
                    ? away
                    : fault
            );

    /// <summary>What was wrong, where that became known after somebody had asked; otherwise null.</summary>
    public Exception? Since(long asked) => asked < At ? Fault : null;
}
