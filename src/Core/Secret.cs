using System.Buffers.Text;
using System.Security.Cryptography;

namespace ComeAboard.Core;

/// <summary>
/// 256 random bits that prove possession: of an invitation's mail, a set-up link, an API token. Shown once; only its
/// <see cref="SecretHash"/> is kept.
/// </summary>
public sealed class Secret
{
    /// <summary>Length in bytes.</summary>
    public const int Length = 32;

    private readonly byte[] _bits;

    private Secret(byte[] bits) => _bits = bits;

    /// <summary>Takes random bytes from the caller's source.</summary>
    /// <param name="random">Exactly <see cref="Length"/> bytes from a cryptographic generator.</param>
    /// <exception cref="ArgumentException">The length is another.</exception>
    public static Secret Of(ReadOnlySpan<byte> random)
    {
        if (random.Length != Length)
            throw new ArgumentException($"A secret has {Length} bytes.", nameof(random));
        return new Secret(random.ToArray());
    }

    /// <summary>Reads the base64url text (RFC 4648 section 5) of a secret; null when it is not one, also when cut short.</summary>
    public static Secret? Read(string? text)
    {
        if (text is not { Length: 43 } || !Base64Url.IsValid(text))
            return null;
        var bits = Base64Url.DecodeFromChars(text);
        return bits.Length == Length ? new Secret(bits) : null;
    }

    /// <summary>The text handed out, 43 characters of base64url.</summary>
    public string Reveal() => Base64Url.EncodeToString(_bits);

    /// <summary>The form that is stored and looked up.</summary>
    public SecretHash Hash() => new(Convert.ToHexStringLower(SHA256.HashData(_bits)));

    /// <summary>Never the secret itself.</summary>
    public override string ToString() => "(secret)";
}

/// <summary>SHA-256 of a <see cref="Secret"/> in lower-case hexadecimal. Random 256 bits need no salt and no slow hash.</summary>
/// <param name="Value">64 hexadecimal digits.</param>
public readonly record struct SecretHash(string Value)
{
    /// <summary>Compares in constant time.</summary>
    public bool Matches(SecretHash other) =>
        CryptographicOperations.FixedTimeEquals(
            System.Text.Encoding.ASCII.GetBytes(Value),
            System.Text.Encoding.ASCII.GetBytes(other.Value)
        );
}
