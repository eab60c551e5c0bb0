using System.Buffers.Binary;
using System.Runtime.InteropServices;

namespace ComeAboard.Storage;

/// <summary>The file of a database was deleted or replaced while it was in use: what is written goes nowhere.</summary>
public sealed class MovedDatabaseException(string path)
    : Exception($"The database file {path} was deleted or replaced.");

/// <summary>Sees to it that the file at a path stays the one that was opened first.</summary>
internal sealed partial class FilePlace(string path)
{
    private const int Here = -100; // AT_FDCWD
    private const uint InodeOnly = 0x100; // STATX_INO
    private const int InodeAt = 32;
    private const int DeviceAt = 136;

    private (ulong Device, ulong Inode)? _first;

    /// <summary>Nothing when the file is the one it was.</summary>
    /// <exception cref="MovedDatabaseException">It is not.</exception>
    public void Require()
    {
        var now = Read();
        if (_first is null)
            _first = now;
        else if (now != _first)
            throw new MovedDatabaseException(path);
    }

    // The inode of a file that is still open somewhere is not given to another. The layout is the same on every
    // architecture (statx(2)).
    private (ulong Device, ulong Inode)? Read()
    {
        var state = new byte[256];
        return StatX(Here, path, 0, InodeOnly, state) != 0
            ? null
            : (
                BinaryPrimitives.ReadUInt64LittleEndian(state.AsSpan(DeviceAt)),
                BinaryPrimitives.ReadUInt64LittleEndian(state.AsSpan(InodeAt))
            );
    }

    [LibraryImport("libc", EntryPoint = "statx", StringMarshalling = StringMarshalling.Utf8)]
    private static partial int StatX(int directory, string path, int flags, uint mask, [Out] byte[] state);
}
