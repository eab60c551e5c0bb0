using System.Buffers;
using System.Security.Cryptography;
using System.Text;
using System.Text.Encodings.Web;
using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Record;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Record;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>
/// One change of a workspace while it is being made: nobody else changes the workspace meanwhile. What is added here
/// is kept only together.
/// </summary>
public sealed class WorkspaceWrite(
    ComeAboardContext rows,
    WorkspaceRow workspace,
    RecordHead head,
    Caller caller,
    DateTimeOffset now,
    AccessInWrite access
)
{
    private static readonly JsonWriterOptions Readable = new()
    {
        Encoder = JavaScriptEncoder.UnsafeRelaxedJsonEscaping,
    };

    private readonly Dictionary<Type, List<object>> _new = [];
    private readonly Dictionary<
        (Type Type, string Properties),
        (string[] Properties, HashSet<object> Rows)
    > _rewritten = [];
    private readonly HashSet<Guid> _awake = [];
    private bool _isSaving;

    /// <summary>The workspace's rows.</summary>
    /// <exception cref="InvalidOperationException">What was added is being written at this moment; see <see cref="SaveWhileAsync"/>.</exception>
    public ComeAboardContext Rows =>
        _isSaving
            ? throw new InvalidOperationException("The database is not asked while it is written to.")
            : rows;
    public WorkspaceRow Workspace => workspace;
    public Caller Caller => caller;
    public DateTimeOffset Now => now;
    public DateOnly Today => Days.Of(now, workspace.Zone);

    /// <summary>The end of the record with what this change wrote.</summary>
    public RecordHead Head { get; private set; } = head;

    /// <summary>How the numbers of invitations by state change.</summary>
    public Dictionary<InvitationState, int> Moves { get; } = [];

    /// <summary>Whether it is one of many done together, so that its mails go in turn.</summary>
    public bool IsOneOfMany { get; set; }

    /// <summary>Whether mail waits to be sent once this is kept.</summary>
    public bool HasMail { get; private set; }

    /// <summary>Writes into the record what is being done.</summary>
    /// <param name="action">What: <c>invitation.queued</c>.</param>
    /// <param name="subject">To what.</param>
    /// <param name="details">Names, before and after.</param>
    public void Record(
        string action,
        Guid subject,
        params ReadOnlySpan<(string Name, object? Value)> details
    ) => RecordBy(caller, action, subject, details);

    /// <summary>Writes into the record what is being done for one of several callers whose changes are made together.</summary>
    public void RecordBy(
        Caller by,
        string action,
        Guid subject,
        params ReadOnlySpan<(string Name, object? Value)> details
    )
    {
        var happening = new Happening(
            now,
            by.Actor,
            by.Via,
            action,
            subject.ToString(),
            DetailsOf(by, details)
        );
        var entry = RecordChain.Append(Head, happening, RandomNumberGenerator.GetBytes(16));
        Head = RecordChain.After(entry);
        Insert(RecordRow.Of(workspace.Id, entry));
    }

    internal static string DetailsOf(Caller by, ReadOnlySpan<(string Name, object? Value)> details)
    {
        var buffer = new ArrayBufferWriter<byte>(256);
        using var json = new Utf8JsonWriter(buffer, Readable);
        json.WriteStartObject();
        json.WriteString("by", by.Name);
        foreach (var (name, value) in details)
        {
            if (value is int number)
                json.WriteNumber(name, number);
            else if (value is not null)
                json.WriteString(name, value.ToString());
        }
        json.WriteEndObject();
        json.Flush();
        return Encoding.UTF8.GetString(buffer.WrittenSpan);
    }

    /// <summary>Adds a row that nothing in this change looks at again; such rows go in by the engine's fastest way.</summary>
    public void Insert<T>(T row)
        where T : class
    {
        if (!_new.TryGetValue(typeof(T), out var list))
            _new[typeof(T)] = list = [];
        list.Add(row);
    }

    /// <summary>
    /// Has some properties of a row written that is there already and not tracked; such rows are written by the engine's fastest
    /// way. Nothing that decides about access is written so.
    /// </summary>
    /// <param name="row">The row as it is to be.</param>
    /// <param name="properties">The names of the properties that are written.</param>
    public void Rewrite<T>(T row, params string[] properties)
        where T : class
    {
        var key = (typeof(T), string.Join(',', properties));
        if (!_rewritten.TryGetValue(key, out var kept))
            _rewritten[key] = kept = (properties, []);
        kept.Rows.Add(row);
    }

    /// <summary>Writes to the database what was changed and added so far.</summary>
    public async Task SaveAsync()
    {
        await SaveTrackedAsync();
        await InsertAsync([.. _new]);
        _new.Clear();
        foreach (var ((type, _), (properties, list)) in _rewritten)
            await RowLoader.UpdateAsync(rows, type, [.. list], properties);
        _rewritten.Clear();
        if (_awake.Count == 0)
            return;
        var lanes = _awake.ToList();
        _awake.Clear();
        await rows
            .Lanes.Where(l => lanes.Contains(l.Id) && l.State != LaneState.Working)
            .ExecuteUpdateAsync(set => set.SetProperty(l => l.State, LaneState.Working));
    }

    /// <summary>
    /// Writes to the database what was added so far while the change goes on deciding; what it adds meanwhile is written next time.
    /// It asks nothing of the database meanwhile. Both have ended when this has, however either ended.
    /// </summary>
    public async Task SaveWhileAsync(Func<Task> goOn)
    {
        await SaveTrackedAsync();
        KeyValuePair<Type, List<object>>[] added = [.. _new];
        _new.Clear();
        _isSaving = true;
        try
        {
            await Task.WhenAll(Task.Run(() => InsertAsync(added)), GoOnAsync());
        }
        finally
        {
            _isSaving = false;
        }

        async Task GoOnAsync() => await goOn();
    }

    private async Task SaveTrackedAsync()
    {
        if (Rows.ChangeTracker.HasChanges())
            await Rows.SaveChangesAsync();
    }

    private async Task InsertAsync(IReadOnlyList<KeyValuePair<Type, List<object>>> added)
    {
        foreach (var (type, list) in added)
        {
            if (type.IsAssignableTo(typeof(IAccessRow)))
                rows.Touched.UnionWith(list.Cast<IAccessRow>().Select(row => row.Subject));
            await RowLoader.LoadAsync(rows, type, list);
        }
    }

    /// <summary>Has lanes look at what is due in their systems.</summary>
    public void Wake(IEnumerable<Guid> lanes) => _awake.UnionWith(lanes);

    /// <summary>
    /// Does something that is kept or undone as a whole, whatever becomes of the rest of the change. It may be told no
    /// after it has begun to write: nothing of it stays then, in the database, in what is tracked, or in the record.
    /// Rows that were loaded before are to be loaded again afterwards.
    /// </summary>
    /// <param name="step">What is done; null when it was done, else why not.</param>
    public async Task<Refusal?> AttemptAsync(Func<Task<Refusal?>> step)
    {
        await SaveAsync();
        if (await access.TakeInAsync(Today) is { } before)
            throw new InvalidOperationException(before.Sentence);
        var transaction = rows.Database.CurrentTransaction!;
        await Patience.BoundAsync(rows, stop => transaction.CreateSavepointAsync(Savepoint, stop));
        var (headBefore, mailBefore, accessBefore) = (Head, HasMail, access.Mark());
        var movesBefore = Moves.ToList();
        var no = await step();
        if (no is null)
        {
            await SaveAsync();
            no = await access.TakeInAsync(Today);
        }
        if (no is null)
        {
            rows.ChangeTracker.Clear();
            await Patience.BoundAsync(rows, stop => transaction.ReleaseSavepointAsync(Savepoint, stop));
            return null;
        }
        await Patience.BoundAsync(rows, stop => transaction.RollbackToSavepointAsync(Savepoint, stop));
        await Patience.BoundAsync(rows, stop => transaction.ReleaseSavepointAsync(Savepoint, stop));
        rows.ChangeTracker.Clear();
        _new.Clear();
        _rewritten.Clear();
        _awake.Clear();
        (Head, HasMail) = (headBefore, mailBefore);
        access.Restore(accessBefore);
        Moves.Clear();
        foreach (var (state, by) in movesBefore)
            Moves[state] = by;
        return no;
    }

    private const string Savepoint = "attempt";

    /// <summary>Notes that an invitation left one state (null for a new one) for another.</summary>
    public void Move(InvitationState? from, InvitationState to)
    {
        if (from == to)
            return;
        if (from is { } left)
            Moves[left] = Moves.GetValueOrDefault(left) - 1;
        Moves[to] = Moves.GetValueOrDefault(to) + 1;
    }

    /// <summary>Puts a mail beside the change it announces.</summary>
    public void Queue(DeliveryRow delivery)
    {
        Insert(delivery);
        HasMail = true;
    }

    /// <summary>
    /// The calling member with a duty, as they are at this very moment, or the refusal: rights are looked at again when
    /// they take effect, not only when the request came in.
    /// </summary>
    public async Task<Outcome<MemberRow>> RequireAsync(Duties duty = Duties.None)
    {
        var member = await Rows.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == caller.MemberId);
        if (member is null || !member.IsActive(now, workspace.Zone))
            return EntryRules.Ended;
        var world = await WorldAsync();
        if (EntryRules.Forbids(world, member.Id, Today) is { } cut)
            return cut;
        return world.DutiesOf(member.Id, Today).HasFlag(duty) ? member : DutyWords.Missing(duty);
    }

    /// <summary>Who may do what at this very moment.</summary>
    public async Task<AccessWorld> WorldAsync() =>
        caller is { Bound: { } most, MemberId: { } member }
            ? (await access.WorldAsync()).BoundTo(member, most)
            : await access.WorldAsync();

    /// <summary>Takes what was saved so far into account, for looking at what it changes; refuses with <c>administrator.last</c>.</summary>
    public Task<Refusal?> TakeInAsync() => access.TakeInAsync(Today);

    /// <summary>Some members as they are at this very moment.</summary>
    public async Task<IReadOnlyDictionary<Guid, MemberRow>> MembersAsync(IReadOnlyList<Guid> ids) =>
        await Rows.Members.AsNoTracking().Where(m => ids.Contains(m.Id)).ToDictionaryAsync(m => m.Id);
}
