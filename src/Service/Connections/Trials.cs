using ComeAboard.Client.Connections;
using ComeAboard.Core;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>Trying whether systems answer that access is carried out to and that nobody is read from.</summary>
public sealed class Trials(Sources sources, Targets targets)
{
    private const int SampleSize = 5;

    /// <summary>Opens a way there, and asks for what is there, or tells something that means nothing.</summary>
    public async Task<Outcome<ConnectionTest>> RunAsync(ConnectionRow row, string by, CancellationToken stop)
    {
        if (targets.Find(row.Type) is not { } target)
            return Mappings.NoTarget;
        try
        {
            await using var session = await target.OpenAsync(
                sources.AccessOf(row),
                new HashSet<string>(StringComparer.Ordinal),
                stop
            );
            if (session is ITellingSession told)
            {
                await told.TryAsync(by, stop);
                return new ConnectionTest(0, true, []);
            }
            var all = await session.AllAsync(stop);
            return new ConnectionTest(
                all.Count,
                true,
                [.. all.Take(SampleSize).Select(one => new SampleView(one.Name, one.SignInName, ""))]
            );
        }
        catch (TargetException no)
        {
            return CarryingOut.RefusalOf(no);
        }
    }
}
