using System.Collections.Concurrent;
using ComeAboard.Core;
using ComeAboard.Core.Record;
using ComeAboard.Service.Mail;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// The only door through which a workspace is changed. Changes of one workspace are made one after another under the
/// lock of its row; those that wait at the same time share one transaction and so one wait for the disk.
/// </summary>
/// <remarks>
/// A change may be run twice: when one of a group fails unexpectedly the whole group is rolled back and each is run
/// alone. It must therefore read and add rows and do nothing else.
/// </remarks>
public sealed class WorkspaceWriter(Database database, WriteGate gate, TimeProvider clock, OutboxBell bell)
{
    private const int LargestGroup = 64;

    private readonly ConcurrentDictionary<Guid, Lane> _lanes = new();

    /// <summary>Changes a workspace. A refusal keeps nothing of what the change had added.</summary>
    /// <param name="workspace">Which workspace.</param>
    /// <param name="caller">Who changes it.</param>
    /// <param name="change">Reads, decides and adds rows.</param>
    public async Task<Outcome<T>> WriteAsync<T>(
        Guid workspace,
        Caller caller,
        Func<WorkspaceWrite, Task<Outcome<T>>> change
    )
        where T : notnull
    {
        var waiting = new Waiting<T>(caller, change);
        var lane = _lanes.GetOrAdd(workspace, id => new Lane(id));
        if (lane.Enter(waiting))
            _ = Task.Run(() => DrainAsync(lane));
        return await waiting.Answer;
    }

    private async Task DrainAsync(Lane lane)
    {
        while (lane.Take(LargestGroup) is { Count: > 0 } group)
        {
            try
            {
                using var pass = await gate.EnterAsync();
                await RunAsync(lane.Workspace, group);
            }
            catch (Exception) when (group.Count > 1)
            {
                foreach (var one in group)
                    await RunAloneAsync(lane.Workspace, one);
            }
            catch (Exception fault)
            {
                group[0].Fail(fault);
            }
        }
    }

    private async Task RunAloneAsync(Guid workspace, Waiting one)
    {
        try
        {
            using var pass = await gate.EnterAsync();
            await RunAsync(workspace, [one]);
        }
        catch (Exception fault)
        {
            one.Fail(fault);
        }
    }

    private async Task RunAsync(Guid id, IReadOnlyList<Waiting> group)
    {
        await using var rows = database.Open(id);
        await using var transaction = await rows.Database.BeginTransactionAsync();
        rows.Database.AutoSavepointsEnabled = false;
        var workspace = await LockAsync(rows, id);
        var head = workspace.RecordHead;
        var moves = new Dictionary<Core.Invitations.InvitationState, int>();
        var hasMail = false;
        foreach (var one in group)
        {
            var write = new WorkspaceWrite(rows, workspace, head, one.Caller, clock.Now());
            if (await one.RunAsync(write))
            {
                await rows.SaveChangesAsync();
                head = write.Head;
                hasMail |= write.HasMail;
                foreach (var (state, by) in write.Moves)
                    moves[state] = moves.GetValueOrDefault(state) + by;
            }
            rows.ChangeTracker.Clear();
        }
        await KeepAsync(rows, workspace, head, moves);
        await transaction.CommitAsync();
        foreach (var one in group)
            one.Finish();
        if (hasMail)
            bell.Ring();
    }

    private async Task<WorkspaceRow> LockAsync(ComeAboardContext rows, Guid id)
    {
        var found =
            database.Engine == Engine.Postgres
                ? rows.Workspaces.FromSql($"SELECT * FROM workspaces WHERE id = {id} FOR UPDATE")
                : rows.Workspaces.Where(w => w.Id == id);
        return await found.AsNoTracking().FirstAsync();
    }

    private static async Task KeepAsync(
        ComeAboardContext rows,
        WorkspaceRow workspace,
        RecordHead head,
        Dictionary<Core.Invitations.InvitationState, int> moves
    )
    {
        if (head != workspace.RecordHead)
            await rows
                .Workspaces.Where(w => w.Id == workspace.Id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(w => w.RecordSequence, head.Sequence).SetProperty(w => w.RecordHash, head.Hash)
                );
        foreach (var (state, by) in moves.Where(move => move.Value != 0))
        {
            var word = state.ToString().ToLowerInvariant();
            await rows.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO invitation_counts (workspace_id, state, count) VALUES ({workspace.Id}, {word}, {by})
                ON CONFLICT (workspace_id, state) DO UPDATE SET count = invitation_counts.count + excluded.count
                """
            );
        }
    }

    /// <summary>The changes that wait for one workspace.</summary>
    private sealed class Lane(Guid workspace)
    {
        private readonly Queue<Waiting> _queue = [];
        private bool _isDraining;

        public Guid Workspace => workspace;

        /// <summary>Queues; true when the caller has to start draining.</summary>
        public bool Enter(Waiting waiting)
        {
            lock (_queue)
            {
                _queue.Enqueue(waiting);
                var starts = !_isDraining;
                _isDraining = true;
                return starts;
            }
        }

        /// <summary>The next group; empty once nobody waits, and then draining is over.</summary>
        public List<Waiting> Take(int most)
        {
            lock (_queue)
            {
                var group = new List<Waiting>();
                while (group.Count < most && _queue.TryDequeue(out var next))
                    group.Add(next);
                _isDraining = group.Count > 0;
                return group;
            }
        }
    }

    private abstract class Waiting(Caller caller)
    {
        public Caller Caller => caller;

        /// <summary>Runs the change; true when what it added is to be kept.</summary>
        public abstract Task<bool> RunAsync(WorkspaceWrite write);

        public abstract void Finish();

        public abstract void Fail(Exception fault);
    }

    private sealed class Waiting<T>(Caller caller, Func<WorkspaceWrite, Task<Outcome<T>>> change) : Waiting(caller)
        where T : notnull
    {
        private readonly TaskCompletionSource<Outcome<T>> _answer = new(TaskCreationOptions.RunContinuationsAsynchronously);
        private Outcome<T> _outcome;

        public Task<Outcome<T>> Answer => _answer.Task;

        public override async Task<bool> RunAsync(WorkspaceWrite write)
        {
            _outcome = await change(write);
            return _outcome.Succeeded;
        }

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
