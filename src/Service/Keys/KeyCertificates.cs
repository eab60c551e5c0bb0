using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace ComeAboard.Service.Keys;

/// <summary>The certificate that encrypts the protection keys in the database, so that reading it does not open what they seal.</summary>
public static class KeyCertificates
{
    /// <summary>Loads a certificate with its private key from one PEM file.</summary>
    /// <exception cref="WrongSettingException">There is none, or it cannot be used.</exception>
    public static X509Certificate2 Load(string path)
    {
        try
        {
            var certificate = X509Certificate2.CreateFromPemFile(path);
            return certificate.GetRSAPrivateKey() is not null
                ? certificate
                : throw new WrongSettingException("Keys:Certificate", $"{path} holds no RSA private key.");
        }
        catch (Exception fault)
            when (fault is CryptographicException or IOException or UnauthorizedAccessException)
        {
            throw new WrongSettingException("Keys:Certificate", $"{path} cannot be read: {fault.Message}");
        }
    }
}
