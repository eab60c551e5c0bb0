using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Lists of people to invite: handed in, judged, mended, sent, and looked at.</summary>
public sealed class Batches(Database database, WorkspaceWriter writer, BatchRunner runner, TimeProvider clock)
{
    /// <summary>The word under which sent entries are counted.</summary>
    public const string Sent = "sent";

    private const int MostShown = 10_000;
    private const int CheckedAtOnce = 1_000;

    public static IReadOnlyDictionary<string, (Guid, InvitationState)> NoneEarlier { get; } =
        new Dictionary<string, (Guid, InvitationState)>();

    /// <summary>Keeps a list; it is judged in the background, and sent as well where that is asked.</summary>
    public async Task<Outcome<BatchView>> AddAsync(
        Visitor visitor,
        string? name,
        string format,
        byte[]? file,
        Table table,
        BatchDefaults defaults,
        bool send
    )
    {
        if (!PlainText.ReadName(name).Try(out var goodName, out var refusal))
            return refusal;
        if (!(await PrepareAsync(visitor, defaults)).Try(out _, out refusal))
            return refusal;
        var added = await writer.WriteAsync<BatchView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                var row = new BatchRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = goodName.Length > 0 ? goodName : "pasted list",
                    Format = format,
                    Digest = file is null ? "" : Convert.ToHexStringLower(SHA256.HashData(file)),
                    State = BatchState.Reading,
                    Defaults = JsonSerializer.Serialize(defaults, BatchJudge.Json),
                    SendsAtOnce = send,
                    Total = table.Count,
                    UnknownColumns = string.Join('\n', table.Sheet.Unknown),
                    CreatedBy = member.Id,
                    CreatedByName = member.Name,
                    CreatedAt = write.Now,
                };
                write.Insert(row);
                write.Insert(
                    new BatchContentRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        BatchId = row.Id,
                        Csv = table.Csv,
                    }
                );
                write.Record(
                    "batch.added",
                    row.Id,
                    ("name", row.Name),
                    ("format", format),
                    ("rows", table.Count)
                );
                return ViewOf(row, write.Now);
            }
        );
        runner.Ring();
        return added;
    }

    /// <summary>Judges a list without keeping or sending anything.</summary>
    public async Task<Outcome<(BatchCheck Check, IReadOnlyList<BatchEntryView> All)>> CheckAsync(
        Visitor visitor,
        byte[]? file,
        Table table,
        BatchDefaults defaults
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (
            !(await BatchJudge.PrepareAsync(rows, defaults, visitor.World)).Try(
                out var judge,
                out var refusal
            )
        )
            return refusal;
        var digest = file is null ? "" : Convert.ToHexStringLower(SHA256.HashData(file));
        var sameFile =
            digest.Length == 0
                ? []
                : await rows.Batches.Where(b => b.Digest == digest).Select(b => b.Id).ToListAsync();
        var (number, now) = (0, clock.Now());
        var counts = new Dictionary<string, int>();
        var all = new List<BatchEntryView>();
        foreach (var lot in table.Rows().Chunk(CheckedAtOnce))
        {
            var entries = lot.Select(cells =>
                    judge.Read(++number, table.Sheet, cells, visitor.Workspace, now)
                )
                .ToList();
            var known = await KnownAddresses.ReadAsync(
                rows,
                [.. entries.Select(e => e.Offering?.Offer).OfType<InvitationOffer>()]
            );
            var earlier = await BatchJudge.EarlierAsync(rows, sameFile, entries);
            foreach (var entry in entries)
            {
                var judged = judge.Judge(
                    entry,
                    visitor.Member,
                    visitor.World,
                    known,
                    earlier,
                    visitor.Workspace,
                    now
                );
                counts[judged.Verdict.Word()] = counts.GetValueOrDefault(judged.Verdict.Word()) + 1;
                all.Add(
                    ViewOf(
                        entry.Number,
                        entry.Offering?.Offer.Address.ToString() ?? entry.Wish.Address ?? "",
                        entry.Wish,
                        judged.Verdict,
                        judged.Reason,
                        null,
                        null
                    )
                );
            }
        }
        var first = all.OrderBy(e => e.Verdict is "ready" or "account").ThenBy(e => e.Number).Take(MostShown);
        return (new BatchCheck(number, WithAll(counts), table.Sheet.Unknown, [.. first]), all);
    }

    /// <summary>Sends what can be sent of a batch.</summary>
    public async Task<Outcome<BatchView>> SendAsync(Visitor visitor, Guid id)
    {
        var begun = await writer.WriteAsync<BatchView>(
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
                var counts = CountsOf(row);
                var ready = counts.GetValueOrDefault("ready") + counts.GetValueOrDefault("account");
                if (ready == 0)
                    return new Refusal(
                        "batch.nothing-ready",
                        "No entry of this list can be sent.",
                        "Mend some first.",
                        RefusalSort.Conflict
                    );
                (row.State, row.Position, row.Total, row.FinishedAt) = (BatchState.Sending, 0, ready, null);
                (row.StartedAt, row.DoneAtStart, row.Fault) = (null, 0, null);
                write.Record("batch.sent", row.Id, ("name", row.Name), ("ready", ready));
                return ViewOf(row, write.Now);
            }
        );
        runner.Ring();
        return begun;
    }

    /// <summary>Mends one entry and judges it anew.</summary>
    public async Task<Outcome<BatchEntryView>> MendAsync(
        Visitor visitor,
        Guid id,
        int number,
        MendRequest request
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
                if (
                    read.Offering is { } offering
                    && await FirstAsync(write.Rows, id, number, offering) is { } first
                )
                    read = read with { Fault = Verdicts.Repeated(first) };
                var known = await KnownAddresses.ReadAsync(
                    write.Rows,
                    read.Offering is null ? [] : [read.Offering.Offer]
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
                var counts = CountsOf(row);
                counts[entry.Verdict.Word()]--;
                counts[judged.Verdict.Word()] = counts.GetValueOrDefault(judged.Verdict.Word()) + 1;
                row.Counts = JsonSerializer.Serialize(counts);
                var address = read.Offering?.Offer.Address.ToString() ?? wish.Address ?? "";
                entry.Address = address.Length > 400 ? address[..400] : address;
                entry.Wish = JsonSerializer.Serialize(wish, BatchJudge.Json);
                entry.Verdict = judged.Verdict;
                entry.Reason = judged.Reason is null
                    ? null
                    : JsonSerializer.Serialize(judged.Reason, BatchJudge.Json);
                return ViewOf(number, entry.Address, wish, judged.Verdict, judged.Reason, null, null);
            }
        );
    }

    /// <summary>One batch.</summary>
    public async Task<BatchView?> FindAsync(Guid workspace, Guid id)
    {
        await using var rows = database.Open(workspace);
        return await rows.Batches.AsNoTracking().FirstOrDefaultAsync(b => b.Id == id) is { } row
            ? ViewOf(row, clock.Now())
            : null;
    }

    /// <summary>A page of batches, newest first.</summary>
    public async Task<Outcome<Page<BatchView>>> ListAsync(Visitor visitor, string? cursor, int? limit)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        IQueryable<BatchRow> all = rows.Batches.AsNoTracking();
        if (cursor is { Length: > 0 })
        {
            if (!Requests.ReadCursor(cursor).Try(out var after, out var refusal))
                return refusal;
            all = all.Where(b => b.Id.CompareTo(after) < 0);
        }
        var size = Requests.PageSize(limit);
        var found = await all.OrderByDescending(b => b.Id).Take(size + 1).ToListAsync();
        return new Page<BatchView>(
            [.. found.Take(size).Select(row => ViewOf(row, clock.Now()))],
            found.Count > size ? found[size - 1].Id.ToString("N") : null
        );
    }

    /// <summary>A page of a batch's entries in their order; of one verdict, of those to be mended (<c>open</c>), or all.</summary>
    public async Task<Outcome<Page<BatchEntryView>>> EntriesAsync(
        Visitor visitor,
        Guid id,
        string? verdict,
        string? cursor,
        int? limit
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (!await rows.Batches.AnyAsync(b => b.Id == id))
            return CommonRefusals.NotFound;
        var after = 0;
        if (cursor is { Length: > 0 } && !int.TryParse(cursor, out after))
            return Requests.BadCursor;
        var entries = rows.BatchEntries.AsNoTracking().Where(e => e.BatchId == id && e.Number > after);
        switch (verdict)
        {
            case null or "":
                break;
            case Sent:
                entries = entries.Where(e => e.InvitationId != null);
                break;
            case "open":
                entries = entries.Where(e =>
                    e.InvitationId == null && (e.Verdict == Verdict.Wrong || e.Verdict == Verdict.Blocked)
                );
                break;
            default:
                if (!Enum.TryParse<Verdict>(verdict, true, out var one) || !Enum.IsDefined(one))
                    return new Refusal(
                        "verdict.unknown",
                        "There is no such verdict.",
                        $"Use open, sent or one of: {string.Join(", ", Enum.GetNames<Verdict>()).ToLowerInvariant()}.",
                        Field: "verdict"
                    );
                entries = entries.Where(e => e.InvitationId == null && e.Verdict == one);
                break;
        }
        var size = Requests.PageSize(limit);
        var found = await entries.OrderBy(e => e.Number).Take(size + 1).ToListAsync();
        return new Page<BatchEntryView>(
            await ViewsAsync(rows, [.. found.Take(size)]),
            found.Count > size ? found[size - 1].Number.ToString() : null
        );
    }

    /// <summary>All entries of a batch as rows of a table, in order.</summary>
    public async IAsyncEnumerable<IReadOnlyList<string>> ResultsAsync(Guid workspace, Guid id)
    {
        yield return ResultHeadings;
        await using var rows = database.Open(workspace);
        var after = 0;
        while (true)
        {
            var lot = await rows
                .BatchEntries.AsNoTracking()
                .Where(e => e.BatchId == id && e.Number > after)
                .OrderBy(e => e.Number)
                .Take(CheckedAtOnce)
                .ToListAsync();
            if (lot.Count == 0)
                yield break;
            foreach (var view in await ViewsAsync(rows, lot))
                yield return ResultRow(view);
            after = lot[^1].Number;
        }
    }

    /// <summary>The headings of a result file.</summary>
    public static IReadOnlyList<string> ResultHeadings { get; } =
    ["Number", "Address", "Name", "Kind", "Result", "State", "Why", "What to do", "Suggestion", "Invitation"];

    /// <summary>An entry as a row of a result file.</summary>
    public static IReadOnlyList<string> ResultRow(BatchEntryView view) =>
        [
            view.Number.ToString(),
            view.Address,
            view.Name,
            view.Kind ?? "",
            view.Verdict,
            view.State ?? "",
            view.Problem?.Title ?? string.Join(' ', view.Notes.Select(n => n.Sentence)),
            view.Problem?.Detail ?? "",
            view.Suggestion ?? "",
            view.InvitationId?.ToString() ?? "",
        ];

    /// <summary>How many entries have each verdict.</summary>
    public static Dictionary<string, int> CountsOf(BatchRow row) =>
        JsonSerializer.Deserialize<Dictionary<string, int>>(row.Counts)!;

    private static Refusal Working { get; } =
        new(
            "batch.working",
            "This list is being worked on.",
            "Wait until it rests; aboard batches watch shows how far it is.",
            RefusalSort.Conflict
        );

    private async Task<Outcome<BatchJudge>> PrepareAsync(Visitor visitor, BatchDefaults defaults)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await BatchJudge.PrepareAsync(rows, defaults, visitor.World);
    }

    /// <summary>Where an address stands in another entry of the list already.</summary>
    private static async Task<int?> FirstAsync(ComeAboardContext rows, Guid id, int number, Offering offering)
    {
        var address = offering.Offer.Address.ToString();
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
        };

    private async Task<IReadOnlyList<BatchEntryView>> ViewsAsync(
        ComeAboardContext rows,
        IReadOnlyList<BatchEntryRow> entries
    )
    {
        var ids = entries.Select(e => e.InvitationId).OfType<Guid>().ToArray();
        var invitations = await rows
            .Invitations.AsNoTracking()
            .Where(i => ids.Contains(i.Id))
            .Select(i => new
            {
                i.Id,
                i.State,
                i.Deadline,
                i.Name,
                i.Kind,
            })
            .ToDictionaryAsync(i => i.Id);
        var now = clock.Now();
        return
        [
            .. entries.Select(e =>
            {
                var sent = e.InvitationId is { } id ? invitations.GetValueOrDefault(id) : null;
                var wish = e.Wish is null
                    ? new InvitationWish(e.Address, sent?.Kind.Word(), Name: sent?.Name)
                    : JsonSerializer.Deserialize<InvitationWish>(e.Wish, BatchJudge.Json)!;
                var reason = e.Reason is null
                    ? null
                    : JsonSerializer.Deserialize<EntryReason>(e.Reason, BatchJudge.Json);
                var state = sent is null ? null : InvitationLife.At(sent.State, sent.Deadline, now).Word();
                return ViewOf(e.Number, e.Address, wish, e.Verdict, reason, e.InvitationId, state);
            }),
        ];
    }

    private static BatchEntryView ViewOf(
        int number,
        string address,
        InvitationWish wish,
        Verdict verdict,
        EntryReason? reason,
        Guid? invitation,
        string? state
    ) =>
        new(
            number,
            address,
            wish.Name ?? $"{wish.GivenName} {wish.FamilyName}".Trim(),
            wish.Kind,
            invitation is null ? verdict.Word() : Sent,
            invitation is null ? reason?.Problem : null,
            reason?.Notes ?? [],
            reason?.Suggestion,
            invitation,
            state
        );

    private static BatchView ViewOf(BatchRow row, DateTimeOffset now)
    {
        var counts = WithAll(CountsOf(row));
        var works = row.State is BatchState.Reading or BatchState.Sending;
        var done =
            row.State == BatchState.Sending
                ? Math.Max(0, row.Total - counts["ready"] - counts["account"])
                : row.Entries;
        var seconds = row.StartedAt is { } started ? ((row.FinishedAt ?? now) - started).TotalSeconds : 0;
        double? rate = seconds > 0.05 && done > 0 ? (done - row.DoneAtStart) / seconds : null;
        return new BatchView(
            row.Id,
            row.Name,
            row.Format,
            row.State.ToString().ToLowerInvariant(),
            row.Entries,
            counts,
            done,
            row.Total,
            rate > 0 ? rate : null,
            works && rate > 0 ? (row.Total - done) / rate : null,
            row.UnknownColumns.Split('\n', StringSplitOptions.RemoveEmptyEntries),
            row.Fault,
            row.CreatedByName,
            row.CreatedAt,
            row.FinishedAt
        );
    }

    private static Dictionary<string, int> WithAll(Dictionary<string, int> counts)
    {
        var all = Enum.GetValues<Verdict>()
            .ToDictionary(verdict => verdict.Word(), verdict => counts.GetValueOrDefault(verdict.Word()));
        all[Sent] = counts.GetValueOrDefault(Sent);
        return all;
    }
}
