using System.Linq.Expressions;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>Rung when what connected systems ought to hold may have changed.</summary>
public sealed class CarryBell : Bell;

/// <summary>
/// Works out what connected systems ought to hold, and writes down what is due: after every change of who may do what, at every
/// midnight of the workspace, and whenever a mapping changes. Nobody has to remember to tell it anything.
/// </summary>
public sealed class Carrier(
    Database database,
    WorkspaceWriter writer,
    CarryBell bell,
    LaneBell lanes,
    FirstAnswer first,
    TimeProvider clock,
    ILogger<Carrier> log
) : BackgroundWork(first)
{
    private const int LotSize = 1_000;
    private const int AtOnce = 50;
    private static readonly TimeSpan LookAnyway = TimeSpan.FromMilliseconds(500);

    /// <summary>Does everything there is to work out by now; how many lanes it was.</summary>
    public async Task<int> CatchUpAsync()
    {
        var count = 0;
        List<LaneRow> due;
        do
        {
            var now = clock.Now();
            await using (var rows = database.Open())
                due = await rows
                    .Lanes.IgnoreQueryFilters()
                    .AsNoTracking()
                    .Where(l => l.CompareAt <= now)
                    .OrderBy(l => l.CompareAt)
                    .Take(AtOnce)
                    .ToListAsync();
            foreach (var lane in due)
                await CompareAsync(lane);
            count += due.Count;
        } while (due.Count == AtOnce);
        return count;
    }

    /// <summary>The lines of a connection's mapping.</summary>
    public static async Task<IReadOnlyList<MappingLine>> MappingOf(ComeAboardContext rows, Guid connection) =>
        [
            .. (
                await rows
                    .ConnectionMapping.AsNoTracking()
                    .Where(m => m.ConnectionId == connection)
                    .ToListAsync()
            )
                .OrderBy(m => m.Id)
                .Select(m => m.Line),
        ];

    /// <summary>Has something be so from now on, and tried as soon as it can be.</summary>
    public static void Want(AccountThereRow row, WantedThere wanted, DateTimeOffset now)
    {
        var groups = TextOf(wanted.Groups);
        (row.Wanted, row.WantedGroups, row.Version) = (wanted.Account, groups, row.Version + 1);
        row.WantedLastDay = wanted.LastDay;
        Due(row, wanted, now);
        if (wanted.Account != AccountThere.Gone)
            row.DepartureId = null;
    }

    /// <summary>Has what is wanted of an account carried out, as soon as it can be.</summary>
    public static void Due(AccountThereRow row, WantedThere wanted, DateTimeOffset now)
    {
        row.Urgency =
            wanted.Account == AccountThere.On && SetOf(row.HeldGroups).All(wanted.Groups.Contains) ? 1 : 0;
        if (row.State != ThereState.Due)
            row.DueSince = now;
        row.DueSince ??= now;
        (row.State, row.DueAt, row.Tries, row.Answer) = (ThereState.Due, now, 0, "");
        (row.ByHandName, row.ByHandReason) = ("", "");
        (row.ByHandFile, row.ByHandDigest) = ("", "");
    }

    /// <summary>
    /// Has a system tried at once that was changed: what it was tried in vain with may be mended by that. Whoever tries it just now
    /// does so in vain. In another place no account is known by its key any more: there it may be a stranger's.
    /// </summary>
    public static async Task AfterChangeAsync(WorkspaceWrite write, Guid connection, bool isElsewhere)
    {
        var isDue = await write
            .Rows.AccountsThere.Where(a => a.ConnectionId == connection && a.DueAt != null)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.DueAt, write.Now));
        if (isElsewhere)
            isDue += await write
                .Rows.AccountsThere.Where(a =>
                    a.ConnectionId == connection && (a.Wanted != AccountThere.Gone || a.DueAt != null)
                )
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(a => a.TheirKey, "")
                        .SetProperty(a => a.IsOurs, false)
                        .SetProperty(a => a.State, ThereState.Due)
                        .SetProperty(a => a.DueAt, write.Now)
                        .SetProperty(a => a.DueSince, a => a.DueSince ?? write.Now)
                        .SetProperty(a => a.Version, a => a.Version + 1)
                );
        var state = isDue > 0 ? LaneState.Working : LaneState.Resting;
        await write
            .Rows.Lanes.Where(l => l.Id == connection)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(l => l.NotBefore, (DateTimeOffset?)null)
                    .SetProperty(l => l.Failures, 0)
                    .SetProperty(l => l.Answer, "")
                    .SetProperty(l => l.DownSince, (DateTimeOffset?)null)
                    .SetProperty(l => l.State, state)
                    .SetProperty(l => l.Lease, (Guid?)null)
                    .SetProperty(l => l.LeasedUntil, (DateTimeOffset?)null)
            );
    }

    /// <summary>Groups as they are kept.</summary>
    public static string TextOf(IEnumerable<string> groups) => string.Join('\n', groups);

    /// <summary>Groups as they were kept.</summary>
    public static IReadOnlyList<string> SetOf(string kept) =>
        kept.Split('\n', StringSplitOptions.RemoveEmptyEntries);

    /// <summary>What is wanted, as it was kept.</summary>
    public static WantedThere WantedOf(AccountThereRow row) =>
        new(row.Wanted, WantedThere.Nothing.Groups.Union(SetOf(row.WantedGroups)))
        {
            LastDay = row.WantedLastDay,
        };

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        while (!stoppingToken.IsCancellationRequested)
        {
            try
            {
                await CatchUpAsync();
                await bell.WaitAsync(LookAnyway, stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "What is to be carried out could not be worked out; it is tried again");
                await Task.Delay(LookAnyway, CancellationToken.None);
            }
        }
    }

    private async Task CompareAsync(LaneRow lane)
    {
        var isMore = true;
        while (isMore)
            isMore = (
                await writer.WriteAsync<bool>(
                    lane.WorkspaceId,
                    Caller.Clock,
                    async write => await CompareLotAsync(write, lane.Id)
                )
            ).Value;
        lanes.Ring();
    }

    /// <summary>Writes down the next differences; true while there may be more.</summary>
    private static async Task<bool> CompareLotAsync(WorkspaceWrite write, Guid connection)
    {
        if (await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == connection) is not { } lane)
            return false;
        var (world, mapping) = (await write.WorldAsync(), await MappingOf(write.Rows, connection));
        var changed = await ChangedAsync(write, lane);
        var kept = write.Rows.AccountsThere.AsNoTracking().Where(a => a.ConnectionId == connection);
        if (changed is { Count: <= LotSize })
            kept = kept.Where(a => changed.Contains(a.MemberId));
        var written = await kept.Select(WrittenOf).ToDictionaryAsync(a => a.Member);
        var different = new Dictionary<Guid, WantedThere>();
        foreach (
            var id in changed
                ?? world.People.Keys.Concat(written.Keys.Where(id => !world.People.ContainsKey(id)))
        )
        {
            if (different.Count == LotSize)
                break;
            var wanted = Carrying.Of(world, mapping, id, write.Today);
            var isDifferent = written.TryGetValue(id, out var row)
                ? !IsWanted(row, wanted, world)
                : wanted.Account == AccountThere.On;
            if (isDifferent)
                different[id] = wanted;
        }
        await PutAsync(write, lane, different);
        if (different.Count == LotSize)
            return true;
        lane.CompareAt = Days.Begin(write.Today.AddDays(1), write.Workspace.Zone);
        (lane.ComparedVersion, lane.ComparedOn) = (write.Workspace.AccessVersion, write.Today);
        return false;
    }

    /// <summary>
    /// Those of whom something has changed since a lane was worked out last; null where it may be anybody: with a new day, with a
    /// mapping, with groups and roles, and where it is no longer known.
    /// </summary>
    private static async Task<IReadOnlyList<Guid>?> ChangedAsync(WorkspaceWrite write, LaneRow lane)
    {
        if (
            lane.ComparedOn != write.Today
            || lane.ComparedVersion <= write.Workspace.AccessVersion - WorkspaceTurn.KeptChanges
        )
            return null;
        var changes = await write
            .Rows.AccessChanges.AsNoTracking()
            .Where(c => c.Version > lane.ComparedVersion)
            .Select(c => new { c.Kind, c.SubjectId })
            .Distinct()
            .ToListAsync();
        return changes.All(c => c.Kind is AccessSubjectKind.Member or AccessSubjectKind.Tokens)
            ? [.. changes.Where(c => c.Kind == AccessSubjectKind.Member).Select(c => c.SubjectId)]
            : null;
    }

    /// <summary>What was written down of an account before.</summary>
    private sealed record Written(
        Guid Member,
        AccountThere Wanted,
        string WantedGroups,
        DateOnly? WantedLastDay,
        string Name,
        string Address
    );

    private static readonly Expression<Func<AccountThereRow, Written>> WrittenOf = a => new Written(
        a.MemberId,
        a.Wanted,
        a.WantedGroups,
        a.WantedLastDay,
        a.Name,
        a.Address
    );

    private static readonly Func<AccountThereRow, Written> WrittenIn = WrittenOf.Compile();

    /// <summary>Whether what is wanted of an account is written down already, to be carried out or confirmed.</summary>
    public static bool IsWrittenDown(AccountThereRow row, WantedThere wanted, AccessWorld world) =>
        IsWanted(WrittenIn(row), wanted, world);

    private static bool IsWanted(Written row, WantedThere wanted, AccessWorld world) =>
        row.Wanted == wanted.Account
        && row.WantedGroups == TextOf(wanted.Groups)
        && row.WantedLastDay == wanted.LastDay
        && (
            wanted.Account != AccountThere.On
            || world.People.TryGetValue(row.Member, out var person)
                && person.Name == row.Name
                && IsAddress(row.Address, person.AddressKey)
        );

    private static bool IsAddress(string address, string key) =>
        address.Equals(key, StringComparison.OrdinalIgnoreCase)
        || EmailAddress.Read(address).Try(out var read, out _) && read.Key == key;

    private static async Task PutAsync(
        WorkspaceWrite write,
        LaneRow lane,
        Dictionary<Guid, WantedThere> different
    )
    {
        if (different.Count == 0)
            return;
        var ids = different.Keys.ToList();
        var members = await write.MembersAsync(ids);
        var rows = await write
            .Rows.AccountsThere.Where(a => a.ConnectionId == lane.Id && ids.Contains(a.MemberId))
            .ToDictionaryAsync(a => a.MemberId);
        foreach (var (id, wanted) in different)
        {
            if (!rows.TryGetValue(id, out var row))
            {
                row = new AccountThereRow
                {
                    WorkspaceId = write.Workspace.Id,
                    ConnectionId = lane.Id,
                    MemberId = id,
                    Wanted = wanted.Account,
                    WantedGroups = "",
                    Address = "",
                    Name = "",
                    State = ThereState.Due,
                    Urgency = 1,
                    Version = 0,
                };
                write.Rows.AccountsThere.Add(row);
            }
            if (members.TryGetValue(id, out var member))
                (row.Address, row.Name) = (member.Address, member.Name);
            Want(row, wanted, write.Now);
        }
        lane.State = LaneState.Working;
    }
}
