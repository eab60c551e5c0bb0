using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>Which connected system is served next, and by whom.</summary>
public sealed class LaneQueue(Database database, WriteGate gate, TimeProvider clock)
    : LeasedQueue<LaneRow>(database, gate, clock, "lanes", ["working"])
{
    /// <inheritdoc/>
    protected override string IsReady => "AND NOT is_held AND (not_before IS NULL OR not_before <= {1})";

    /// <inheritdoc/>
    protected override IQueryable<LaneRow> Working(IQueryable<LaneRow> rows) =>
        rows.Where(l => l.State == LaneState.Working);
}

/// <summary>Rung when something is due in a connected system.</summary>
public sealed class LaneBell : Bell;

/// <summary>Serves connected systems in the background, each in a lane of its own.</summary>
public sealed class LaneRunner(
    LaneQueue queue,
    LaneWork work,
    LaneBell bell,
    FirstAnswer first,
    ILogger<LaneRunner> log
) : LeasedRunner<LaneRow>(queue, bell, first, log)
{
    // A lane waits most of the time for the other side: a slow one must not delay another.
    /// <inheritdoc/>
    protected override int AtOnce => 16;

    /// <inheritdoc/>
    protected override Task WorkAsync(LaneRow row, CancellationToken stop) => work.RunAsync(row, stop);

    /// <inheritdoc/>
    protected override Task StopAsync(LaneRow row, string why) => work.WaitAsync(row, why);
}
