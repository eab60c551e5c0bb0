using System.Security.Cryptography;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Lists of people to invite, looked at: judged without being kept, how far each has come, its entries and results.</summary>
public sealed class BatchLists(Database database, TimeProvider clock)
{
    /// <summary>The word under which sent entries are counted.</summary>
    public const string Sent = "sent";

    private const int MostShown = 10_000;
    private const int CheckedAtOnce = 1_000;

    /// <summary>Judges a list without keeping or sending anything.</summary>
    public async Task<Outcome<(BatchCheck Check, IReadOnlyList<BatchEntryView> All)>> CheckAsync(
        Visitor visitor,
        string digest,
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
        var now = clock.Now();
        if (await judge.ForbidsAllAsync(rows, visitor.Workspace, now) is { } wrong)
            return wrong;
        var sameFile =
            digest.Length == 0
                ? []
                : await rows.Batches.Where(b => b.Digest == digest).Select(b => b.Id).ToListAsync();
        var number = 0;
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
                [.. entries.Select(e => e.Offer).OfType<InvitationOffer>()]
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
                        entry.Offer?.Address.ToString() ?? entry.Wish.Address ?? "",
                        entry.Wish,
                        judged.Verdict,
                        judged.Reason,
                        null,
                        null
                    )
                );
            }
        }
        var first = all.OrderBy(e => e.Verdict is "ready" or "personal")
            .ThenBy(e => e.Number)
            .Take(MostShown);
        var check = new BatchCheck(number, WithAll(counts), table.Sheet.Unknown, [.. first])
        {
            Encoding = table.Encoding,
        };
        return (check, all);
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
    public async Task<Outcome<Page<BatchView>>> ListAsync(Visitor visitor, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows
            .Batches.AsNoTracking()
            .PageAsync(
                paging,
                page =>
                    Task.FromResult<IReadOnlyList<BatchView>>([
                        .. page.Select(row => ViewOf(row, clock.Now())),
                    ])
            );
    }

    /// <summary>A page of a batch's entries in their order; of one verdict, of those to be mended (<c>open</c>), or all.</summary>
    public async Task<Outcome<Page<BatchEntryView>>> EntriesAsync(
        Visitor visitor,
        Guid id,
        string? verdict,
        Paging paging
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (!await rows.Batches.AnyAsync(b => b.Id == id))
            return CommonRefusals.NotFound;
        if (!paging.After(0).Try(out var after, out var refusal))
            return refusal;
        if (!OfVerdict(rows, id, verdict).Try(out var entries, out refusal))
            return refusal;
        entries = entries.Where(e => e.Number > after);
        var found = await entries.OrderBy(e => e.Number).Take(paging.Size + 1).ToListAsync();
        return await found.PageAsync(paging, e => e.Number.ToString(), page => ViewsAsync(rows, page));
    }

    private static Outcome<IQueryable<BatchEntryRow>> OfVerdict(
        ComeAboardContext rows,
        Guid id,
        string? verdict
    )
    {
        var entries = rows.BatchEntries.AsNoTracking().Where(e => e.BatchId == id);
        switch (verdict)
        {
            case null or "":
                return Outcome.Of(entries);
            case Sent:
                return Outcome.Of(entries.Where(e => e.InvitationId != null));
            case "open":
                return Outcome.Of(
                    entries.Where(e =>
                        e.InvitationId == null && (e.Verdict == Verdict.Wrong || e.Verdict == Verdict.Blocked)
                    )
                );
            default:
                return Enum.TryParse<Verdict>(verdict, true, out var one) && Enum.IsDefined(one)
                    ? Outcome.Of(entries.Where(e => e.InvitationId == null && e.Verdict == one))
                    : new Refusal(
                        "verdict.unknown",
                        "There is no such verdict.",
                        $"Use open, sent or one of: {string.Join(", ", Enum.GetNames<Verdict>()).ToLowerInvariant()}.",
                        Field: "verdict"
                    );
        }
    }

    /// <summary>All entries of a batch, or those of one verdict, as rows of a table, in order, a lot at a time.</summary>
    public async IAsyncEnumerable<IReadOnlyList<IReadOnlyList<string>>> ResultsAsync(
        Guid workspace,
        Guid id,
        string? verdict = null
    )
    {
        yield return [ResultHeadings];
        await using var rows = database.Open(workspace);
        var after = 0;
        while (true)
        {
            var lot = await OfVerdict(rows, id, verdict)
                .Value.Where(e => e.Number > after)
                .OrderBy(e => e.Number)
                .Take(CheckedAtOnce)
                .ToListAsync();
            if (lot.Count == 0)
                yield break;
            yield return [.. (await ViewsAsync(rows, lot)).Select(ResultRow)];
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

    public static BatchEntryView ViewOf(
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

    public static BatchView ViewOf(BatchRow row, DateTimeOffset now)
    {
        var counts = WithAll(CountsOf(row));
        var works = row.State is BatchState.Reading or BatchState.Sending;
        var done =
            row.State == BatchState.Sending
                ? Math.Max(0, row.Total - counts["ready"] - counts["personal"])
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
        )
        {
            Encoding = row.Encoding,
        };
    }

    public static Dictionary<string, int> WithAll(Dictionary<string, int> counts)
    {
        var all = Enum.GetValues<Verdict>()
            .ToDictionary(verdict => verdict.Word(), verdict => counts.GetValueOrDefault(verdict.Word()));
        all[Sent] = counts.GetValueOrDefault(Sent);
        return all;
    }
}
