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

    /// <summary>Does what a database that is busy or away refuses for now until it is done, as the workers of the service do.</summary>
    public static async Task<T> ThroughAsync<T>(Func<Task<T>> work, int tries = 10)
    {
        for (var tried = 1; ; tried++)
        {
            try
            {
                return await work();
            }
            catch (Exception fault) when (tried < tries && StorageFaults.Explain(fault) is not null)
            {
                await Task.Delay(200);
            }
        }
    }

    /// <inheritdoc cref="ThroughAsync{T}"/>
    public static Task ThroughAsync(Func<Task> work) =>
        ThroughAsync(async () =>
        {
            await work();
            return true;
        });
}
