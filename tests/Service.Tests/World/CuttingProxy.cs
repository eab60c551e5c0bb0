using System.Net;
using System.Net.Sockets;
using System.Text;

namespace ComeAboard.Service.Tests.World;

/// <summary>What a way to the database does to it.</summary>
public enum Cut
{
    Nothing,

    /// <summary>The next commit is cut off before it gets there.</summary>
    BeforeCommit,

    /// <summary>The next commit is cut off on the way back: it is in, and nobody hears of it.</summary>
    AfterCommit,
}

/// <summary>A way to a database that passes on what comes, and breaks off where it is told to.</summary>
public sealed class CuttingProxy : IAsyncDisposable
{
    private static readonly byte[] Asked = Encoding.ASCII.GetBytes("COMMIT");
    private static readonly byte[] Answered =
    [
        (byte)'C',
        0,
        0,
        0,
        11,
        .. Encoding.ASCII.GetBytes("COMMIT"),
        0,
    ];

    private readonly TcpListener _listener = new(IPAddress.Loopback, 0);
    private readonly int _to;
    private readonly CancellationTokenSource _stop = new();
    private readonly Task _accepting;
    private int _next;
    private byte[] _what = [];
    private bool _closes;

    private sealed class Conversation
    {
        /// <summary>Whether what is to be cut went this way.</summary>
        public bool IsMeant { get; set; }
    }

    public CuttingProxy(int to)
    {
        _to = to;
        _listener.Start();
        _accepting = AcceptAsync();
    }

    public int Port => ((IPEndPoint)_listener.LocalEndpoint).Port;

    /// <summary>Whether nobody gets through any more.</summary>
    public bool IsClosed { get; set; }

    /// <summary>Whether nothing gets through, and nobody is told.</summary>
    public bool IsFrozen { get; set; }

    /// <summary>What happens to the next commit of something.</summary>
    /// <param name="next">Where it is cut.</param>
    /// <param name="what">A text that is written by it, and by nothing else.</param>
    /// <param name="closes">Whether nobody gets through any more from that moment on.</param>
    public void Arm(Cut next, string what, bool closes = false)
    {
        _what = Encoding.UTF8.GetBytes(what);
        _closes = closes;
        Volatile.Write(ref _next, (int)next);
    }

    public async ValueTask DisposeAsync()
    {
        await _stop.CancelAsync();
        _listener.Dispose();
        await _accepting;
        _stop.Dispose();
    }

    private async Task AcceptAsync()
    {
        try
        {
            while (true)
            {
                var client = await _listener.AcceptTcpClientAsync(_stop.Token);
                _ = ServeAsync(client);
            }
        }
        catch (Exception fault) when (fault is OperationCanceledException or SocketException)
        {
            // It is over.
        }
    }

    private async Task ServeAsync(TcpClient client)
    {
        using var near = client;
        using var far = new TcpClient();
        try
        {
            if (IsClosed)
                return;
            await ThawAsync();
            await far.ConnectAsync(IPAddress.Loopback, _to, _stop.Token);
            (near.NoDelay, far.NoDelay) = (true, true);
            var talk = new Conversation();
            await Task.WhenAny(
                PassAsync(talk, near.GetStream(), far.GetStream(), Cut.BeforeCommit, Asked),
                PassAsync(talk, far.GetStream(), near.GetStream(), Cut.AfterCommit, Answered)
            );
        }
        catch (Exception fault) when (fault is IOException or SocketException or OperationCanceledException)
        {
            // One of the two left.
        }
    }

    private async Task ThawAsync()
    {
        while (IsFrozen)
            await Task.Delay(10, _stop.Token);
    }

    private async Task PassAsync(
        Conversation talk,
        NetworkStream from,
        NetworkStream to,
        Cut cut,
        byte[] sign
    )
    {
        var buffer = new byte[65_536];
        try
        {
            for (int read; (read = await from.ReadAsync(buffer, _stop.Token)) > 0; )
            {
                var part = buffer.AsMemory(0, read);
                talk.IsMeant |= Volatile.Read(ref _next) != (int)Cut.Nothing && part.Span.IndexOf(_what) >= 0;
                if (
                    talk.IsMeant
                    && buffer.AsSpan(0, read).IndexOf(sign) >= 0
                    && Interlocked.CompareExchange(ref _next, (int)Cut.Nothing, (int)cut) == (int)cut
                )
                {
                    IsClosed |= _closes;
                    return;
                }
                if (IsClosed)
                    return;
                await ThawAsync();
                await to.WriteAsync(part, _stop.Token);
            }
        }
        catch (Exception fault) when (fault is IOException or SocketException or OperationCanceledException)
        {
            // One of the two left.
        }
    }
}

/// <summary>A harbour on PostgreSQL whose nodes reach the database by a way that can be cut.</summary>
public sealed class FarHarbour(PostgresCluster cluster) : Harbour(cluster)
{
    public CuttingProxy Way { get; private set; } = null!;

    protected override void Adjust(Dictionary<string, string?> settings)
    {
        var connection = PostgresCluster.Impatient(settings["Database:Connection"]!);
        Way = new CuttingProxy(connection.Port);
        connection.Port = Way.Port;
        settings["Database:Connection"] = connection.ConnectionString;
    }
}
