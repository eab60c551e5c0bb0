namespace ComeAboard.Storage;

/// <summary>
/// How long to wait for an answer of a database server that may hang. Whoever waits for a request waits for little; work that
/// nobody waits for takes the time it takes.
/// </summary>
public static class Patience
{
    /// <summary>
    /// For a request, and for whatever a request may wait behind: every one is answered within five seconds, whatever the
    /// database does.
    /// </summary>
    public static readonly TimeSpan OfRequest = TimeSpan.FromSeconds(4);

    private static readonly AsyncLocal<TimeSpan?> Longest = new();

    /// <summary>The longest wait for one statement here; null for no particular one.</summary>
    public static TimeSpan? Now => Longest.Value;

    /// <summary>Bounds the wait for each statement of what follows, until disposed.</summary>
    public static IDisposable Within(TimeSpan longest)
    {
        var before = Longest.Value;
        Longest.Value = longest;
        return new Ending(before);
    }

    /// <summary>The same in the whole seconds that commands know.</summary>
    internal static int Seconds(TimeSpan longest) => (int)Math.Ceiling(longest.TotalSeconds);

    private sealed class Ending(TimeSpan? before) : IDisposable
    {
        public void Dispose() => Longest.Value = before;
    }
}
