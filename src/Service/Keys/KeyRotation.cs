using Microsoft.AspNetCore.DataProtection.KeyManagement;

namespace ComeAboard.Service.Keys;

/// <summary>
/// Makes protection keys in good time. Data Protection would otherwise make one at the moment of need, which can be in
/// the middle of a change, where SQLite cannot take a second writer.
/// </summary>
public sealed class KeyRotation(IKeyManager keys)
{
    private static readonly TimeSpan Lifetime = TimeSpan.FromDays(90);
    private static readonly TimeSpan Ahead = TimeSpan.FromDays(14);

    /// <summary>Sees to it that a key lasts for another two weeks.</summary>
    public void Ensure()
    {
        var now = DateTimeOffset.UtcNow;
        var hasKey = keys.GetAllKeys()
            .Any(key => !key.IsRevoked && key.ActivationDate <= now && key.ExpirationDate > now + Ahead);
        if (!hasKey)
            keys.CreateNewKey(now, now + Lifetime);
    }
}
