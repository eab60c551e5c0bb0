namespace ComeAboard.Service.Jobs;

/// <summary>
/// Given with the first answer after a start. Whoever waits for the service to be there again does not wait for work that
/// nobody waits for.
/// </summary>
/// <param name="longest">How long is waited for it: work is done where nobody asks for anything, too.</param>
public sealed class FirstAnswer(TimeSpan longest)
{
    private readonly TaskCompletionSource _given = new(TaskCreationOptions.RunContinuationsAsynchronously);

    /// <summary>Something was answered.</summary>
    public void Give() => _given.TrySetResult();

    /// <summary>Waits until something was answered, or for as long as that is waited for.</summary>
    public async Task WaitAsync(CancellationToken stop)
    {
        await Task.WhenAny(_given.Task, Task.Delay(longest, stop));
        stop.ThrowIfCancellationRequested();
    }

    /// <summary>Has the service note its first answer.</summary>
    public static void Watch(IApplicationBuilder app)
    {
        var first = app.ApplicationServices.GetRequiredService<FirstAnswer>();
        app.Use(
            async (http, next) =>
            {
                await next(http);
                first.Give();
            }
        );
    }
}

/// <summary>Work that goes on in the background; it begins after the first answer.</summary>
public abstract class BackgroundWork(FirstAnswer first) : BackgroundService
{
    /// <inheritdoc/>
    protected sealed override async Task ExecuteAsync(CancellationToken stoppingToken)
    {
        await first.WaitAsync(stoppingToken);
        await GoOnAsync(stoppingToken);
    }

    /// <summary>Does the work until it is to stop.</summary>
    protected abstract Task GoOnAsync(CancellationToken stop);
}
