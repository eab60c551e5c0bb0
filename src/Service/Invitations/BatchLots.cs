using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using CsvHelper;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// The lots of a list: read and judged, and sent. Each lot – its entries, invitations, record and mails, and how far the list
/// has come – is one change, so a process killed at any instant leaves a list another goes on with as if nothing had been.
/// </summary>
public sealed class BatchLots(
    Database database,
    WorkspaceWriter writer,
    Consequences consequences,
    AccessWorlds worlds,
    TimeProvider clock
)
{
    private const int LotSize = 1_000;

    // One part of a lot is written while the next is judged.
    private const int PartSize = 250;
    private const string Lost = "What was handed in is no longer there.";

    /// <summary>Does what is left to be done of a list.</summary>
    public async Task RunAsync(BatchRow batch, CancellationToken stop)
    {
        await using var rows = database.Open(batch.WorkspaceId);
        var defaults = JsonSerializer.Deserialize<BatchDefaults>(batch.Defaults, BatchJudge.Json)!;
        var workspace = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == batch.WorkspaceId, stop);
        var world = await worlds.OfAsync(workspace);
        var expected = batch.State == BatchState.Reading ? batch.Total : 0;
        if (
            !(await BatchJudge.PrepareAsync(rows, defaults, world, expected)).Try(
                out var judge,
                out var refusal
            )
        )
        {
            await StopAsync(batch, refusal.Sentence);
            return;
        }
        if (batch.State == BatchState.Reading)
            await ReadAsync(rows, batch, judge, workspace, stop);
        else
            await SendAsync(batch, judge, stop);
    }

    private async Task ReadAsync(
        ComeAboardContext rows,
        BatchRow batch,
        BatchJudge judge,
        WorkspaceRow workspace,
        CancellationToken stop
    )
    {
        var sameFile =
            batch.Digest.Length == 0
                ? []
                : await rows
                    .Batches.Where(b => b.Digest == batch.Digest && b.Id != batch.Id)
                    .Select(b => b.Id)
                    .ToListAsync(stop);
        try
        {
            await ReadAsync(batch, judge, workspace, sameFile, stop);
        }
        catch (CsvFormatException)
        {
            await StopAsync(batch, Lost);
        }
    }

    private async Task ReadAsync(
        BatchRow batch,
        BatchJudge judge,
        WorkspaceRow workspace,
        IReadOnlyList<Guid> sameFile,
        CancellationToken stop
    )
    {
        await using var csv = await BatchSheet.OpenAsync(database, batch.WorkspaceId, batch.Id, stop);
        if (csv is null)
        {
            await StopAsync(batch, Lost);
            return;
        }
        var done = batch.Position;
        var number = 0;
        // While one lot is being written, the next is read already.
        var next = await ReadLotAsync();
        while (next is { } entries)
        {
            stop.ThrowIfCancellationRequested();
            var last = number;
            var isLast = last >= batch.Total;
            var writing = writer.WriteAsync<bool>(
                batch.WorkspaceId,
                CallerOf(batch),
                write => KeepLotAsync(write, batch, judge, entries, sameFile, isLast)
            );
            var reading = ReadLotAsync();
            await Task.WhenAll(writing, reading);
            next = await reading;
            if (!(await writing).Value)
                return;
            batch.Position = last;
        }
        if (number < batch.Total)
            await StopAsync(batch, Lost);

        async Task<IReadOnlyList<ReadEntry>?> ReadLotAsync()
        {
            var read = new List<ReadEntry>(LotSize);
            while (read.Count < LotSize && await csv.NextAsync(stop) is { } cells)
            {
                if (++number <= done)
                    judge.NoteSeen(number, csv.Sheet, cells);
                else
                    read.Add(judge.Read(number, csv.Sheet, cells, workspace, clock.Now()));
            }
            return read.Count > 0 ? read : null;
        }
    }

    /// <summary>Judges and keeps a lot, and sends what can be sent where that was asked; false when another process has the batch.</summary>
    private async Task<Outcome<bool>> KeepLotAsync(
        WorkspaceWrite write,
        BatchRow batch,
        BatchJudge judge,
        IReadOnlyList<ReadEntry> entries,
        IReadOnlyList<Guid> sameFile,
        bool isLast
    )
    {
        if (await OursAsync(write, batch) is not { } row || row.State != BatchState.Reading)
            return false;
        var world = await write.WorldAsync();
        var inviter = await InviterAsync(write, row);
        var known = await KnownAddresses.ReadAsync(
            write.Rows,
            [.. entries.Select(e => e.Offer).OfType<InvitationOffer>()]
        );
        if (row.SendsAtOnce)
            await known.ExpireOverdueAsync(write, consequences);
        var earlier = await BatchJudge.EarlierAsync(write.Rows, sameFile, entries);
        var counts = BatchLists.CountsOf(row);
        foreach (var part in entries.Chunk(PartSize))
        {
            // Seats are reserved in the database, one by one.
            if (part.Any(entry => entry.Offer is { Gives.Pools.Count: > 0 }))
                await KeepPartAsync(part);
            else
                await write.SaveWhileAsync(() => KeepPartAsync(part));
        }
        row.Counts = JsonSerializer.Serialize(counts);
        row.Tries = 0;
        row.Entries += entries.Count;
        row.Position = entries[^1].Number;
        if (isLast)
            await FinishAsync(write, row);
        return true;

        async Task KeepPartAsync(IReadOnlyList<ReadEntry> part)
        {
            foreach (var entry in part)
            {
                var judged = judge.Judge(entry, inviter, world, known, earlier, write.Workspace, write.Now);
                var sends = row.SendsAtOnce && judged.Verdict.CanBeSent();
                Guid? invitation = sends
                    ? await consequences.BeginAsync(write, entry.Offer!, inviter, known, row.Id)
                    : null;
                write.Insert(
                    new BatchEntryRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        BatchId = row.Id,
                        Number = entry.Number,
                        Address = Cut(entry.Offer?.Address.ToString() ?? entry.Wish.Address ?? ""),
                        Wish = sends ? null : JsonSerializer.Serialize(entry.Wish, BatchJudge.Json),
                        Verdict = judged.Verdict,
                        Reason = judged.ReasonText,
                        InvitationId = invitation,
                    }
                );
                var word = sends ? BatchLists.Sent : judged.Verdict.Word();
                counts[word] = counts.GetValueOrDefault(word) + 1;
            }
        }
    }

    private async Task SendAsync(BatchRow batch, BatchJudge judge, CancellationToken stop)
    {
        var goesOn = true;
        while (goesOn)
        {
            stop.ThrowIfCancellationRequested();
            goesOn = (
                await writer.WriteAsync<bool>(
                    batch.WorkspaceId,
                    CallerOf(batch),
                    write => SendLotAsync(write, batch, judge)
                )
            ).Value;
        }
    }

    /// <summary>Sends the next lot of entries that can be; false when none was left, or another process has the batch.</summary>
    private async Task<Outcome<bool>> SendLotAsync(WorkspaceWrite write, BatchRow batch, BatchJudge judge)
    {
        if (await OursAsync(write, batch) is not { } row || row.State != BatchState.Sending)
            return false;
        var after = row.Position;
        var lot = await write
            .Rows.BatchEntries.Where(e =>
                e.BatchId == row.Id
                && e.InvitationId == null
                && e.Number > after
                && (e.Verdict == Verdict.Ready || e.Verdict == Verdict.Personal)
            )
            .OrderBy(e => e.Number)
            .Take(LotSize)
            .ToListAsync();
        if (lot.Count == 0)
        {
            await FinishAsync(write, row);
            return false;
        }
        var world = await write.WorldAsync();
        var inviter = await InviterAsync(write, row);
        var entries = lot.Select(e =>
                judge.Read(
                    e.Number,
                    JsonSerializer.Deserialize<InvitationWish>(e.Wish!, BatchJudge.Json)!,
                    write.Workspace,
                    write.Now
                )
            )
            .ToList();
        var known = await KnownAddresses.ReadAsync(
            write.Rows,
            [.. entries.Select(e => e.Offer).OfType<InvitationOffer>()]
        );
        await known.ExpireOverdueAsync(write, consequences);
        var counts = BatchLists.CountsOf(row);
        foreach (var (kept, entry) in lot.Zip(entries))
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
            counts[kept.Verdict.Word()]--;
            kept.Verdict = judged.Verdict;
            // What was left out in reading is still worth knowing.
            if (judged.Refusal is not null || kept.Reason is null)
                kept.Reason = judged.ReasonText;
            var word = judged.Verdict.Word();
            if (judged.Verdict.CanBeSent())
            {
                kept.InvitationId = await consequences.BeginAsync(
                    write,
                    entry.Offer!,
                    inviter,
                    known,
                    row.Id
                );
                kept.Wish = null;
                word = BatchLists.Sent;
            }
            counts[word] = counts.GetValueOrDefault(word) + 1;
        }
        row.Counts = JsonSerializer.Serialize(counts);
        row.Tries = 0;
        row.Position = lot[^1].Number;
        return true;
    }

    private static async Task FinishAsync(WorkspaceWrite write, BatchRow row)
    {
        row.State = BatchState.Resting;
        row.FinishedAt = write.Now;
        (row.Lease, row.LeasedUntil) = (null, null);
        var sent = BatchLists.CountsOf(row).GetValueOrDefault(BatchLists.Sent);
        write.Record("batch.finished", row.Id, ("name", row.Name), ("entries", row.Entries), ("sent", sent));
        await write.Rows.BatchParts.Where(p => p.BatchId == row.Id).ExecuteDeleteAsync();
    }

    /// <summary>Ends the work on a list that cannot be done.</summary>
    public Task StopAsync(BatchRow batch, string why) =>
        writer.WriteAsync<bool>(
            batch.WorkspaceId,
            CallerOf(batch),
            async write =>
            {
                if (await OursAsync(write, batch) is not { } row)
                    return false;
                (row.State, row.Fault, row.FinishedAt) = (BatchState.Stopped, why, write.Now);
                write.Record("batch.stopped", row.Id, ("name", row.Name), ("why", why));
                return true;
            }
        );

    /// <summary>The batch as it is now, if it is still this process that works on it.</summary>
    private static Task<BatchRow?> OursAsync(WorkspaceWrite write, BatchRow batch) =>
        write.Rows.Batches.FirstOrDefaultAsync(b => b.Id == batch.Id && b.Lease == batch.Lease);

    /// <summary>Whoever handed it in, as they are now: one who may not invite any more sends nothing more.</summary>
    private static Task<MemberRow> InviterAsync(WorkspaceWrite write, BatchRow batch) =>
        write.Rows.Members.AsNoTracking().FirstAsync(m => m.Id == batch.CreatedBy);

    private static Caller CallerOf(BatchRow batch) =>
        Caller.Member(batch.CreatedBy, batch.CreatedByName, "batch");

    private static string Cut(string text) => text.Length > 400 ? text[..400] : text;
}
