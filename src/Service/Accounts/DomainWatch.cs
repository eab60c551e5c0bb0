using ComeAboard.Service.Jobs;

namespace ComeAboard.Service.Accounts;

/// <summary>Looks again and again whether proved domains are still shown. DNS may be slow: nothing else waits for it.</summary>
public sealed class DomainWatch(
    Domains domains,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<DomainWatch> log
) : BackgroundWork(first)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(30);

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause, clock);
        while (await timer.WaitForNextTickAsync(stoppingToken))
        {
            try
            {
                while (await domains.LookDueAsync() > 0 && !stoppingToken.IsCancellationRequested) { }
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "Domains could not be looked at; it is tried again");
            }
        }
    }
}
