using System.Text.Json;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>
/// Doing what was confirmed, lot by lot: profiles are joined, new people invited or made accounts. Each lot – what became of its
/// records, and how far the connection has come – is one change, so a process killed at any instant leaves a connection
/// another goes on with. Nobody is ended, paused or given less by it.
/// </summary>
public sealed class SourceDoing(
    Database database,
    WorkspaceWriter writer,
    SourceReading reading,
    Consequences consequences,
    AccessWorlds worlds,
    HeldAccounts accounts
)
{
    private const int LotSize = 100;

    /// <summary>Does what is left to be done of a connection.</summary>
    public async Task RunAsync(ConnectionRow connection, CancellationToken stop)
    {
        var defaults = JsonSerializer.Deserialize<BatchDefaults>(connection.Defaults, BatchJudge.Json)!;
        BatchJudge judge;
        await using (var rows = database.Open(connection.WorkspaceId))
        {
            var workspace = await rows
                .Workspaces.AsNoTracking()
                .FirstAsync(w => w.Id == connection.WorkspaceId, stop);
            var world = await worlds.OfAsync(workspace);
            if (!(await BatchJudge.PrepareAsync(rows, defaults, world)).Try(out judge, out var refusal))
            {
                await reading.FailAsync(connection, refusal);
                return;
            }
        }
        var goesOn = true;
        while (goesOn)
        {
            stop.ThrowIfCancellationRequested();
            // Accounts are made before the lot is written down as done, and only those of that lot.
            var (last, made) =
                connection.Newcomers == "add" ? await AddLotAsync(connection, stop) : (int.MaxValue, 0);
            var done = await writer.WriteAsync<bool>(
                connection.WorkspaceId,
                SourceReading.CallerOf(connection),
                write => DoLotAsync(write, connection, judge, last, made)
            );
            if (!done.Try(out goesOn, out var no))
            {
                await reading.FailAsync(connection, no);
                return;
            }
        }
    }

    /// <summary>What is due after some record, in order.</summary>
    private static IQueryable<SourceRecordRow> DueOf(ComeAboardContext rows, ConnectionRow connection)
    {
        var brings = ConnectionViews.Brings(connection);
        return rows
            .SourceRecords.Where(r =>
                r.ConnectionId == connection.Id
                && r.Number > connection.DoneTo
                && r.GoneSince == null
                && r.State != SourceState.Done
                && (
                    r.Decision == SourceDecision.Join
                    || brings && r.Decision == SourceDecision.Bring
                    || r.Decision == null
                        && (r.Verdict == SourceVerdict.Same || brings && r.Verdict == SourceVerdict.New)
                )
            )
            .OrderBy(r => r.Number)
            .Take(LotSize);
    }

    private static bool IsJoin(SourceRecordRow row) =>
        (row.Decision ?? row.Verdict.Suggested()) == SourceDecision.Join;

    /// <summary>Does the next lot, up to some record; false when none was left, or another process has the connection.</summary>
    private async Task<Outcome<bool>> DoLotAsync(
        WorkspaceWrite write,
        ConnectionRow connection,
        BatchJudge judge,
        int last,
        int made
    )
    {
        if (await SourceReading.OursAsync(write, connection) is not { } row)
            return false;
        if (!(await write.RequireAsync(Duties.People)).Try(out var editor, out var no))
            return no;
        write.IsOneOfMany = true;
        var lot = await DueOf(write.Rows, row).Where(r => r.Number <= last).AsNoTracking().ToListAsync();
        if (lot.Count == 0 && last is 0 or int.MaxValue)
        {
            await FinishAsync(write, row);
            return false;
        }
        foreach (var one in lot.Where(IsJoin))
            if (
                await write.AttemptAsync(() =>
                    JoinedProfiles.JoinAsync(write, connection, editor, one.Number)
                ) is
                { } refused
            )
                await RefuseAsync(write, one, refused);
        if (connection.Newcomers != "add")
            await InviteAsync(write, judge, editor, [.. lot.Where(one => !IsJoin(one))]);
        row = await SourceReading.OursAsync(write, connection);
        row!.DoneTo = last == int.MaxValue ? lot[^1].Number : last;
        row.Position = Math.Min(row.Total, row.Position + lot.Count + made);
        row.Tries = 0;
        return true;
    }

    /// <summary>Invites those of a lot who are new, by the way everybody of a list is invited.</summary>
    private async Task InviteAsync(
        WorkspaceWrite write,
        BatchJudge judge,
        MemberRow inviter,
        SourceRecordRow[] lot
    )
    {
        if (lot.Length == 0)
            return;
        var world = await write.WorldAsync();
        var entries = lot.Select(row =>
                judge.Read(row.Number, WishOf(ConnectionViews.RecordOf(row)), write.Workspace, write.Now)
            )
            .ToList();
        var known = await KnownAddresses.ReadAsync(
            write.Rows,
            [.. entries.Select(entry => entry.Offer).OfType<InvitationOffer>()]
        );
        await known.ExpireOverdueAsync(write, consequences);
        foreach (var (row, entry) in lot.Zip(entries))
        {
            var judged = judge.Judge(
                entry,
                inviter,
                world,
                known,
                Batches.NoneEarlier,
                write.Workspace,
                write.Now
            );
            if (judged.Refusal is { } no)
            {
                await RefuseAsync(write, row, no);
                continue;
            }
            var id = await consequences.BeginAsync(write, entry.Offer!, inviter, known);
            await OneOf(write.Rows, row)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(r => r.InvitationId, id)
                        .SetProperty(r => r.State, SourceState.Done)
                        .SetProperty(r => r.Refusal, (string?)null)
                );
        }
    }

    /// <summary>
    /// Makes accounts for those of the next lot who are new; each is a change of its own, since each has an account to be made.
    /// The number of the last record of the lot, 0 where none is left, and how many were made.
    /// </summary>
    private async Task<(int Last, int Made)> AddLotAsync(ConnectionRow connection, CancellationToken stop)
    {
        List<SourceRecordRow> lot;
        await using (var rows = database.Open(connection.WorkspaceId))
        {
            var now = await rows
                .Connections.AsNoTracking()
                .FirstOrDefaultAsync(c => c.Id == connection.Id && c.Lease == connection.Lease, stop);
            if (now is null)
                return (0, 0);
            lot = await DueOf(rows, now).AsNoTracking().ToListAsync(stop);
        }
        var made = 0;
        foreach (var one in lot.Where(one => !IsJoin(one)))
        {
            stop.ThrowIfCancellationRequested();
            var record = ConnectionViews.RecordOf(one);
            var added = await accounts.AddAsync(
                connection.WorkspaceId,
                SourceReading.CallerOf(connection),
                new HeldAccountRequest(record.Address, record.Shown),
                (write, member) => AlongAsync(write, member, connection, one, record)
            );
            if (added.Refusal is not { } no)
                made++;
            else
                await writer.WriteAsync<bool>(
                    connection.WorkspaceId,
                    SourceReading.CallerOf(connection),
                    async write =>
                    {
                        await RefuseAsync(write, one, no);
                        return true;
                    }
                );
        }
        return (lot.Count == 0 ? 0 : lot[^1].Number, made);
    }

    private static async Task<Refusal?> AlongAsync(
        WorkspaceWrite write,
        MemberRow member,
        ConnectionRow connection,
        SourceRecordRow one,
        SourceRecord record
    )
    {
        if (!(await write.RequireAsync(Duties.Claims)).Try(out _, out var no))
            return no;
        if (await SourceReading.OursAsync(write, connection) is null)
            return CommonRefusals.Stale;
        if (
            JoinedProfiles.Put(
                member,
                ConnectionViews.JoinOf(connection).Changes(ConnectionViews.ProfileOf(member), record)
            ) is
            { } wrong
        )
            return wrong;
        await OneOf(write.Rows, one)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(r => r.JoinedId, member.Id)
                    .SetProperty(r => r.State, SourceState.Done)
                    .SetProperty(r => r.Refusal, (string?)null)
            );
        return null;
    }

    private static IQueryable<SourceRecordRow> OneOf(ComeAboardContext rows, SourceRecordRow row) =>
        rows.SourceRecords.Where(r => r.ConnectionId == row.ConnectionId && r.Number == row.Number);

    private static Task<int> RefuseAsync(WorkspaceWrite write, SourceRecordRow row, Refusal why)
    {
        var text = ConnectionViews.TextOf(why);
        return OneOf(write.Rows, row)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(r => r.State, SourceState.Refused).SetProperty(r => r.Refusal, text)
            );
    }

    private static InvitationWish WishOf(SourceRecord record) =>
        new(record.Address, null, Name: record.Name.Length > 0 ? record.Name : null)
        {
            GivenName = record.Name.Length == 0 ? record.GivenName : null,
            FamilyName = record.Name.Length == 0 ? record.FamilyName : null,
            Organisation = record.Organisation.Length > 0 ? record.Organisation : null,
            OrganisationAsWritten = true,
            Title = record.Title,
            Department = record.Department,
            Manager = record.Manager,
            Country = record.Country,
        };

    private static async Task FinishAsync(WorkspaceWrite write, ConnectionRow row)
    {
        row.Fault = null;
        SourceReading.Rest(write, row);
        await ConnectionViews.RecountAsync(write.Rows, row);
        var counts = ConnectionViews.CountsOf(row);
        write.Record(
            "connection.done",
            row.Id,
            ("name", row.Name),
            ("done", counts["done"]),
            ("refused", counts["refused"])
        );
    }
}
