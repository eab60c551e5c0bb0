using ComeAboard.Client.Connections;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>
/// What connected systems really hold, beside what they ought to: each is read whole every day, and whenever somebody asks. What
/// was changed over there is put right through its lane; what nobody of ours put there is listed, and left until somebody says
/// what is to become of it. A system that is not read to its end tells nothing.
/// </summary>
public sealed class Sweeps(
    Database database,
    WorkspaceWriter writer,
    Sources sources,
    Targets targets,
    LaneBell lanes,
    TimeProvider clock
)
{
    /// <summary>How often each system is read whole.</summary>
    public static readonly TimeSpan Every = TimeSpan.FromDays(1);

    private const int MostLeftOver = 5_000;
    private const int AtOnce = 20;
    private static readonly TimeSpan Again = TimeSpan.FromHours(1);

    /// <summary>For a system that is only told.</summary>
    public static Refusal NotAsked { get; } =
        new(
            "connection.not-asked",
            "It is only told what is to be, and cannot be asked what is.",
            "Look at what it was told: aboard connections deliveries NAME",
            RefusalSort.Conflict
        );

    /// <summary>Reads a system whole, has put right what is otherwise there, and lists what nobody ought to have.</summary>
    public async Task<Outcome<SweepView>> RunAsync(Visitor visitor, string connection, CancellationToken stop)
    {
        ConnectionRow? row;
        await using (var rows = database.Open(visitor.WorkspaceId))
            row = await Connections.FindAsync(rows, connection);
        if (row is null)
            return Connections.NotFound;
        return await RunAsync(row, visitor.Caller, stop);
    }

    /// <summary>Reads those systems whose time has come; how many.</summary>
    public async Task<int> CatchUpAsync(CancellationToken stop)
    {
        var now = clock.Now();
        List<LaneRow> due;
        await using (var rows = database.Open())
            due = await rows
                .Lanes.IgnoreQueryFilters()
                .AsNoTracking()
                .Where(l => l.SweepAt <= now)
                .OrderBy(l => l.SweepAt)
                .Take(AtOnce)
                .ToListAsync(stop);
        // One that does not answer keeps none of the others waiting.
        await Task.WhenAll(due.Select(lane => SweepAsync(lane, stop)));
        return due.Count;
    }

    private async Task SweepAsync(LaneRow lane, CancellationToken stop)
    {
        // Whoever takes the time that was set has the sweep; a process that dies over it leaves it to the next.
        var taken = await writer.WriteAsync<bool>(
            lane.WorkspaceId,
            Caller.Clock,
            async write =>
            {
                var row = await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == lane.Id);
                if (row is null || row.SweepAt != lane.SweepAt)
                    return false;
                row.SweepAt = write.Now + Again;
                return true;
            }
        );
        if (!taken.Value)
            return;
        ConnectionRow? connection;
        await using (var rows = database.Open(lane.WorkspaceId))
            connection = await rows
                .Connections.AsNoTracking()
                .FirstOrDefaultAsync(c => c.Id == lane.Id, stop);
        if (connection is not null)
            _ = await RunAsync(connection, Caller.Clock, stop);
    }

    private async Task<Outcome<SweepView>> RunAsync(
        ConnectionRow connection,
        Caller caller,
        CancellationToken stop
    )
    {
        if (targets.Find(connection.Type) is not { } target)
            return Mappings.NoTarget;
        if (target.IsOnlyTold)
            return NotAsked;
        IReadOnlyList<AccountThereRow> before;
        IReadOnlyList<MappingLine> mapping;
        await using (var rows = database.Open(connection.WorkspaceId))
        {
            before = await rows
                .AccountsThere.AsNoTracking()
                .Where(a => a.ConnectionId == connection.Id)
                .ToListAsync(stop);
            mapping = await Carrier.MappingOf(rows, connection.Id);
        }
        IReadOnlyList<HeldThere> held;
        IReadOnlyList<string> missing;
        try
        {
            await using var session = await target.OpenAsync(
                sources.AccessOf(connection),
                KnownAccounts.Managed(mapping, before),
                stop
            );
            held = await session.AllAsync(stop);
            missing = await session.MissingAsync(stop);
        }
        catch (TargetException no)
        {
            await NoteAsync(connection, no.Message);
            return CarryingOut.RefusalOf(no);
        }
        var taken = await writer.WriteAsync<SweepView>(
            connection.WorkspaceId,
            caller,
            write => TakeAsync(write, connection, before, held, missing)
        );
        lanes.Ring();
        return taken;
    }

    private Task NoteAsync(ConnectionRow connection, string answer) =>
        writer.WriteAsync<bool>(
            connection.WorkspaceId,
            Caller.Clock,
            async write =>
            {
                if (await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == connection.Id) is { } lane)
                    (lane.SweepAnswer, lane.SweepAt) = (answer, write.Now + Again);
                return true;
            }
        );

    /// <summary>Takes over what was read.</summary>
    private static async Task<Outcome<SweepView>> TakeAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        IReadOnlyList<AccountThereRow> before,
        IReadOnlyList<HeldThere> held,
        IReadOnlyList<string> missing
    )
    {
        var (world, mapping) = (await write.WorldAsync(), await Carrier.MappingOf(write.Rows, connection.Id));
        var accounts = await write
            .Rows.AccountsThere.Where(a => a.ConnectionId == connection.Id)
            .ToListAsync();
        var survey = Survey.Of(
            KnownAccounts.Of(world, mapping, accounts, write.Today, write.Workspace.Zone),
            held,
            KnownAccounts.Managed(mapping, accounts)
        );
        // Where something was carried out while it was read, what was read is of before, and tells nothing. Nor is that
        // otherwise which is to be from this moment on, and was told to nobody as yet.
        var (was, now) = (before.ToDictionary(a => a.MemberId), accounts.ToDictionary(a => a.MemberId));
        var moved = accounts
            .Where(a => !was.TryGetValue(a.MemberId, out var seen) || HasMoved(seen, a))
            .Select(a => a.MemberId)
            .ToHashSet();
        moved.UnionWith(
            survey
                .Changes.Where(change =>
                    !now.TryGetValue(change.Known.Member, out var account)
                    || !Carrier.IsWrittenDown(account, change.Known.Wanted, world)
                )
                .Select(change => change.Known.Member)
        );
        var keys = before.Where(a => moved.Contains(a.MemberId)).Select(a => a.TheirKey).ToHashSet();
        survey = new Survey(
            [.. survey.Changes.Where(change => !moved.Contains(change.Known.Member))],
            [.. survey.LeftOver.Where(one => !keys.Contains(one.Key))]
        );
        foreach (var change in survey.Changes)
            if (now[change.Known.Member] is { State: not ThereState.Due } account)
                PutRight(write, connection, account, change);
        var leftOver = await ListAsync(write, connection, survey.LeftOver);
        if (await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == connection.Id) is { } lane)
        {
            (lane.SweptAt, lane.SweepAnswer, lane.SweepAt) = (write.Now, "", write.Now + Every);
            if (accounts.Any(account => account.DueAt != null))
                lane.State = LaneState.Working;
        }
        write.Record(
            "connection.swept",
            connection.Id,
            ("name", connection.Name),
            ("accounts there", held.Count),
            ("otherwise", survey.Changes.Count),
            ("left over", survey.LeftOver.Count)
        );
        return new SweepView(
            connection.Name,
            write.Now,
            held.Count,
            CarryingOut.ChangesOf(survey),
            survey.Changes.Count,
            leftOver,
            survey.LeftOver.Count,
            missing
        );
    }

    private static bool HasMoved(AccountThereRow before, AccountThereRow now) =>
        (before.Version, before.ConfirmedAt, before.TheirKey) != (now.Version, now.ConfirmedAt, now.TheirKey);

    /// <summary>Has an account carried out again that was confirmed, and is otherwise now.</summary>
    private static void PutRight(
        WorkspaceWrite write,
        ConnectionRow connection,
        AccountThereRow account,
        SurveyedChange change
    )
    {
        var found = string.Join(", ", change.Steps.Select(step => step.Said()));
        (account.Held, account.HeldGroups) = (
            ThereDifference.StateOf(change.Held),
            Carrier.TextOf(change.Held?.Groups ?? [])
        );
        (account.TheirKey, account.IsOurs) = (change.Held?.Key ?? "", change.IsOurs);
        Carrier.Due(account, Carrier.WantedOf(account), write.Now);
        account.Answer = $"Found otherwise there: to be {found}.";
        write.Record(
            "account.otherwise",
            account.MemberId,
            ("name", account.Name),
            ("address", account.Address),
            ("in", connection.Name),
            ("to be", found)
        );
    }

    private static async Task<IReadOnlyList<LeftOverView>> ListAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        IReadOnlyList<HeldThere> leftOver
    )
    {
        var listed = await write
            .Rows.LeftOvers.Where(l => l.ConnectionId == connection.Id)
            .ToDictionaryAsync(l => l.TheirKey, StringComparer.Ordinal);
        var rows = new List<LeftOverRow>();
        foreach (
            var one in leftOver.Where(one => one.Key.Length <= LeftOverRow.LongestKey).Take(MostLeftOver)
        )
        {
            if (!listed.Remove(one.Key, out var row))
            {
                row = new LeftOverRow
                {
                    WorkspaceId = write.Workspace.Id,
                    ConnectionId = connection.Id,
                    TheirKey = one.Key,
                    SignInName = "",
                    Name = "",
                    FoundAt = write.Now,
                };
                write.Rows.LeftOvers.Add(row);
            }
            (row.SignInName, row.Name) = (one.SignInName, one.Name);
            rows.Add(row);
        }
        write.Rows.LeftOvers.RemoveRange(listed.Values);
        return
        [
            .. rows.OrderBy(row => row.SignInName, StringComparer.OrdinalIgnoreCase)
                .Select(row => LeftOvers.ViewOf(row, write.Today)),
        ];
    }
}

/// <summary>Reads connected systems whole when it is time.</summary>
public sealed class Sweeper(Sweeps sweeps, FirstAnswer first, TimeProvider clock, ILogger<Sweeper> log)
    : BackgroundWork(first)
{
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(5);

    /// <inheritdoc/>
    protected override async Task GoOnAsync(CancellationToken stoppingToken)
    {
        using var timer = new PeriodicTimer(Pause, clock);
        do
        {
            try
            {
                await sweeps.CatchUpAsync(stoppingToken);
            }
            catch (OperationCanceledException) when (stoppingToken.IsCancellationRequested)
            {
                return;
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "A sweep came to nothing; it is tried again");
            }
        } while (await timer.WaitForNextTickAsync(stoppingToken));
    }
}
