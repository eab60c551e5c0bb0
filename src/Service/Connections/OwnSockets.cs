using System.Globalization;

namespace ComeAboard.Service.Connections;

/// <summary>Which sockets are this process's own, as the kernel of Linux tells (proc(5)).</summary>
internal static class OwnSockets
{
    /// <summary>Whether a port of this machine's loopback is the near end of a connection of this process.</summary>
    public static bool Has(int port)
    {
        var end = port.ToString("X4", CultureInfo.InvariantCulture);
        var inode = File.ReadLines("/proc/self/net/tcp")
            .Skip(1)
            .Select(line => line.Split(' ', StringSplitOptions.RemoveEmptyEntries))
            .Where(cells => cells.Length > 9 && cells[1].EndsWith(":" + end, StringComparison.Ordinal))
            .Select(cells => cells[9])
            .FirstOrDefault();
        if (inode is null or "0")
            return false;
        var link = $"socket:[{inode}]";
        return Directory
            .EnumerateFiles("/proc/self/fd")
            .Any(file => string.Equals(TargetOf(file), link, StringComparison.Ordinal));
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
