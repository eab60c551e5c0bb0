using System.Collections.Concurrent;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Service.Access;

namespace ComeAboard.Service.Applications;

/// <summary>
/// Access tokens as they were found a moment ago, for those who ask thousands of times a second whether somebody may do
/// something. What was not looked at for longer than <see cref="AccessWorlds.Oldest"/> is looked at again, as everything
/// is that decisions rest on.
/// </summary>
public sealed class LookedAtTokens(TimeProvider clock)
{
    private const int MostKept = 10_000;

    private readonly ConcurrentDictionary<string, (ActingProgram? Program, long At)> _kept = new(
        StringComparer.Ordinal
    );

    /// <summary>Whom a program acts for, as it was at most half a second ago.</summary>
    /// <param name="token">The token; only its hash is kept.</param>
    /// <param name="look">Looks it up.</param>
    public async ValueTask<ActingProgram?> FindAsync(string token, Func<Task<ActingProgram?>> look)
    {
        var key = Convert.ToBase64String(SHA256.HashData(Encoding.UTF8.GetBytes(token)));
        if (_kept.TryGetValue(key, out var kept) && clock.GetElapsedTime(kept.At) < AccessWorlds.Oldest)
            return kept.Program;
        var at = clock.GetTimestamp();
        var program = await look();
        if (_kept.Count > MostKept)
            _kept.Clear();
        // Tokens that do not count are looked at each time: whoever guesses fills nothing.
        if (program is not null)
            _kept[key] = (program, at);
        else
            _kept.TryRemove(key, out _);
        return program;
    }

    /// <summary>Forgets all: something ended on this node, and is ended at once here.</summary>
    public void Clear() => _kept.Clear();
}
