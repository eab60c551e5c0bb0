using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using Database = ComeAboard.Storage.Database;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// A workspace that is locked within a transaction: changes of it are made one after another, and closed with what they
/// come to together – the end of its record, its counts, who may do what. Both doors pass through here.
/// </summary>
public sealed class WorkspaceTurn
{
    /// <summary>How many versions of who may do what can be followed change by change; whoever was away for longer reads all.</summary>
    public const int KeptChanges = 5000;

    private readonly ComeAboardContext _rows;
    private readonly AccessInWrite _access;
    private readonly Dictionary<InvitationState, int> _moves = [];
    private DateTimeOffset _now;

    private WorkspaceTurn(ComeAboardContext rows, WorkspaceRow workspace, AccessInWrite access)
    {
        (_rows, _access, Workspace) = (rows, access, workspace);
        Head = workspace.RecordHead;
    }

    /// <summary>The workspace as it was when it was locked.</summary>
    public WorkspaceRow Workspace { get; }

    /// <summary>The end of its record, with what was kept so far.</summary>
    public RecordHead Head { get; private set; }

    /// <summary>Whether mail waits to be sent once this is committed.</summary>
    public bool HasMail { get; private set; }

    /// <summary>Whether programs are to be told of sign-outs once this is committed.</summary>
    public bool HasSignOuts { get; private set; }

    /// <summary>Whether what connected systems ought to hold is to be worked out again once this is committed.</summary>
    public bool HasCarrying { get; private set; }

    /// <summary>Locks a workspace.</summary>
    public static async Task<WorkspaceTurn> BeginAsync(
        Database database,
        AccessWorlds worlds,
        ComeAboardContext rows,
        Guid id
    )
    {
        var found =
            database.Engine == Engine.Postgres
                ? rows.Workspaces.FromSql($"SELECT * FROM workspaces WHERE id = {id} FOR UPDATE")
                : rows.Workspaces.Where(w => w.Id == id);
        var workspace = await found.AsNoTracking().FirstAsync();
        return new WorkspaceTurn(rows, workspace, new AccessInWrite(worlds, rows, workspace));
    }

    /// <summary>Begins a change.</summary>
    public WorkspaceWrite Begin(Caller caller, DateTimeOffset now)
    {
        _now = now;
        return new(_rows, Workspace, Head, caller, now, _access);
    }

    /// <summary>Writes what a change has added; refuses with <c>administrator.last</c> when it must not stay.</summary>
    public async Task<Refusal?> SaveAsync(WorkspaceWrite write)
    {
        await write.SaveAsync();
        return await _access.TakeInAsync(write.Today);
    }

    /// <summary>Takes a change that was written into account for those after it.</summary>
    public void Keep(WorkspaceWrite write)
    {
        Head = write.Head;
        HasMail |= write.HasMail;
        foreach (var (state, by) in write.Moves)
            _moves[state] = _moves.GetValueOrDefault(state) + by;
    }

    /// <summary>Writes what the changes come to together; the commit follows.</summary>
    public async Task CloseAsync()
    {
        var id = Workspace.Id;
        if (Head != Workspace.RecordHead)
            await _rows
                .Workspaces.Where(w => w.Id == id)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(w => w.RecordSequence, Head.Sequence)
                        .SetProperty(w => w.RecordHash, Head.Hash)
                );
        foreach (var (state, by) in _moves.Where(move => move.Value != 0))
        {
            var word = state.Word();
            await _rows.Database.ExecuteSqlAsync(
                $"""
                INSERT INTO invitation_counts (workspace_id, state, count) VALUES ({id}, {word}, {by})
                ON CONFLICT (workspace_id, state) DO UPDATE SET count = invitation_counts.count + excluded.count
                """
            );
        }
        await NoteAsync(id);
        if (_access.Changed.Count > 0)
            HasSignOuts = await SignOutNews.EndLostAsync(
                _rows,
                Workspace,
                await _access.WorldAsync(),
                _access.Changed,
                _now
            );
    }

    /// <summary>Puts in force what was committed.</summary>
    public void Publish() => _access.Publish();

    /// <summary>Leaves word for the other processes of what has changed in who may do what.</summary>
    private async Task NoteAsync(Guid id)
    {
        if (_access.Changed.Count == 0)
            return;
        await RowLoader.LoadAsync(
            _rows,
            typeof(AccessChangeRow),
            [
                .. _access.Changed.Select(subject => new AccessChangeRow
                {
                    WorkspaceId = id,
                    Version = _access.NextVersion,
                    Kind = subject.Kind,
                    SubjectId = subject.Id,
                }),
            ]
        );
        if (_rows.Database.IsNpgsql())
            await _rows.Database.ExecuteSqlAsync(
                $"SELECT pg_notify({AccessWorlds.Channel}, {id.ToString()})"
            );
        // Whoever came, or is written down otherwise now, may be here already.
        var arePeople = _access.Changed.Any(subject => subject.Kind == AccessSubjectKind.Member);
        await _rows
            .Workspaces.Where(w => w.Id == id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(w => w.AccessVersion, _access.NextVersion)
                    .SetProperty(w => w.MatchDueAt, w => arePeople ? _now : w.MatchDueAt)
            );
        HasCarrying =
            await _rows.Lanes.ExecuteUpdateAsync(set => set.SetProperty(l => l.CompareAt, _now)) > 0;
        await _rows
            .AccessChanges.Where(c => c.Version <= _access.NextVersion - KeptChanges)
            .ExecuteDeleteAsync();
    }
}
