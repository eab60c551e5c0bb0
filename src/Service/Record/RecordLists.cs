using System.Text.Json;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Record;
using ComeAboard.Service.Http;
using ComeAboard.Storage;
using ComeAboard.Storage.Record;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Record;

/// <summary>Reading the record.</summary>
public static class RecordLists
{
    /// <summary>A page of the whole record, newest first.</summary>
    public static async Task<Page<RecordEntryView>> PageAsync(
        ComeAboardContext rows,
        long? before,
        int? limit
    )
    {
        var size = Requests.PageSize(limit);
        var found = await rows
            .Record.AsNoTracking()
            .Where(r => before == null || r.Sequence < before)
            .OrderByDescending(r => r.Sequence)
            .Take(size + 1)
            .ToListAsync();
        var page = found.Take(size).Select(ViewOf).ToList();
        return new Page<RecordEntryView>(page, found.Count > size ? page[^1].Sequence.ToString() : null);
    }

    /// <summary>Everything about one subject, oldest first.</summary>
    public static async Task<Page<RecordEntryView>> HistoryAsync(
        ComeAboardContext rows,
        params Guid[] subjects
    )
    {
        var names = subjects.Select(subject => subject.ToString()).ToList();
        var found = await rows
            .Record.AsNoTracking()
            .Where(r => names.Contains(r.Subject))
            .OrderBy(r => r.Sequence)
            .Take(1000)
            .ToListAsync();
        return new Page<RecordEntryView>([.. found.Select(ViewOf)], null);
    }

    /// <summary>What one member did lately, newest first; what lists they handed in did for them is left out.</summary>
    public static async Task<Page<RecordEntryView>> ByAsync(ComeAboardContext rows, Guid member, int most)
    {
        var actor = member.ToString();
        var found = await rows
            .Record.AsNoTracking()
            .Where(r => r.Actor == actor && r.Via != "batch")
            .OrderByDescending(r => r.Sequence)
            .Take(most)
            .ToListAsync();
        return new Page<RecordEntryView>([.. found.Select(ViewOf)], null);
    }

    /// <summary>Checks the whole chain, entry by entry, against the head kept apart from it.</summary>
    public static async Task<RecordVerification> VerifyAsync(ComeAboardContext rows, Guid workspace)
    {
        // One snapshot for the head and the entries, so that what is written meanwhile does not look like a fault.
        await using var snapshot = await rows.Database.BeginTransactionAsync(
            rows.Database.IsNpgsql()
                ? System.Data.IsolationLevel.RepeatableRead
                : System.Data.IsolationLevel.Serializable
        );
        var kept = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == workspace);
        var head = RecordHead.Empty;
        await foreach (var row in rows.Record.AsNoTracking().OrderBy(r => r.Sequence).AsAsyncEnumerable())
        {
            var entry = row.ToEntry();
            if (RecordChain.Check(head, entry) is { } fault)
                return Found(head, fault);
            head = RecordChain.After(entry);
        }
        return RecordChain.CheckEnd(head, kept.RecordHead) is { } cut
            ? Found(head, cut)
            : new RecordVerification(true, head.Sequence, head.Hash, null, null, null);
    }

    private static RecordVerification Found(RecordHead head, RecordFault fault) =>
        new(false, head.Sequence, head.Hash, fault.Sequence, fault.Code, fault.Sentence);

    private static RecordEntryView ViewOf(RecordRow row)
    {
        JsonElement? details = row.Details is null
            ? null
            : JsonDocument.Parse(row.Details).RootElement.Clone();
        return new RecordEntryView(
            row.Sequence,
            row.At,
            row.Actor,
            details is { ValueKind: JsonValueKind.Object } known && known.TryGetProperty("by", out var by)
                ? by.GetString()
                : null,
            row.Via,
            row.Action,
            row.Subject,
            details,
            row.Hash
        );
    }
}
