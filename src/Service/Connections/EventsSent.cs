using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>What systems that are only told were told: the log of it, and sending something again.</summary>
public sealed class EventsSent(Database database, Sources sources, Targets targets)
{
    /// <summary>For a system that is asked, and not told by events.</summary>
    public static Refusal NotTold { get; } =
        new(
            "connection.not-told",
            "It is not told anything by events.",
            "See how it stands: aboard connections status NAME",
            RefusalSort.Conflict
        );

    /// <summary>What a system was told, newest first.</summary>
    public async Task<Outcome<Page<EventSentView>>> ListAsync(
        Visitor visitor,
        string connection,
        Paging paging
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await Connections.FindAsync(rows, connection) is not { } row)
            return Connections.NotFound;
        if (targets.Find(row.Type) is not { IsOnlyTold: true })
            return NotTold;
        if (!paging.After(Guid.Empty).Try(out var after, out var refusal))
            return refusal;
        var found = rows.EventsSent.AsNoTracking().Where(e => e.ConnectionId == row.Id);
        if (paging.Cursor is { Length: > 0 })
            found = found.Where(e => e.Id.CompareTo(after) < 0);
        var page = await found.OrderByDescending(e => e.Id).Take(paging.Size + 1).ToListAsync();
        return await page.PageAsync(paging, one => one.Id.ToString("N"), some => ViewsOf(rows, some));
    }

    /// <summary>Sends an event again, as it was written; its id stays, so that the receiver may know it again.</summary>
    public async Task<Outcome<EventSentView>> SendAgainAsync(
        Visitor visitor,
        string connection,
        Guid id,
        CancellationToken stop
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (
            await Connections.FindAsync(rows, connection) is not { } row
            || await rows
                .EventsSent.AsNoTracking()
                .FirstOrDefaultAsync(e => e.ConnectionId == row.Id && e.Id == id, stop)
                is not { } sent
        )
            return Connections.NotFound;
        if (targets.Find(row.Type) is not { IsOnlyTold: true } target)
            return NotTold;
        try
        {
            await using var session = await target.OpenAsync(
                sources.AccessOf(row),
                new HashSet<string>(StringComparer.Ordinal),
                stop
            );
            await ((WebhookSession)session).SendAsync(sent, stop);
        }
        catch (TargetException no)
        {
            return CarryingOut.RefusalOf(no);
        }
        return (
            await ViewsOf(rows, [await rows.EventsSent.AsNoTracking().FirstAsync(e => e.Id == id, stop)])
        )[0];
    }

    private static async Task<IReadOnlyList<EventSentView>> ViewsOf(
        ComeAboardContext rows,
        IReadOnlyList<EventSentRow> sent
    )
    {
        var members = sent.Where(one => one.AcceptedAt is null).Select(one => one.MemberId).ToList();
        var connections = sent.Select(one => one.ConnectionId).Distinct().ToList();
        var due = await rows
            .AccountsThere.AsNoTracking()
            .Where(a =>
                connections.Contains(a.ConnectionId) && members.Contains(a.MemberId) && a.DueAt != null
            )
            .ToDictionaryAsync(a => (a.ConnectionId, a.MemberId), a => a.Version);
        return
        [
            .. sent.Select(one => new EventSentView(
                one.Id,
                one.At,
                one.Sentence,
                one.AcceptedAt is not null ? "accepted"
                    // Only what is still so is sent by itself; what a later wish overtook is not.
                    : due.TryGetValue((one.ConnectionId, one.MemberId), out var version)
                    && version == one.Version
                        ? "due"
                    : "failed",
                one.Tries,
                one.TriedAt,
                one.AcceptedAt,
                one.Answer,
                one.Body
            )),
        ];
    }
}
