using System.Net;
using System.Net.NetworkInformation;
using System.Net.Sockets;

namespace ComeAboard.Standins;

/// <summary>Ports on loopback for what is started beside one another.</summary>
public static class Ports
{
    // Below those that Linux gives to connections going out (32768 to 60999, ip(7)): what is free here, no connection takes
    // before it is listened at, or while its server is away.
    private const int First = 20_000;
    private const int End = 30_000;
    private const int Tries = 1_000;

    /// <summary>A port nobody listens at.</summary>
    /// <exception cref="NetworkInformationException">There is none.</exception>
    public static int Free()
    {
        for (var tries = 0; tries < Tries; tries++)
        {
            var port = Random.Shared.Next(First, End);
            if (IsFree(port))
                return port;
        }
        throw new NetworkInformationException((int)SocketError.AddressAlreadyInUse);
    }

    /// <summary>Starts something at the next port, or at any free one where somebody listens there.</summary>
    /// <param name="port">The port before.</param>
    /// <param name="start">Starts it at a port; 0 is any.</param>
    public static async Task<T> AfterAsync<T>(int port, Func<int, Task<T>> start)
    {
        try
        {
            return await start(port + 1);
        }
        catch (IOException)
        {
            return await start(0);
        }
    }

    private static bool IsFree(int port)
    {
        try
        {
            using var probe = new TcpListener(IPAddress.Loopback, port);
            probe.Start();
            return true;
        }
        catch (SocketException)
        {
            return false;
        }
    }
}
