namespace ComeAboard.Core;

/// <summary>When a delivery that did not go through is tried again: doubling waits, spread by chance.</summary>
public static class RetryTimes
{
    /// <summary>The longest wait before spreading.</summary>
    public static readonly TimeSpan Longest = TimeSpan.FromMinutes(15);

    /// <summary>The wait before the next try.</summary>
    /// <param name="tries">How many tries have failed, at least 1.</param>
    /// <param name="first">The wait after the first failure, before spreading.</param>
    /// <param name="chance">A random number, 0 inclusive to 1 exclusive; the wait is spread over ±50 %.</param>
    public static TimeSpan Wait(int tries, TimeSpan first, double chance)
    {
        var doubled = first * Math.Pow(2, Math.Clamp(tries - 1, 0, 20));
        return (doubled < Longest ? doubled : Longest) * (0.5 + chance);
    }
}
