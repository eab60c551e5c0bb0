using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>Which connection is read, or has done what was confirmed, next, and by whom.</summary>
public sealed class ConnectionQueue(Database database, WriteGate gate, TimeProvider clock)
    : LeasedQueue<ConnectionRow>(database, gate, clock, "connections", ["reading", "doing"])
{
    /// <inheritdoc/>
    protected override IQueryable<ConnectionRow> Working(IQueryable<ConnectionRow> rows) =>
        rows.Where(c => c.State == ConnectionState.Reading || c.State == ConnectionState.Doing);
}

/// <summary>Rung when a connection is to be read, or what was confirmed is to be done.</summary>
public sealed class ConnectionBell : Bell;

/// <summary>Reads connections in the background, and does what was confirmed.</summary>
public sealed class ConnectionRunner(
    ConnectionQueue queue,
    SourceReading reading,
    SourceDoing doing,
    ConnectionBell bell,
    FirstAnswer first,
    ILogger<ConnectionRunner> log
) : LeasedRunner<ConnectionRow>(queue, bell, first, log)
{
    /// <inheritdoc/>
    protected override Task WorkAsync(ConnectionRow row, CancellationToken stop) =>
        row.State == ConnectionState.Reading ? reading.RunAsync(row, stop) : doing.RunAsync(row, stop);

    /// <inheritdoc/>
    protected override Task StopAsync(ConnectionRow row, string why) =>
        reading.FailAsync(row, SourceException.Unreachable(why).Refusal);
}
