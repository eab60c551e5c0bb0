using System.Diagnostics;

namespace ComeAboard.Measure;

/// <summary>
/// The most memory a process holds for itself – <c>RssAnon</c> of <c>/proc</c>, without what it maps from files – looked at
/// twenty times a second, as the kernel keeps no peak of it.
/// </summary>
public sealed class AnonymousMemory : IAsyncDisposable
{
    private readonly CancellationTokenSource _end = new();
    private readonly Task _looking;

    private AnonymousMemory(string status) => _looking = LookAsync(status);

    /// <summary>The most so far, in megabytes.</summary>
    public double Peak { get; private set; }

    /// <summary>Looks at a process until it is disposed of, or the process ends.</summary>
    public static AnonymousMemory Of(Process process) => new($"/proc/{process.Id}/status");

    private async Task LookAsync(string status)
    {
        while (!_end.IsCancellationRequested)
        {
            try
            {
                Peak = Math.Max(Peak, MegabytesIn(await File.ReadAllLinesAsync(status)));
            }
            catch (IOException)
            {
                return;
            }
            await Task.Delay(50);
        }
    }

    private static double MegabytesIn(IEnumerable<string> lines) =>
        lines
            .Where(line => line.StartsWith("RssAnon:", StringComparison.Ordinal))
            .Select(line => double.Parse(line.Split(' ', StringSplitOptions.RemoveEmptyEntries)[1]) / 1024)
            .FirstOrDefault();

    public async ValueTask DisposeAsync()
    {
        await _end.CancelAsync();
        await _looking;
        _end.Dispose();
    }
}
