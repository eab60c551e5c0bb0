using System.Diagnostics;

namespace ComeAboard.Service.Mail;

/// <summary>Whether the mail server answers, asked of it itself, and not more often than every few seconds.</summary>
public sealed class MailReach(ServiceSettings settings) : IDisposable
{
    private static readonly TimeSpan Fresh = TimeSpan.FromSeconds(10);
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(2.5);

    private readonly SemaphoreSlim _one = new(1);
    private (long At, string? Fault)? _last;

    /// <summary>Why it does not answer; null when it does.</summary>
    public async Task<string?> FaultAsync()
    {
        await _one.WaitAsync();
        try
        {
            if (_last is { } last && Stopwatch.GetElapsedTime(last.At) < Fresh)
                return last.Fault;
            var fault = await AskAsync();
            _last = (Stopwatch.GetTimestamp(), fault);
            return fault;
        }
        finally
        {
            _one.Release();
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _one.Dispose();

    private async Task<string?> AskAsync()
    {
        using var patience = new CancellationTokenSource(Patience);
        using var sender = new SmtpSender(settings.Mail);
        try
        {
            var unreachable = await sender.ReachAsync(patience.Token);
            if (unreachable is null)
                await sender.LetGoAsync();
            return unreachable?.Why;
        }
        catch (OperationCanceledException)
        {
            return "nothing came from it in time.";
        }
    }
}
