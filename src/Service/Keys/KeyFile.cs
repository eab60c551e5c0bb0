using System.Security.Cryptography;
using System.Text;
using System.Xml.Linq;
using Microsoft.AspNetCore.DataProtection.XmlEncryption;

namespace ComeAboard.Service.Keys;

/// <summary>
/// A file with a secret that encrypts the protection keys in the database, for those who have no certificate: AES-256 in
/// Galois/Counter Mode (NIST SP 800-38D) under a key derived from the file (HKDF, RFC 5869).
/// </summary>
public sealed class KeyFile
{
    private const int LeastBytes = 32;

    private readonly byte[] _key;

    private KeyFile(byte[] key) => _key = key;

    /// <summary>Reads a file.</summary>
    /// <exception cref="WrongSettingException">There is none, or it holds too little to be a secret.</exception>
    public static KeyFile Load(string path)
    {
        try
        {
            var content = File.ReadAllBytes(path);
            return content.Length >= LeastBytes
                ? new KeyFile(
                    HKDF.DeriveKey(
                        HashAlgorithmName.SHA256,
                        content,
                        32,
                        info: Encoding.UTF8.GetBytes("come-aboard protection keys")
                    )
                )
                : throw new WrongSettingException(
                    "Keys:File",
                    $"{path} holds {content.Length} bytes; {LeastBytes} at least make a secret."
                );
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            throw new WrongSettingException("Keys:File", $"{path} cannot be read: {fault.Message}");
        }
    }

    /// <summary>Seals a text.</summary>
    public string Seal(string text)
    {
        var plain = Encoding.UTF8.GetBytes(text);
        var nonce = RandomNumberGenerator.GetBytes(AesGcm.NonceByteSizes.MaxSize);
        var (cipher, tag) = (new byte[plain.Length], new byte[AesGcm.TagByteSizes.MaxSize]);
        using var aes = new AesGcm(_key, tag.Length);
        aes.Encrypt(nonce, plain, cipher, tag);
        return Convert.ToBase64String([.. nonce, .. tag, .. cipher]);
    }

    /// <summary>Opens what was sealed with the same file.</summary>
    /// <exception cref="CryptographicException">It was sealed with another, or changed.</exception>
    public string Open(string text)
    {
        var bytes = Convert.FromBase64String(text);
        var (nonceLength, tagLength) = (AesGcm.NonceByteSizes.MaxSize, AesGcm.TagByteSizes.MaxSize);
        var plain = new byte[bytes.Length - nonceLength - tagLength];
        using var aes = new AesGcm(_key, tagLength);
        aes.Decrypt(
            bytes.AsSpan(0, nonceLength),
            bytes.AsSpan(nonceLength + tagLength),
            bytes.AsSpan(nonceLength, tagLength),
            plain
        );
        return Encoding.UTF8.GetString(plain);
    }

    /// <summary>Seals keys on their way into the database.</summary>
    public sealed class Sealing(KeyFile file) : IXmlEncryptor
    {
        /// <inheritdoc/>
        public EncryptedXmlInfo Encrypt(XElement plaintextElement) =>
            new(
                new XElement(
                    "sealedByFile",
                    file.Seal(plaintextElement.ToString(SaveOptions.DisableFormatting))
                ),
                typeof(Opening)
            );
    }

    /// <summary>Opens keys on their way out; made by name, from what stands beside the key.</summary>
    public sealed class Opening(IServiceProvider services) : IXmlDecryptor
    {
        /// <inheritdoc/>
        public XElement Decrypt(XElement encryptedElement) =>
            XElement.Parse(
                (
                    services.GetService<KeyFile>()
                    ?? throw new CryptographicException(
                        "The protection keys are sealed with a file: Keys:File must name it."
                    )
                ).Open(encryptedElement.Value)
            );
    }
}
