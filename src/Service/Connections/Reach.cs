using System.Net;
using System.Net.Security;
using System.Net.Sockets;
using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;

namespace ComeAboard.Service.Connections;

/// <summary>
/// Connecting to outside systems. Whoever looks after a workspace names their addresses, and must not reach by that what only
/// this machine or its own network reaches: such places answer only where the operator allows it. What was looked at is what
/// is connected to, so that a name that changes its answer in between gains nothing.
/// </summary>
public sealed class Reach(ServiceSettings settings)
{
    /// <summary>How long connecting may take.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    // RFC 6890's special-purpose addresses that are reachable from here and from nowhere else, and the forms in which IPv6
    // carries an address of IPv4 (RFC 4291, 6052, 3056, 4380).
    private static readonly IPNetwork[] Inner =
    [
        .. (
            (string[])
                [
                    "0.0.0.0/8",
                    "10.0.0.0/8",
                    "100.64.0.0/10",
                    "127.0.0.0/8",
                    "169.254.0.0/16",
                    "172.16.0.0/12",
                    "192.0.0.0/24",
                    "192.168.0.0/16",
                    "198.18.0.0/15",
                    "224.0.0.0/3",
                    "::/96",
                    "64:ff9b::/96",
                    "64:ff9b:1::/48",
                    "2001::/32",
                    "2002::/16",
                    "fc00::/7",
                    "fe80::/10",
                    "fec0::/10",
                    "ff00::/8",
                ]
        ).Select(text => IPNetwork.Parse(text)),
    ];

    /// <summary>Connects to a host, if all its addresses may be reached.</summary>
    /// <param name="host">Its name or address.</param>
    /// <param name="port">The port.</param>
    /// <param name="stop">Breaks off.</param>
    /// <param name="isPrivateMeant">Whether an address of this network is meant, and not only allowed by the operator.</param>
    /// <exception cref="IOException">One of them may not be.</exception>
    /// <exception cref="SocketException">It is not there, or does not answer.</exception>
    public async Task<Socket> ConnectAsync(
        string host,
        int port,
        CancellationToken stop,
        bool isPrivateMeant = true
    )
    {
        var found = await AddressesAsync(host, isPrivateMeant, stop);
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            using var patience = CancellationTokenSource.CreateLinkedTokenSource(stop);
            patience.CancelAfter(Patience);
            await socket.ConnectAsync(found, port, patience.Token);
            return socket;
        }
        catch
        {
            socket.Dispose();
            throw;
        }
    }

    /// <summary>The addresses of a host, if all of them may be reached; what connects by itself is given one of them, and no name.</summary>
    /// <param name="host">Its name or address.</param>
    /// <param name="isPrivateMeant">Whether an address of this network is meant, and not only allowed by the operator.</param>
    /// <param name="stop">Breaks off.</param>
    /// <exception cref="IOException">One of them may not be.</exception>
    /// <exception cref="SocketException">It has none.</exception>
    public async Task<IPAddress[]> AddressesAsync(string host, bool isPrivateMeant, CancellationToken stop)
    {
        var found = IPAddress.TryParse(host.Trim('[', ']'), out var literal)
            ? [literal]
            : await Dns.GetHostAddressesAsync(host, stop);
        if (found.Length == 0 || !found.All(MayReach))
            throw new IOException("Something at an address of this network is not asked.");
        if (!isPrivateMeant && found.Any(IsInner))
            throw new IOException(
                "It is at an address of this network; say that this is meant: aboard connections change NAME --allow-private"
            );
        return found;
    }

    /// <summary>What connects over HTTP; whoever gets it disposes of it.</summary>
    /// <param name="certificate">The certificates (PEM) of the authority that vouches for the other side; empty for the public ones.</param>
    /// <param name="isPrivateMeant">Whether an address of this network is meant, and not only allowed by the operator.</param>
    public SocketsHttpHandler Handler(string certificate = "", bool isPrivateMeant = true)
    {
        var handler = new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            UseProxy = false,
            UseCookies = false,
            ConnectTimeout = Patience,
            PooledConnectionLifetime = TimeSpan.FromMinutes(2),
            ConnectCallback = async (context, stop) =>
                new NetworkStream(
                    await ConnectAsync(
                        context.DnsEndPoint.Host,
                        context.DnsEndPoint.Port,
                        stop,
                        isPrivateMeant
                    ),
                    ownsSocket: true
                ),
        };
        if (certificate.Length > 0)
            handler.SslOptions.CertificateChainPolicy = PolicyOf(certificate);
        return handler;
    }

    /// <summary>How the other side shows who it is.</summary>
    /// <param name="host">Its name.</param>
    /// <param name="certificate">The certificates (PEM) of the authority that vouches for it; empty for the public ones.</param>
    public static SslClientAuthenticationOptions TlsOf(string host, string certificate) =>
        new()
        {
            TargetHost = host,
            CertificateChainPolicy = certificate.Length > 0 ? PolicyOf(certificate) : null,
        };

    /// <summary>Whether a text holds certificates (PEM).</summary>
    public static bool IsCertificate(string text)
    {
        try
        {
            var read = new X509Certificate2Collection();
            read.ImportFromPem(text);
            return read.Count > 0;
        }
        catch (CryptographicException)
        {
            return false;
        }
    }

    private static X509ChainPolicy PolicyOf(string certificate)
    {
        var policy = new X509ChainPolicy
        {
            TrustMode = X509ChainTrustMode.CustomRootTrust,
            RevocationMode = X509RevocationMode.NoCheck,
        };
        policy.CustomTrustStore.ImportFromPem(certificate);
        return policy;
    }

    private bool MayReach(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        if (settings.IsPlain && IPAddress.IsLoopback(address))
            return true;
        return settings.ProviderNetworks.Any(network => network.Contains(address))
            || !Inner.Any(network => network.Contains(address));
    }

    // On loopback a service that is plain itself is only tried out.
    private bool IsInner(IPAddress address)
    {
        if (address.IsIPv4MappedToIPv6)
            address = address.MapToIPv4();
        return !(settings.IsPlain && IPAddress.IsLoopback(address))
            && Inner.Any(network => network.Contains(address));
    }
}
