using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Lists of people to invite: handed in, mended, sent.</summary>
public sealed class Batches(
    Database database,
    WorkspaceWriter writer,
    BatchRunner runner,
    MailsByInviter mails,
    TimeProvider clock
)
{
    public static IReadOnlyDictionary<string, (Guid, InvitationState)> NoneEarlier { get; } =
        new Dictionary<string, (Guid, InvitationState)>();

    /// <summary>Most lists of one workspace that are worked on at the same time.</summary>
    public const int MostAtOnce = 8;

    /// <summary>
    /// Keeps a list; it is judged in the background, and sent as well where that is asked. A file that was handed in before
    /// with the same wishes is not kept a second time: its list is gone on with.
    /// </summary>
    /// <param name="visitor">Who hands it in.</param>
    /// <param name="name">What it is called; empty where nobody says.</param>
    /// <param name="format">csv, xlsx, list.</param>
    /// <param name="digest">That of the file; empty for what is none and may come again.</param>
    /// <param name="table">The list.</param>
    /// <param name="defaults">What holds for entries that say nothing else.</param>
    /// <param name="send">Whether it is sent as it is read.</param>
    public async Task<Outcome<BatchView>> AddAsync(
        Visitor visitor,
        string? name,
        string format,
        string digest,
        Table table,
        BatchDefaults defaults,
        bool send
    )
    {
        if (!PlainText.ReadName(name).Try(out var goodName, out var refusal))
            return refusal;
        if (await ForbidsAllAsync(visitor, defaults) is { } wrong)
            return wrong;
        var wishes = JsonSerializer.Serialize(defaults, BatchJudge.Json);
        var known = await BeforeAsync();
        var added = await mails.WithinAsync(visitor, send && known is null ? table.Count : 0, KeepAsync);
        runner.Ring();
        if (!send || !added.Try(out var list, out _) || !list.HandedInBefore || !HasReady(list))
            return added;
        return (await SendAsync(visitor, list.Id)).Try(out var sending, out refusal)
            ? sending with
            {
                HandedInBefore = true,
            }
            : refusal;

        async Task<BatchRow?> BeforeAsync()
        {
            await using var rows = database.Open(visitor.WorkspaceId);
            return await SameAsync(rows);
        }

        async Task<BatchRow?> SameAsync(ComeAboardContext rows) =>
            digest.Length == 0
                ? null
                : (
                    await rows
                        .Batches.AsNoTracking()
                        .Where(b => b.Digest == digest && b.State != BatchState.Stopped)
                        .OrderBy(b => b.Id)
                        .ToListAsync()
                ).Find(b => b.Defaults == wishes);

        Task<Outcome<BatchView>> KeepAsync() =>
            writer.WriteAsync<BatchView>(
                visitor.WorkspaceId,
                visitor.Caller,
                async write =>
                {
                    if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                        return no;
                    if (await SameAsync(write.Rows) is { } before)
                        return BatchLists.ViewOf(before, write.Now) with { HandedInBefore = true };
                    var busy = await write.Rows.Batches.CountAsync(b =>
                        b.State == BatchState.Reading || b.State == BatchState.Sending
                    );
                    if (busy >= MostAtOnce)
                        return new Refusal(
                            "batch.too-many",
                            $"{busy} lists are being worked on already.",
                            "Wait until one is done.",
                            RefusalSort.TooMany
                        );
                    var row = new BatchRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        Id = Guid.CreateVersion7(write.Now),
                        Name = goodName.Length > 0 ? goodName : "pasted list",
                        Format = format,
                        Digest = digest,
                        Encoding = table.Encoding,
                        State = BatchState.Reading,
                        Defaults = wishes,
                        SendsAtOnce = send,
                        Total = table.Count,
                        UnknownColumns = string.Join('\n', table.Sheet.Unknown),
                        CreatedBy = member.Id,
                        CreatedByName = member.Name,
                        CreatedAt = write.Now,
                    };
                    write.Insert(row);
                    await using (var csv = table.Open())
                        await BatchParts.KeepAsync(write, row.Id, csv);
                    write.Record(
                        "batch.added",
                        row.Id,
                        ("name", row.Name),
                        ("format", format),
                        ("rows", table.Count)
                    );
                    return BatchLists.ViewOf(row, write.Now);
                }
            );
    }

    /// <summary>What tells a file from every other one.</summary>
    /// <param name="file">The file at its beginning; it is disposed of.</param>
    public static string DigestOf(Stream file)
    {
        using (file)
            return Convert.ToHexStringLower(SHA256.HashData(file));
    }

    /// <summary>Sends what can be sent of a batch.</summary>
    public async Task<Outcome<BatchView>> SendAsync(Visitor visitor, Guid id)
    {
        int ready;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            if (await rows.Batches.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id) is not { } list)
                return CommonRefusals.NotFound;
            ready = ReadyOf(list);
        }
        var begun = await mails.WithinAsync(visitor, ready, () => BeginAsync(visitor, id));
        runner.Ring();
        return begun;
    }

    private static bool HasReady(BatchView list) =>
        list.State == "resting" && list.Counts["ready"] + list.Counts["personal"] > 0;

    private Task<Outcome<BatchView>> BeginAsync(Visitor visitor, Guid id) =>
        writer.WriteAsync<BatchView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                if (await write.Rows.Batches.FirstOrDefaultAsync(b => b.Id == id) is not { } row)
                    return CommonRefusals.NotFound;
                if (row.State is BatchState.Reading or BatchState.Sending)
                    return Working;
                var ready = ReadyOf(row);
                if (ready == 0)
                    return new Refusal(
                        "batch.nothing-ready",
                        "No entry of this list can be sent.",
                        "Mend some first.",
                        RefusalSort.Conflict
                    );
                (row.State, row.Position, row.Total, row.FinishedAt) = (BatchState.Sending, 0, ready, null);
                (row.StartedAt, row.DoneAtStart, row.Fault) = (null, 0, null);
                // Each entry is judged by what they could give.
                (row.CreatedBy, row.CreatedByName) = (member.Id, member.Name);
                write.Record("batch.sent", row.Id, ("name", row.Name), ("ready", ready));
                return BatchLists.ViewOf(row, write.Now);
            }
        );

    /// <summary>Mends one entry and judges it anew.</summary>
    public async Task<Outcome<BatchEntryView>> MendAsync(
        Visitor visitor,
        Guid id,
        int number,
        MendRequest request,
        bool dryRun = false
    )
    {
        await using var reading = database.Open(visitor.WorkspaceId);
        if (await reading.Batches.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id) is not { } batch)
            return CommonRefusals.NotFound;
        var defaults = JsonSerializer.Deserialize<BatchDefaults>(batch.Defaults, BatchJudge.Json)!;
        if (
            !(await BatchJudge.PrepareAsync(reading, defaults, visitor.World)).Try(
                out var judge,
                out var refusal
            )
        )
            return refusal;
        return await writer.WriteAsync<BatchEntryView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                var row = await write.Rows.Batches.FirstAsync(b => b.Id == id);
                if (row.State is BatchState.Reading or BatchState.Sending)
                    return Working;
                var entry = await write.Rows.BatchEntries.FirstOrDefaultAsync(e =>
                    e.BatchId == id && e.Number == number
                );
                if (entry is null)
                    return CommonRefusals.NotFound;
                if (entry.InvitationId is not null || entry.Wish is null)
                    return new Refusal(
                        "entry.sent",
                        "This entry is sent already.",
                        "Correct the invitation itself.",
                        RefusalSort.Conflict
                    );
                var wish = Mend(
                    JsonSerializer.Deserialize<InvitationWish>(entry.Wish, BatchJudge.Json)!,
                    request
                );
                var read = judge.Read(number, wish, write.Workspace, write.Now);
                if (read.Offer is { } offer && await FirstAsync(write.Rows, id, number, offer) is { } first)
                    read = read with { Fault = Verdicts.Repeated(first) };
                var known = await KnownAddresses.ReadAsync(
                    write.Rows,
                    read.Offer is null ? [] : [read.Offer]
                );
                var judged = judge.Judge(
                    read,
                    member,
                    await write.WorldAsync(),
                    known,
                    NoneEarlier,
                    write.Workspace,
                    write.Now
                );
                var counts = BatchLists.CountsOf(row);
                counts[entry.Verdict.Word()]--;
                counts[judged.Verdict.Word()] = counts.GetValueOrDefault(judged.Verdict.Word()) + 1;
                row.Counts = JsonSerializer.Serialize(counts);
                var address = read.Offer?.Address.ToString() ?? wish.Address ?? "";
                entry.Address = address.Length > 400 ? address[..400] : address;
                entry.Wish = JsonSerializer.Serialize(wish, BatchJudge.Json);
                entry.Verdict = judged.Verdict;
                entry.Reason = judged.ReasonText;
                return BatchLists.ViewOf(
                    number,
                    entry.Address,
                    wish,
                    judged.Verdict,
                    judged.Reason,
                    null,
                    null
                );
            },
            keep: !dryRun
        );
    }

    private static int ReadyOf(BatchRow row)
    {
        var counts = BatchLists.CountsOf(row);
        return counts.GetValueOrDefault("ready") + counts.GetValueOrDefault("personal");
    }

    private static Refusal Working { get; } =
        new(
            "batch.working",
            "This list is being worked on.",
            "Wait until it rests; aboard batches watch shows how far it is.",
            RefusalSort.Conflict
        );

    private async Task<Refusal?> ForbidsAllAsync(Visitor visitor, BatchDefaults defaults)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var prepared = await BatchJudge.PrepareAsync(rows, defaults, visitor.World);
        return prepared.Try(out var judge, out var refusal)
            ? await judge.ForbidsAllAsync(rows, visitor.Workspace, clock.Now())
            : refusal;
    }

    /// <summary>Where an address stands in another entry of the list already.</summary>
    private static async Task<int?> FirstAsync(
        ComeAboardContext rows,
        Guid id,
        int number,
        InvitationOffer offer
    )
    {
        var address = offer.Address.ToString();
        return await rows
            .BatchEntries.Where(e => e.BatchId == id && e.Number != number && e.Address == address)
            .Select(e => (int?)e.Number)
            .FirstOrDefaultAsync();
    }

    private static InvitationWish Mend(InvitationWish wish, MendRequest request) =>
        wish with
        {
            Address = request.Address ?? wish.Address,
            Name = request.Name ?? wish.Name,
            Kind = request.Kind ?? wish.Kind,
            Role = request.Role ?? wish.Role,
            From = request.From ?? wish.From,
            Until = request.Until ?? wish.Until,
            Host = request.Host ?? wish.Host,
            Organisation = request.Organisation ?? wish.Organisation,
            OrganisationAsWritten = request.OrganisationAsWritten || wish.OrganisationAsWritten,
        };
}
