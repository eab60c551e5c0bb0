using System.Collections.Concurrent;
using System.Diagnostics;
using ComeAboard.Storage;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// Lets one writer of this process at a time into SQLite, which takes only one anyway: waiting in line here is short
/// and fair, waiting in its busy loop is neither. On PostgreSQL it lets everybody through, but for those who change a
/// workspace.
/// </summary>
public sealed class WriteGate(Database database)
{
    private readonly SemaphoreSlim? _gate = database.Engine == Engine.Sqlite ? new SemaphoreSlim(1, 1) : null;
    private readonly ConcurrentDictionary<Guid, Line> _lines = new();

    /// <summary>Waits in line; dispose what comes back to let the next one in.</summary>
    public async ValueTask<Pass> EnterAsync()
    {
        if (_gate is not null)
            await _gate.WaitAsync();
        return new Pass(_gate);
    }

    /// <summary>
    /// Waits in line behind those of this process who change one of these workspaces. PostgreSQL lets nobody wait for a lock
    /// for longer than some seconds, and many who come at once would be told that it is busy, however short each of their
    /// turns is: so no more than one of them waits there. Who waits while the database is at fault hears that at once.
    /// </summary>
    /// <param name="workspaces">The workspaces that are changed.</param>
    public async Task<LinePass> LineUpAsync(IEnumerable<Guid> workspaces)
    {
        var asked = Stopwatch.GetTimestamp();
        var entered = new List<Line>();
        try
        {
            if (_gate is null)
                foreach (var id in workspaces.Distinct().Order())
                {
                    var line = _lines.GetOrAdd(id, _ => new Line());
                    await line.EnterAsync(asked);
                    entered.Add(line);
                }
            return new LinePass(await EnterAsync(), entered);
        }
        catch
        {
            foreach (var line in entered)
                line.Leave();
            throw;
        }
    }

    /// <summary>Leave to write, until disposed.</summary>
    public readonly struct Pass(SemaphoreSlim? gate) : IDisposable
    {
        public void Dispose() => gate?.Release();
    }

    /// <summary>Leave to change workspaces, until disposed.</summary>
    public sealed class LinePass : IDisposable
    {
        private readonly Pass _pass;
        private readonly IReadOnlyList<Line> _lines;

        internal LinePass(Pass pass, IReadOnlyList<Line> lines) => (_pass, _lines) = (pass, lines);

        /// <summary>Tells those who wait what was wrong, where that was the database: none would fare better.</summary>
        public void Tell(Exception fault)
        {
            foreach (var line in _lines)
                line.Tell(fault);
        }

        /// <inheritdoc/>
        public void Dispose()
        {
            _pass.Dispose();
            foreach (var line in _lines)
                line.Leave();
        }
    }
}
