namespace ComeAboard.Service.Tests.World;

/// <summary>Waiting for what comes a moment later.</summary>
public static class Patience
{
    /// <summary>Looks until what is seen is as it should be, and gives back what was seen last.</summary>
    public static async Task<T> UntilAsync<T>(Func<Task<T>> look, Func<T, bool> isGood, int tries = 2_400)
    {
        for (var tried = 0; ; tried++)
        {
            var seen = await look();
            if (isGood(seen) || tried >= tries)
                return seen;
            await Task.Delay(25);
        }
    }
}
