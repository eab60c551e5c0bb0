using ComeAboard.Storage;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// Lets one writer of this process at a time into SQLite, which takes only one anyway: waiting in line here is short
/// and fair, waiting in its busy loop is neither. On PostgreSQL it lets everybody through.
/// </summary>
public sealed class WriteGate(Database database)
{
    private readonly SemaphoreSlim? _gate = database.Engine == Engine.Sqlite ? new SemaphoreSlim(1, 1) : null;

    /// <summary>Waits in line; dispose what comes back to let the next one in.</summary>
    public async ValueTask<Pass> EnterAsync()
    {
        if (_gate is not null)
            await _gate.WaitAsync();
        return new Pass(_gate);
    }

    /// <summary>Leave to write, until disposed.</summary>
    public readonly struct Pass(SemaphoreSlim? gate) : IDisposable
    {
        public void Dispose() => gate?.Release();
    }
}
