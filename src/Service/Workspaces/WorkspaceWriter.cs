using System.Collections.Concurrent;
using System.Diagnostics;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
using ComeAboard.Service.Access;
using ComeAboard.Service.Jobs;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

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
    private readonly AccessWorlds _worlds;
    private readonly Gatherer<Waiting> _waiting;
    private readonly ConcurrentDictionary<Guid, (long At, Exception Fault)> _faults = new();

    public WorkspaceWriter(
        Database database,
        WriteGate gate,
        TimeProvider clock,
        OutboxBell bell,
        AccessWorlds worlds
    )
    {
        (_database, _gate, _clock, _bell, _worlds) = (database, gate, clock, bell, worlds);
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
        if (_faults.TryGetValue(workspace, out var last) && group.All(one => one.AskedAt < last.At))
        {
            foreach (var one in group)
                one.Fail(last.Fault);
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
            if (StorageFaults.Explain(fault) is not null)
                _faults[workspace] = (
                    Stopwatch.GetTimestamp(),
                    // Of those who still wait nothing can be in.
                    fault is UnknownFateException { InnerException: { } away }
                        ? away
                        : fault
                );
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
        var workspace = await LockAsync(rows, id);
        var fate = await CommitFate.OfAsync(_database, rows);
        var head = workspace.RecordHead;
        var moves = new Dictionary<InvitationState, int>();
        var access = new AccessInWrite(_worlds, rows, workspace);
        var hasMail = false;
        foreach (var one in group)
        {
            rows.HasWritten = false;
            var write = new WorkspaceWrite(rows, workspace, head, one.Caller, _clock.Now(), access);
            if (await one.RunAsync(write))
            {
                await write.SaveAsync();
                if (await access.TakeInAsync(write.Today) is { } forbidden)
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
                head = write.Head;
                hasMail |= write.HasMail;
                foreach (var (state, by) in write.Moves)
                    moves[state] = moves.GetValueOrDefault(state) + by;
            }
            else if (write.Head != head || rows.HasWritten || rows.ChangeTracker.HasChanges())
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
        await KeepAsync(rows, workspace, head, moves);
        await NoteAsync(rows, workspace, access);
        await fate.CommitAsync(transaction);
        access.Publish();
        foreach (var one in group)
            one.Finish();
        if (hasMail)
            _bell.Ring();
    }

    private async Task<WorkspaceRow> LockAsync(ComeAboardContext rows, Guid id)
    {
        var found =
            _database.Engine == Engine.Postgres
                ? rows.Workspaces.FromSql($"SELECT * FROM workspaces WHERE id = {id} FOR UPDATE")
                : rows.Workspaces.Where(w => w.Id == id);
        return await found.AsNoTracking().FirstAsync();
    }

    private static async Task KeepAsync(
        ComeAboardContext rows,
        WorkspaceRow workspace,
        RecordHead head,
        Dictionary<InvitationState, int> moves
    )
    {
        if (head != workspace.RecordHead)
            await rows
                .Workspaces.Where(w => w.Id == workspace.Id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(w => w.RecordSequence, head.Sequence)
                        .SetProperty(w => w.RecordHash, head.Hash)
                );
        foreach (var (state, by) in moves.Where(move => move.Value != 0))
        {
            var word = state.Word();
            await rows.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO invitation_counts (workspace_id, state, count) VALUES ({workspace.Id}, {word}, {by})
                ON CONFLICT (workspace_id, state) DO UPDATE SET count = invitation_counts.count + excluded.count
                """
            );
        }
    }

    /// <summary>Leaves word for the other processes of what has changed in who may do what.</summary>
    private static async Task NoteAsync(ComeAboardContext rows, WorkspaceRow workspace, AccessInWrite access)
    {
        if (access.Changed.Count == 0)
            return;
        await RowLoader.LoadAsync(
            rows,
            typeof(AccessChangeRow),
            [
                .. access.Changed.Select(subject => new AccessChangeRow
                {
                    WorkspaceId = workspace.Id,
                    Version = access.NextVersion,
                    Kind = subject.Kind,
                    SubjectId = subject.Id,
                }),
            ]
        );
        await rows
            .Workspaces.Where(w => w.Id == workspace.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(w => w.AccessVersion, access.NextVersion));
        await rows
            .AccessChanges.Where(c => c.Version <= access.NextVersion - KeptChanges)
            .ExecuteDeleteAsync();
    }

    // A process that was away for longer reads everything again.
    private const int KeptChanges = 5000;

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
