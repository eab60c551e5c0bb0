using System.Text.Json;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Record;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Record;

/// <summary>Reading the record.</summary>
public sealed class RecordLists(Database database)
{
    /// <summary>A page of the whole record, newest first.</summary>
    public async Task<Outcome<Page<RecordEntryView>>> PageAsync(Visitor visitor, Paging paging)
    {
        if (!paging.After(long.MaxValue).Try(out var before, out var refusal))
            return refusal;
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows
            .Record.AsNoTracking()
            .Where(r => r.Sequence < before)
            .OrderByDescending(r => r.Sequence)
            .Take(paging.Size + 1)
            .ToListAsync();
        return await found.PageAsync(
            paging,
            r => r.Sequence.ToString(),
            page => Task.FromResult<IReadOnlyList<RecordEntryView>>([.. page.Select(ViewOf)])
        );
    }

    /// <summary>Everything about one subject, oldest first.</summary>
    public async Task<Page<RecordEntryView>> HistoryAsync(Visitor visitor, params Guid[] subjects)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
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
    public async Task<Page<RecordEntryView>> ByAsync(Visitor visitor, Guid member, int most)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
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
    public async Task<RecordVerification> VerifyAsync(Guid workspace)
    {
        await using var rows = database.Open(workspace);
        // One snapshot for the head and the entries, so that what is written meanwhile does not look like a fault.
        await using var snapshot = await rows.Database.BeginTransactionAsync(
            rows.Database.IsNpgsql()
                ? System.Data.IsolationLevel.RepeatableRead
                : System.Data.IsolationLevel.Serializable
        );
        var kept = await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == workspace);
        var (head, _, fault) = await ReadThroughAsync(rows.Record, kept.RecordHead);
        return new RecordVerification(
            fault is null,
            head.Sequence,
            head.Hash,
            fault?.Sequence,
            fault?.Code,
            fault?.Sentence
        );
    }

    /// <summary>Reads a record through, against the head kept apart from it.</summary>
    /// <param name="record">The entries of one workspace.</param>
    /// <param name="kept">The head.</param>
    /// <param name="cancellation">Breaks it off.</param>
    /// <returns>How far it is good, when the last good entry was written, and the first fault; null for none.</returns>
    public static async Task<(RecordHead Head, DateTimeOffset? Latest, RecordFault? Fault)> ReadThroughAsync(
        IQueryable<RecordRow> record,
        RecordHead kept,
        CancellationToken cancellation = default
    )
    {
        var (head, latest) = (RecordHead.Empty, (DateTimeOffset?)null);
        await foreach (
            var row in record
                .AsNoTracking()
                .OrderBy(r => r.Sequence)
                .AsAsyncEnumerable()
                .WithCancellation(cancellation)
        )
        {
            var entry = row.ToEntry();
            if (RecordChain.Check(head, entry) is { } fault)
                return (head, latest, fault);
            (head, latest) = (RecordChain.After(entry), entry.At);
        }
        return (head, latest, RecordChain.CheckEnd(head, kept));
    }

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
