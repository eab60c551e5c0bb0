using System.Net;
using System.Net.Sockets;
using ComeAboard.Core;
using Microsoft.IdentityModel.Protocols;
using Microsoft.IdentityModel.Protocols.OpenIdConnect;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// The way to providers. Whoever looks after a workspace names their addresses, and must not reach by that what only this
/// machine or its own network reaches: such places answer only where the operator allows it.
/// </summary>
public sealed class OutsideNetwork(ServiceSettings settings) : IDisposable
{
    /// <summary>How long a provider may take to answer.</summary>
    public static readonly TimeSpan Patience = TimeSpan.FromSeconds(5);

    private const int LargestAnswer = 512 * 1024;
    private const int LongestIssuer = 500;

    // RFC 6890's special-purpose addresses that are reachable from here, and from nowhere else.
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
                    "::/127",
                    "64:ff9b:1::/48",
                    "fc00::/7",
                    "fe80::/10",
                    "ff00::/8",
                ]
        ).Select(text => IPNetwork.Parse(text)),
    ];

    private SocketsHttpHandler? _handler;

    /// <summary>What connects; whoever gets it leaves it open.</summary>
    public SocketsHttpHandler Handler =>
        _handler ??= new SocketsHttpHandler
        {
            AllowAutoRedirect = false,
            UseProxy = false,
            UseCookies = false,
            ConnectTimeout = Patience,
            PooledConnectionLifetime = TimeSpan.FromMinutes(2),
            ConnectCallback = ConnectAsync,
        };

    /// <summary>Reads an issuer that somebody names; refuses with <c>provider.issuer-malformed</c>.</summary>
    public Outcome<string> ReadIssuer(string? text) =>
        text?.Trim() is { Length: > 0 and <= LongestIssuer } issuer
        && Uri.TryCreate(issuer, UriKind.Absolute, out var address)
        && (address.Scheme == Uri.UriSchemeHttps || settings.IsPlain && address.Scheme == Uri.UriSchemeHttp)
        && address.Query.Length == 0
        && address.Fragment.Length == 0
        && address.UserInfo.Length == 0
            ? issuer
            : new Refusal(
                "provider.issuer-malformed",
                $"\"{Words.Short(text ?? "")}\" is no issuer of a provider.",
                "Give the https address by which it calls itself, without ? or #.",
                Field: "issuer"
            );

    /// <summary>
    /// Asks a provider who it is: it has to call itself as it is called here. Refuses with <c>provider.unreachable</c> or
    /// <c>provider.other-issuer</c>.
    /// </summary>
    public async Task<Refusal?> ForbidsAsync(string issuer)
    {
        try
        {
            using var client = new HttpClient(Handler, disposeHandler: false)
            {
                Timeout = Patience,
                MaxResponseContentBufferSize = LargestAnswer,
            };
            var told = await OpenIdConnectConfigurationRetriever.GetAsync(
                OutsideOptions.MetadataOf(issuer),
                new HttpDocumentRetriever(client) { RequireHttps = !settings.IsPlain },
                CancellationToken.None
            );
            if (told.Issuer == issuer && told.SigningKeys.Count > 0)
                return null;
            return new Refusal(
                "provider.other-issuer",
                told.Issuer == issuer
                    ? "The provider shows no key to check its word by."
                    : $"The provider calls itself \"{Words.Short(told.Issuer ?? "")}\".",
                "Give its issuer exactly as it says it.",
                RefusalSort.Conflict,
                "issuer"
            );
        }
        catch (Exception fault)
            when (fault
                    is HttpRequestException
                        or IOException
                        or OperationCanceledException
                        or InvalidOperationException
                        or ArgumentException
                        or System.Text.Json.JsonException
            )
        {
            return new Refusal(
                "provider.unreachable",
                "The provider did not tell who it is.",
                $"Look whether {OutsideOptions.MetadataOf(issuer)} can be reached from this service.",
                RefusalSort.Conflict,
                "issuer"
            );
        }
    }

    /// <inheritdoc/>
    public void Dispose() => _handler?.Dispose();

    private async ValueTask<Stream> ConnectAsync(
        SocketsHttpConnectionContext context,
        CancellationToken cancellation
    )
    {
        var (host, port) = (context.DnsEndPoint.Host, context.DnsEndPoint.Port);
        var found = IPAddress.TryParse(host, out var literal)
            ? [literal]
            : await Dns.GetHostAddressesAsync(host, cancellation);
        var open = found.Where(MayReach).ToArray();
        if (open.Length == 0)
            throw new IOException("A provider at an address of this network is not asked.");
        var socket = new Socket(SocketType.Stream, ProtocolType.Tcp) { NoDelay = true };
        try
        {
            await socket.ConnectAsync(open, port, cancellation);
            return new NetworkStream(socket, ownsSocket: true);
        }
        catch
        {
            socket.Dispose();
            throw;
        }
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
}
