using System.Net;
using System.Net.Sockets;

namespace ComeAboard.Service.Connections;

/// <summary>Which sockets are this process's own, as the kernel of Linux tells (proc(5)).</summary>
public static class OwnSockets
{
    // A list that changes while it is read may leave one out: whoever is not found is looked for again.
    private const int Looks = 5;

    /// <summary>Whether the far end of a connection over this machine's loopback (IPv4) is this process's own as well.</summary>
    /// <param name="here">The end that is known.</param>
    public static bool HasBothEndsOf(Socket here)
    {
        // A port alone says little: connections to different places share one.
        var (near, far) = (Written(here.RemoteEndPoint!), Written(here.LocalEndPoint!));
        return Enumerable.Range(0, Looks).Any(_ => Has(near, far));
    }

    private static bool Has(string near, string far)
    {
        var inode = File.ReadLines("/proc/self/net/tcp")
            .Skip(1)
            .Select(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .Where(cells => cells.Length > 9 && cells[1] == near && cells[2] == far)
            .Select(cells => cells[9])
            .FirstOrDefault();
        if (inode is null or "0")
            return false;
        var link = $"socket:[{inode}]";
        return Directory
            .EnumerateFiles("/proc/self/fd")
            .Any(file => string.Equals(TargetOf(file), link, StringComparison.Ordinal));
    }

    /// <summary>An end as it is listed: the address as a number in the order of this machine, and the port.</summary>
    private static string Written(EndPoint end)
    {
        var (address, port) = (((IPEndPoint)end).Address.GetAddressBytes(), ((IPEndPoint)end).Port);
        return $"{BitConverter.ToUInt32(address):X8}:{port:X4}";
    }

    private static string? TargetOf(string file)
    {
        try
        {
            return new FileInfo(file).LinkTarget;
        }
        catch (Exception fault) when (fault is IOException or UnauthorizedAccessException)
        {
            // Closed meanwhile.
            return null;
        }
    }
}
