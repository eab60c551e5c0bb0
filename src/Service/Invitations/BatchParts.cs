using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// What was handed in for a batch, read part by part as it is kept: one part at a time is in memory, however large the file is.
/// </summary>
public sealed class BatchParts(Database database, Guid workspace, Guid batch) : OneWayStream
{
    // So small that what is read is thrown away with everything else that lasts a moment.
    private const int LargestPart = 64 * 1024;

    // What is saved together; as much is in memory at once.
    private const int SavedAtOnce = 32;

    private ReadOnlyMemory<byte> _part;
    private int _next;

    /// <summary>Keeps what was handed in for a batch.</summary>
    /// <param name="write">The change it belongs to.</param>
    /// <param name="batch">The batch.</param>
    /// <param name="csv">What was handed in, as CSV in UTF-8.</param>
    public static async Task KeepAsync(WorkspaceWrite write, Guid batch, Stream csv)
    {
        var part = new byte[LargestPart];
        for (var number = 0; ; number++)
        {
            var read = await csv.ReadAtLeastAsync(part, part.Length, throwOnEndOfStream: false);
            if (read == 0)
                return;
            write.Insert(
                new BatchPartRow
                {
                    WorkspaceId = write.Workspace.Id,
                    BatchId = batch,
                    Number = number,
                    Csv = part[..read],
                }
            );
            if (number % SavedAtOnce == SavedAtOnce - 1)
                await write.SaveAsync();
        }
    }

    /// <inheritdoc/>
    public override async ValueTask<int> ReadAsync(
        Memory<byte> buffer,
        CancellationToken cancellationToken = default
    )
    {
        if (_part.IsEmpty && !await GoOnAsync(cancellationToken))
            return 0;
        var given = _part[..Math.Min(_part.Length, buffer.Length)];
        given.CopyTo(buffer);
        _part = _part[given.Length..];
        return given.Length;
    }

    /// <inheritdoc/>
    public override Task<int> ReadAsync(
        byte[] buffer,
        int offset,
        int count,
        CancellationToken cancellationToken
    ) => ReadAsync(buffer.AsMemory(offset, count), cancellationToken).AsTask();

    /// <inheritdoc/>
    public override int Read(Span<byte> buffer) =>
        throw new NotSupportedException("A database is not waited for.");

    private async Task<bool> GoOnAsync(CancellationToken stop)
    {
        await using var rows = database.Open(workspace);
        var part = await rows
            .BatchParts.AsNoTracking()
            .FirstOrDefaultAsync(p => p.BatchId == batch && p.Number == _next, stop);
        _next++;
        _part = part?.Csv;
        return part is not null;
    }
}
