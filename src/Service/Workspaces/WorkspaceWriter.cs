using System.Collections.Concurrent;
using System.Diagnostics;
using ComeAboard.Core;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Jobs;
using ComeAboard.Storage;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// The only door through which a workspace is changed. Changes of one workspace are made one after another under the
/// lock of its row; those that wait at the same time share one transaction and so one wait for the disk.
/// </summary>
/// <remarks>
/// A change may be run twice: when one of a group fails, or refuses after it has begun to write, the whole group is
/// rolled back and each is run alone. A change must therefore read and add rows and do nothing else. None is run again
/// that may be in already: see <see cref="CommitFate"/>.
/// </remarks>
public sealed class WorkspaceWriter
{
    private const int LargestGroup = 64;

    private readonly Database _database;
    private readonly WriteGate _gate;
    private readonly TimeProvider _clock;
    private readonly OutboxBell _bell;
    private readonly SignOutBell _signOuts;
    private readonly CarryBell _carrying;
    private readonly AccessWorlds _worlds;
    private readonly Gatherer<Waiting> _waiting;
    private readonly ConcurrentDictionary<Guid, LineFault> _faults = new();

    public WorkspaceWriter(
        Database database,
        WriteGate gate,
        TimeProvider clock,
        OutboxBell bell,
        SignOutBell signOuts,
        CarryBell carrying,
        AccessWorlds worlds
    )
    {
        (_database, _gate, _clock, _bell, _signOuts, _carrying, _worlds) = (
            database,
            gate,
            clock,
            bell,
            signOuts,
            carrying,
            worlds
        );
        _waiting = new Gatherer<Waiting>(LargestGroup, RunTogetherAsync);
    }

    /// <summary>Changes a workspace. A refusal keeps nothing of what the change had added.</summary>
    /// <param name="workspace">Which workspace.</param>
    /// <param name="caller">Who changes it.</param>
    /// <param name="change">Reads, decides and adds rows.</param>
    /// <param name="keep">False to try it: everything is decided and done, and then undone; the answer is the real one.</param>
    public Task<Outcome<T>> WriteAsync<T>(
        Guid workspace,
        Caller caller,
        Func<WorkspaceWrite, Task<Outcome<T>>> change,
        bool keep = true
    )
        where T : notnull
    {
        var waiting = new Waiting<T>(caller, change, keep && !caller.Rehearses);
        _waiting.Ask(workspace, waiting);
        return waiting.Answer;
    }

    private async Task RunTogetherAsync(Guid workspace, IReadOnlyList<Waiting> group)
    {
        // Who asked while the database was at fault waited for that answer, too, and does not wait for it again.
        if (
            _faults.TryGetValue(workspace, out var last)
            && last.Since(group.Max(one => one.AskedAt)) is { } known
        )
        {
            foreach (var one in group)
                one.Fail(known);
            return;
        }
        try
        {
            // What is only tried is undone, and must not take anything with it.
            if (group.Count > 1 && group.Any(one => !one.Keep))
            {
                foreach (var part in group.GroupBy(one => one.Keep ? (object)true : one))
                    await RunTogetherAsync(workspace, [.. part]);
                return;
            }
            await RunAsync(workspace, group);
        }
        catch (Exception fault)
            when (group.Count > 1 && group.All(one => one.Keep) && StorageFaults.Explain(fault) is null)
        {
            foreach (var one in group)
                await RunTogetherAsync(workspace, [one]);
        }
        catch (Exception fault)
        {
            // Where the database is at fault, all who wait hear it at once: none would fare better alone.
            if (LineFault.Of(fault) is { } told)
                _faults[workspace] = told;
            foreach (var one in group)
                one.Fail(fault);
        }
    }

    private async Task RunAsync(Guid id, IReadOnlyList<Waiting> group)
    {
        using var pass = await _gate.EnterAsync();
        await using var rows = _database.Open(id);
        await using var transaction = await rows.Database.BeginTransactionAsync();
        rows.Database.AutoSavepointsEnabled = false;
        var turn = await WorkspaceTurn.BeginAsync(_database, _worlds, rows, id);
        var fate = await CommitFate.OfAsync(_database, rows);
        foreach (var one in group)
        {
            rows.HasWritten = false;
            var write = turn.Begin(one.Caller, _clock.Now());
            if (await one.RunAsync(write))
            {
                if (await turn.SaveAsync(write) is { } forbidden)
                {
                    if (group.Count > 1)
                        throw new InvalidOperationException(
                            "A change was refused after it had begun to write."
                        );
                    await transaction.RollbackAsync();
                    one.Refuse(forbidden);
                    one.Finish();
                    return;
                }
                if (!one.Keep)
                {
                    await transaction.RollbackAsync();
                    one.Finish();
                    return;
                }
                turn.Keep(write);
            }
            else if (write.Head != turn.Head || rows.HasWritten || rows.ChangeTracker.HasChanges())
            {
                // Something may be saved already. Alone that is simply not committed; others must not suffer for it.
                if (group.Count > 1)
                    throw new InvalidOperationException("A change was refused after it had begun to write.");
                await transaction.RollbackAsync();
                one.Finish();
                return;
            }
            rows.ChangeTracker.Clear();
        }
        await turn.CloseAsync();
        await fate.CommitAsync(transaction);
        turn.Publish();
        foreach (var one in group)
            one.Finish();
        if (turn.HasMail)
            _bell.Ring();
        if (turn.HasSignOuts)
            _signOuts.Ring();
        if (turn.HasCarrying)
            _carrying.Ring();
    }

    private abstract class Waiting(Caller caller, bool keep)
    {
        public Caller Caller => caller;

        /// <summary>When it was asked for, by a clock that nobody sets.</summary>
        public long AskedAt { get; } = Stopwatch.GetTimestamp();

        /// <summary>Whether it is to be kept, or only tried.</summary>
        public bool Keep => keep;

        /// <summary>Runs the change; true when what it added is to be kept.</summary>
        public abstract Task<bool> RunAsync(WorkspaceWrite write);

        public abstract void Refuse(Refusal refusal);

        public abstract void Finish();

        public abstract void Fail(Exception fault);
    }

    private sealed class Waiting<T>(Caller caller, Func<WorkspaceWrite, Task<Outcome<T>>> change, bool keep)
        : Waiting(caller, keep)
        where T : notnull
    {
        private readonly TaskCompletionSource<Outcome<T>> _answer = new(
            TaskCreationOptions.RunContinuationsAsynchronously
        );
        private Outcome<T> _outcome;

        public Task<Outcome<T>> Answer => _answer.Task;

        public override async Task<bool> RunAsync(WorkspaceWrite write)
        {
            _outcome = await change(write);
            return _outcome.Succeeded;
        }

        public override void Refuse(Refusal refusal) => _outcome = refusal;

        public override void Finish() => _answer.TrySetResult(_outcome);

        public override void Fail(Exception fault) => _answer.TrySetException(fault);
    }
}

/// <summary>The clock, to the millisecond, as it is stored.</summary>
public static class Clocks
{
    public static DateTimeOffset Now(this TimeProvider clock) =>
        DateTimeOffset.FromUnixTimeMilliseconds(clock.GetUtcNow().ToUnixTimeMilliseconds());
}
