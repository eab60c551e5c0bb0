using System.Diagnostics;
using System.Net;
using System.Net.Sockets;
using ComeAboard.Service.Connections;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>A door on this machine lets in this process and nobody else.</summary>
public sealed class BothEnds
{
    private const int Others = 24;

    [Fact]
    public async Task A_connection_of_our_own_is_known_though_others_have_had_its_port()
    {
        using var door = Listening();
        using var first = await ConnectAsync(door, 0);
        var port = ((IPEndPoint)first.LocalEndPoint!).Port;
        first.Close();
        // They are over, and are listed for a minute still.
        for (var at = 0; at < Others; at++)
        {
            using var elsewhere = Listening();
            using var near = await ConnectAsync(elsewhere, port);
            using var far = await elsewhere.AcceptAsync();
            near.Close();
            Assert.Equal(0, await far.ReceiveAsync(new byte[1]));
        }
        using var last = Listening();
        using var ours = await ConnectAsync(last, port);
        using var came = await last.AcceptAsync();
        Assert.True(OwnSockets.HasBothEndsOf(came));
    }

    [Fact]
    public async Task A_connection_of_another_process_is_not_ours_though_we_have_one_from_the_same_port()
    {
        using var door = Listening();
        var to = ((IPEndPoint)door.LocalEndPoint!).Port;
        using var other = Process.Start(
            new ProcessStartInfo("/bin/bash", ["-c", $"exec 3<>/dev/tcp/127.0.0.1/{to}; read -r -u 3"])
        )!;
        using var came = await door.AcceptAsync();
        using var elsewhere = Listening();
        using var ours = await ConnectAsync(elsewhere, 0);
        using var known = await elsewhere.AcceptAsync();
        Assert.False(OwnSockets.HasBothEndsOf(came));
        Assert.True(OwnSockets.HasBothEndsOf(known));
        came.Close();
        await other.WaitForExitAsync();
    }

    private static Socket Listening()
    {
        var socket = New();
        socket.Bind(new IPEndPoint(IPAddress.Loopback, 0));
        socket.Listen();
        return socket;
    }

    private static async Task<Socket> ConnectAsync(Socket to, int from)
    {
        var socket = New();
        socket.SetSocketOption(SocketOptionLevel.Socket, SocketOptionName.ReuseAddress, true);
        socket.Bind(new IPEndPoint(IPAddress.Loopback, from));
        await socket.ConnectAsync(to.LocalEndPoint!);
        return socket;
    }

    private static Socket New() => new(AddressFamily.InterNetwork, SocketType.Stream, ProtocolType.Tcp);
}
