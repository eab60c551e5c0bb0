using System.Net;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace ComeAboard.Service.Tests.World;

/// <summary>Certificates of an authority of its own, for servers on loopback.</summary>
public static class Vouching
{
    /// <summary>Writes server.pem and server.key into a directory; the certificate of the authority, as PEM.</summary>
    public static string Write(string directory)
    {
        var (from, until) = (DateTimeOffset.UtcNow.AddDays(-1), DateTimeOffset.UtcNow.AddDays(30));
        using var authorityKey = RSA.Create(2048);
        var authority = new CertificateRequest(
            "CN=Harbour authority of certificates",
            authorityKey,
            HashAlgorithmName.SHA256,
            RSASignaturePadding.Pkcs1
        );
        authority.CertificateExtensions.Add(new X509BasicConstraintsExtension(true, false, 0, true));
        using var vouching = authority.CreateSelfSigned(from, until);
        using var key = RSA.Create(2048);
        var request = new CertificateRequest(
            "CN=server",
            key,
            HashAlgorithmName.SHA256,
            RSASignaturePadding.Pkcs1
        );
        var names = new SubjectAlternativeNameBuilder();
        names.AddIpAddress(IPAddress.Loopback);
        request.CertificateExtensions.Add(names.Build());
        using var own = request.Create(vouching, from, until, [1, 2, 3, 4]);
        File.WriteAllText(Path.Combine(directory, "server.pem"), own.ExportCertificatePem());
        File.WriteAllText(Path.Combine(directory, "server.key"), key.ExportPkcs8PrivateKeyPem());
        File.SetUnixFileMode(
            Path.Combine(directory, "server.key"),
            UnixFileMode.UserRead | UnixFileMode.UserWrite
        );
        return vouching.ExportCertificatePem();
    }
}
