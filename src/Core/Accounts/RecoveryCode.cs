using System.Security.Cryptography;
using System.Text;

namespace ComeAboard.Core.Accounts;

/// <summary>
/// A code that stands in for a time-based code when the device that makes those is not at hand. It counts once, and
/// only its hash is kept: with 80 bits there is nothing to be guessed from that.
/// </summary>
public static class RecoveryCode
{
    /// <summary>How many bytes of chance one is made from.</summary>
    public const int Bytes = 10;

    /// <summary>How many an account is given at a time.</summary>
    public const int Count = 10;

    private const int Group = 4;

    /// <summary>Writes one from bytes of chance, in groups of four hexadecimal digits: <c>09af-…</c>.</summary>
    /// <param name="chance">Ten bytes of chance.</param>
    public static string Write(ReadOnlySpan<byte> chance)
    {
        ArgumentOutOfRangeException.ThrowIfNotEqual(chance.Length, Bytes);
        return string.Join(
            '-',
            Convert.ToHexStringLower(chance).Chunk(Group).Select(group => new string(group))
        );
    }

    /// <summary>The hash by which a code is found, whatever blanks, hyphens and capitals it was typed with; null for what is no code.</summary>
    /// <param name="typed">The code as it was typed.</param>
    public static string? Hash(string? typed)
    {
        var digits = string.Concat((typed ?? "").Where(char.IsAsciiLetterOrDigit)).ToLowerInvariant();
        return digits.Length == Bytes * 2 && digits.All(char.IsAsciiHexDigitLower)
            ? Convert.ToHexStringLower(SHA256.HashData(Encoding.ASCII.GetBytes(digits)))
            : null;
    }
}
