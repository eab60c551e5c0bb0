using System.Buffers.Binary;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Storage;

namespace ComeAboard.Service;

/// <summary>Versions by which somebody else's change is noticed.</summary>
public static class Versions
{
    /// <summary>Whether a row was changed since it was looked at.</summary>
    /// <param name="row">The row.</param>
    /// <param name="expected">The version it was looked at; null for whatever it is.</param>
    public static bool IsStale(this IVersionedRow row, int? expected) =>
        expected is { } version && version != row.Version;

    /// <summary>The version of what has none of its own: made of what is in it.</summary>
    public static int Of(params ReadOnlySpan<string?> content) =>
        BinaryPrimitives.ReadInt32BigEndian(
            SHA256.HashData(Encoding.UTF8.GetBytes(string.Join('\0', content)))
        ) & int.MaxValue;
}
