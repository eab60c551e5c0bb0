using System.Diagnostics;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>
/// Carries out in one connected system what is due there, lot by lot: what closes first. An account is done when it was read
/// back as it is to be, and not before. What became of a lot is one change, so that a process killed at any instant leaves what
/// another does again, to the same end.
/// </summary>
public sealed class LaneWork(
    Database database,
    WorkspaceWriter writer,
    Targets targets,
    Sources sources,
    Confirmations confirmations,
    TimeProvider clock
)
{
    /// <summary>How a lane stands once a lot is written down: another process has it, it was told to wait, or it goes on.</summary>
    private enum Turned
    {
        Lost,
        Held,
        On,
    }

    private const int LotSize = 200;
    private static readonly TimeSpan Turn = TimeSpan.FromSeconds(15);
    private static readonly TimeSpan FirstWait = TimeSpan.FromSeconds(1);
    private static readonly TimeSpan LongestAsked = TimeSpan.FromHours(1);

    /// <summary>Serves a lane for a turn, or until nothing is due.</summary>
    public async Task RunAsync(LaneRow lane, CancellationToken stop)
    {
        var began = Stopwatch.GetTimestamp();
        ConnectionRow? connection;
        HashSet<string> managed;
        TimeZoneInfo zone;
        await using (var rows = database.Open(lane.WorkspaceId))
        {
            connection = await rows
                .Connections.AsNoTracking()
                .FirstOrDefaultAsync(c => c.Id == lane.Id, stop);
            managed = await ManagedAsync(rows, lane.Id, stop);
            zone = (
                await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == lane.WorkspaceId, stop)
            ).Zone;
        }
        if (connection is null || targets.Find(connection.Type) is not { } target)
            return;
        // What became of a lot is written down while the next is carried out: neither waits for the other.
        var settling = Task.FromResult(Turned.On);
        HashSet<Guid> unsettled = [];
        try
        {
            await using var session = await target.OpenAsync(sources.AccessOf(connection), managed, stop);
            while (Stopwatch.GetElapsedTime(began) < Turn)
            {
                var lot = await LotAsync(lane, unsettled, stop);
                if (lot.Count == 0 && unsettled.Count == 0)
                    break;
                var tried =
                    lot.Count == 0
                        ? []
                        : session switch
                        {
                            IAskedSession asked => await new Push(asked, managed, zone, lot).RunAsync(stop),
                            ITellingSession told => await new Telling(told, zone, lot).RunAsync(stop),
                            _ => throw new InvalidOperationException("A system is asked or told."),
                        };
                var turned = await settling;
                if (turned == Turned.Lost)
                    return;
                unsettled = [.. lot.Select(account => account.MemberId)];
                if (lot.Count == 0)
                    continue;
                settling = SettleAsync(lane, connection, tried, null);
                if (tried.Any(one => one.No is { Trouble: not Trouble.ThisOne }))
                    return;
                // Whoever has told it to wait waits for no more than what is under way.
                if (turned == Turned.Held)
                    break;
            }
            if (await settling != Turned.Lost)
                await SettleAsync(lane, connection, [], null);
        }
        catch (TargetException no)
        {
            if (await settling != Turned.Lost)
                await SettleAsync(lane, connection, [], no);
        }
        finally
        {
            await settling;
        }
    }

    /// <summary>Has a lane wait that could not be served for a reason of our own.</summary>
    public async Task WaitAsync(LaneRow lane, string why)
    {
        await using var rows = database.Open(lane.WorkspaceId);
        if (await rows.Connections.AsNoTracking().FirstOrDefaultAsync(c => c.Id == lane.Id) is { } connection)
            await SettleAsync(lane, connection, [], new TargetException(Trouble.Away, why));
    }

    /// <summary>The groups there that are ours to give and take: those of the mapping, and those we put somebody into before.</summary>
    public static async Task<HashSet<string>> ManagedAsync(
        ComeAboardContext rows,
        Guid connection,
        CancellationToken stop
    )
    {
        var groups = (await Carrier.MappingOf(rows, connection))
            .Select(line => line.GroupThere)
            .Where(name => name.Length > 0)
            .ToHashSet(StringComparer.Ordinal);
        foreach (
            var kept in await rows
                .AccountsThere.Where(a =>
                    a.ConnectionId == connection && a.DueAt != null && a.HeldGroups != ""
                )
                .Select(a => a.HeldGroups)
                .Distinct()
                .ToListAsync(stop)
        )
            groups.UnionWith(Carrier.SetOf(kept));
        return groups;
    }

    /// <summary>What is due next, but for those that are being written down.</summary>
    private async Task<IReadOnlyList<AccountThereRow>> LotAsync(
        LaneRow lane,
        HashSet<Guid> unsettled,
        CancellationToken stop
    )
    {
        var now = clock.Now();
        await using var rows = database.Open(lane.WorkspaceId);
        return await rows
            .AccountsThere.AsNoTracking()
            .Where(a => a.ConnectionId == lane.Id && a.DueAt <= now && !unsettled.Contains(a.MemberId))
            .OrderBy(a => a.Urgency)
            .ThenBy(a => a.DueAt)
            .Take(LotSize)
            .ToListAsync(stop);
    }

    /// <summary>Writes down what became of a lot.</summary>
    private async Task<Turned> SettleAsync(
        LaneRow lane,
        ConnectionRow connection,
        IReadOnlyList<Tried> tried,
        TargetException? trouble
    ) =>
        (
            await writer.WriteAsync<Turned>(
                lane.WorkspaceId,
                Caller.Clock,
                write => SettleAsync(write, lane, connection, tried, trouble)
            )
        ).Value;

    private async Task<Outcome<Turned>> SettleAsync(
        WorkspaceWrite write,
        LaneRow lane,
        ConnectionRow connection,
        IReadOnlyList<Tried> tried,
        TargetException? trouble
    )
    {
        var looksAgain = targets.Find(connection.Type)?.LooksAgainAfter;
        var row = await write.Rows.Lanes.FirstOrDefaultAsync(l => l.Id == lane.Id && l.Lease == lane.Lease);
        if (row is null)
            return Turned.Lost;
        var ids = tried.Select(one => one.Member).ToList();
        var accounts = await write
            .Rows.AccountsThere.Where(a => a.ConnectionId == lane.Id && ids.Contains(a.MemberId))
            .ToDictionaryAsync(a => a.MemberId);
        var confirmed = new List<AccountThereRow>();
        foreach (var one in tried)
            if (accounts.TryGetValue(one.Member, out var account) && Take(write, connection, account, one))
                confirmed.Add(account);
        trouble ??= tried.Select(one => one.No).FirstOrDefault(no => no is { Trouble: not Trouble.ThisOne });
        Note(row, trouble, confirmed.Count > 0, write.Now);
        // What was closed may not be closed for good as yet.
        if (
            looksAgain is { } after
            && confirmed.Any(account => account.Wanted != AccountThere.On)
            && !(row.SweepAt <= write.Now + after)
        )
            row.SweepAt = write.Now + after;
        await confirmations.TakeAsync(write, confirmed);
        await write.SaveAsync();
        if (tried.Count == 0 || trouble is not null)
            await EndTurnAsync(write, row);
        return row.IsHeld ? Turned.Held : Turned.On;
    }

    /// <summary>Takes over what became of one account; true when it is confirmed now.</summary>
    private static bool Take(
        WorkspaceWrite write,
        ConnectionRow connection,
        AccountThereRow account,
        Tried one
    )
    {
        if (one.Key.Length > 0)
            (account.TheirKey, account.IsOurs) = (one.Key, one.IsOurs);
        if (one.IsRead)
            (account.Held, account.HeldGroups) = (
                ThereDifference.StateOf(one.Held),
                Carrier.TextOf(one.Held?.Groups ?? [])
            );
        if (one.IsTold)
            write.Record(
                "account.told",
                account.MemberId,
                ("name", account.Name),
                ("address", account.Address),
                ("in", connection.Name),
                ("what", $"the account is to be {ThereDifference.StateOf(one.Held).Word()}")
            );
        if (one.Done.Count > 0)
            write.Record(
                "account.carried-out",
                account.MemberId,
                ("name", account.Name),
                ("address", account.Address),
                ("in", connection.Name),
                ("what", string.Join(", ", one.Done.Select(step => step.Said()))),
                ("answer", one.No?.Message)
            );
        // What was carried out for an earlier wish says nothing of the one there is now.
        if (account.Version != one.Version || account.State != ThereState.Due)
            return false;
        if (one.No is { } no)
        {
            if (no.Trouble == Trouble.ThisOne)
                account.DueAt = write.Now + RetryTimes.Wait(account.Tries + 1, FirstWait, Chance(account));
            if (no.Trouble != Trouble.Busy)
                account.Tries++;
            account.Answer = no.Message;
            return false;
        }
        // Done, but not looked at again as yet: the other side went away meanwhile.
        if (!one.IsRead)
            return false;
        (account.State, account.DueAt, account.DueSince) = (
            one.IsTold ? ThereState.Told : ThereState.Confirmed,
            null,
            null
        );
        (account.ConfirmedAt, account.Tries) = (write.Now, 0);
        account.Answer = Said(account, one);
        if (account.Held == AccountThere.Gone)
            (account.TheirKey, account.IsOurs) = ("", false);
        return true;
    }

    private static string Said(AccountThereRow account, Tried one) =>
        account.Held switch
        {
            _ when one.IsTold =>
                $"It took it that the account is to be {account.Wanted.Word()}; whether it is, it cannot be asked.",
            AccountThere.Gone => "Asked again, it has no such account.",
            AccountThere.Off => account.IsOurs || account.Wanted == AccountThere.Off
                ? $"Asked again, {one.Held!.OffSaid}."
                : $"Asked again, {one.Held!.OffSaid}; it was there before us and stays.",
            _ => one.Held is { Groups.Count: > 0 } held
                ? $"Asked again, the account is on, in {string.Join(", ", held.Groups)}."
                : "Asked again, the account is on.",
        };

    private static void Note(LaneRow row, TargetException? trouble, bool isConfirmed, DateTimeOffset now)
    {
        if (isConfirmed)
            row.ConfirmedAt = now;
        if (trouble is null)
        {
            (row.Failures, row.Answer, row.DownSince, row.NotBefore) = (0, "", null, null);
            return;
        }
        row.Answer = trouble.Message;
        if (trouble.Trouble != Trouble.Busy)
            (row.Failures, row.DownSince) = (row.Failures + 1, row.DownSince ?? now);
        var own = RetryTimes.Wait(Math.Max(1, row.Failures), FirstWait, (double)(now.Ticks % 1_000) / 1_000);
        var asked = trouble.Wait is { } wait ? (wait < LongestAsked ? wait : LongestAsked) : TimeSpan.Zero;
        row.NotBefore = now + (asked > own || trouble.Trouble == Trouble.Busy ? asked : own);
    }

    private static double Chance(AccountThereRow account) =>
        (double)(uint)account.MemberId.GetHashCode() / uint.MaxValue;

    /// <summary>Gives the lane back: it rests when nothing is due, and waits until the next try otherwise.</summary>
    private static async Task EndTurnAsync(WorkspaceWrite write, LaneRow row)
    {
        var next = await write
            .Rows.AccountsThere.Where(a => a.ConnectionId == row.Id && a.DueAt != null)
            .MinAsync(a => a.DueAt);
        row.State = next is null ? LaneState.Resting : LaneState.Working;
        if (next > write.Now && !(row.NotBefore > next))
            row.NotBefore = next;
        (row.Lease, row.LeasedUntil, row.Tries) = (null, null, 0);
    }
}
