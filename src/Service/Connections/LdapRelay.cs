using System.Net;
using System.Net.Security;
using System.Net.Sockets;

namespace ComeAboard.Service.Connections;

/// <summary>
/// A way to a directory for a library that has neither time-outs nor a say in what it connects to: this connects to the address
/// that was looked at, speaks TLS and checks the name, and gives the library a place on this machine to talk to, which lets in
/// that one connection of this very process. A side that is silent for too long is given up.
/// </summary>
internal sealed class LdapRelay : IAsyncDisposable
{
    private const int Chunk = 16 * 1024;

    // The extended request of RFC 4511, section 4.14: StartTLS, 1.3.6.1.4.1.1466.20037.
    private static readonly byte[] StartTls =
    [
        0x30,
        0x1d,
        0x02,
        0x01,
        0x01,
        0x77,
        0x18,
        0x80,
        0x16,
        .. "1.3.6.1.4.1.1466.20037"u8,
    ];

    private readonly Stream _there;
    private readonly Socket _door;
    private readonly CancellationTokenSource _over = new();
    private readonly Task _work;
    private readonly TimeSpan _patience;

    private LdapRelay(Stream there, TimeSpan patience)
    {
        (_there, _patience) = (there, patience);
        _door = new Socket(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
        _door.Bind(new IPEndPoint(IPAddress.Loopback, 0));
        _door.Listen(1);
        _work = WorkAsync();
    }

    /// <summary>Where the library is to connect to, on this machine.</summary>
    public int Port => ((IPEndPoint)_door.LocalEndPoint!).Port;

    /// <summary>Connects to a directory over TLS: at once (<c>ldaps</c>), or by StartTLS (<c>ldap</c>).</summary>
    public static async Task<LdapRelay> OpenAsync(
        Reach reach,
        Uri place,
        string certificate,
        bool isPrivateMeant,
        TimeSpan patience,
        CancellationToken stop
    )
    {
        using var limited = CancellationTokenSource.CreateLinkedTokenSource(stop);
        limited.CancelAfter(patience);
        var isTls = place.Scheme == "ldaps";
        var socket = await reach.ConnectAsync(
            place.Host,
            place.IsDefaultPort ? (isTls ? 636 : 389) : place.Port,
            limited.Token,
            isPrivateMeant
        );
        var plain = new NetworkStream(socket, ownsSocket: true);
        var tls = new SslStream(plain);
        try
        {
            if (!isTls)
                await StartTlsAsync(plain, limited.Token);
            await tls.AuthenticateAsClientAsync(Reach.TlsOf(place.Host, certificate), limited.Token);
            return new LdapRelay(tls, patience);
        }
        catch
        {
            await tls.DisposeAsync();
            throw;
        }
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        await _over.CancelAsync();
        await _work;
        await _there.DisposeAsync();
        _door.Dispose();
        _over.Dispose();
    }

    private static async Task StartTlsAsync(Stream plain, CancellationToken stop)
    {
        await plain.WriteAsync(StartTls, stop);
        var answer = new byte[2];
        await plain.ReadExactlyAsync(answer, stop);
        // An answer is one short message; a long form of its length would be one of more than 127 bytes.
        if (answer[0] != 0x30)
            throw new IOException("It does not speak LDAP.");
        var length = (int)answer[1];
        if (length > 0x80)
        {
            var more = new byte[length & 0x7f];
            await plain.ReadExactlyAsync(more, stop);
            length = more.Length > 2 ? int.MaxValue : more.Aggregate(0, (sum, one) => sum << 8 | one);
        }
        if (length is 0 or > 4096)
            throw new IOException("It does not speak LDAP.");
        var body = new byte[length];
        await plain.ReadExactlyAsync(body, stop);
        // Message id 1, an extended response (0x78), and first in it the result: success.
        var result = body.AsSpan().IndexOf((ReadOnlySpan<byte>)[0x0a, 0x01]);
        if (
            body is not [0x02, 0x01, 0x01, 0x78, ..]
            || result < 0
            || body.Length <= result + 2
            || body[result + 2] != 0
        )
            throw new IOException("It does not offer StartTLS.");
    }

    private async Task WorkAsync()
    {
        try
        {
            using var here = await LetInAsync();
            await using var stream = new NetworkStream(here);
            using var either = CancellationTokenSource.CreateLinkedTokenSource(_over.Token);
            either.CancelAfter(_patience);
            await Task.WhenAny(PumpAsync(stream, _there, either), PumpAsync(_there, stream, either));
            await either.CancelAsync();
        }
        catch (Exception fault) when (fault is IOException or SocketException or OperationCanceledException)
        {
            // Whoever talks through it finds it closed, and says so.
        }
    }

    private async Task<Socket> LetInAsync()
    {
        while (true)
        {
            var came = await _door.AcceptAsync(_over.Token);
            if (OwnSockets.HasBothEndsOf(came))
                return came;
            came.Dispose();
        }
    }

    private async Task PumpAsync(Stream from, Stream to, CancellationTokenSource limit)
    {
        var buffer = new byte[Chunk];
        try
        {
            while (true)
            {
                var count = await from.ReadAsync(buffer, limit.Token);
                if (count == 0)
                    return;
                limit.CancelAfter(_patience);
                await to.WriteAsync(buffer.AsMemory(0, count), limit.Token);
            }
        }
        catch (Exception fault)
            when (fault is IOException or OperationCanceledException or ObjectDisposedException)
        {
            // The other direction ends with this one.
        }
    }
}
