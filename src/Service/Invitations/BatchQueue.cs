using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;

namespace ComeAboard.Service.Invitations;

/// <summary>Which list is worked on next, and by whom.</summary>
public sealed class BatchQueue(Database database, WriteGate gate, TimeProvider clock)
    : LeasedQueue<BatchRow>(database, gate, clock, "batches", ["reading", "sending"])
{
    /// <inheritdoc/>
    protected override IQueryable<BatchRow> Working(IQueryable<BatchRow> rows) =>
        rows.Where(b => b.State == BatchState.Reading || b.State == BatchState.Sending);
}
