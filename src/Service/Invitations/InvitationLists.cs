using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Storage;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using Microsoft.AspNetCore.Mvc;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What a list of invitations is narrowed to.</summary>
/// <param name="State">A state, <c>pending</c>, or null.</param>
/// <param name="Kind">A kind, or null.</param>
/// <param name="Search">Any part of a name or address, or null.</param>
/// <param name="Cursor">Where the page before ended, or null.</param>
/// <param name="Limit">How many at most.</param>
public sealed record InvitationQuery(
    [FromQuery(Name = "state")] string? State,
    [FromQuery(Name = "kind")] string? Kind,
    [FromQuery(Name = "search")] string? Search,
    [FromQuery(Name = "cursor")] string? Cursor,
    [FromQuery(Name = "limit")] int? Limit
);

/// <summary>Listing invitations.</summary>
public static class InvitationLists
{
    /// <summary>A page, newest first, with the kept counts of all states.</summary>
    public static async Task<Outcome<InvitationPage>> PageAsync(
        ComeAboardContext rows,
        InvitationQuery query,
        DateTimeOffset now
    )
    {
        if (!Narrow(rows.Invitations.AsNoTracking(), query, now).Try(out var narrowed, out var refusal))
            return refusal;
        if (query.Cursor is { Length: > 0 } cursor)
        {
            if (!Requests.ReadCursor(cursor).Try(out var after, out refusal))
                return refusal;
            narrowed = narrowed.Where(i => i.Id.CompareTo(after) < 0);
        }
        var size = Requests.PageSize(query.Limit);
        var found = await narrowed.OrderByDescending(i => i.Id).Take(size + 1).ToListAsync();
        var page = found.Take(size).ToList();
        var mails = await LastMailsAsync(rows, [.. page.Select(i => i.Id)]);
        return new InvitationPage(
            [.. page.Select(i => InvitationViews.Of(i, mails.GetValueOrDefault(i.Id), now))],
            await CountsAsync(rows),
            found.Count > size ? page[^1].Id.ToString("N") : null
        );
    }

    /// <summary>One invitation with its last mail.</summary>
    public static async Task<InvitationView?> FindAsync(ComeAboardContext rows, Guid id, DateTimeOffset now)
    {
        var row = await rows.Invitations.AsNoTracking().FirstOrDefaultAsync(i => i.Id == id);
        if (row is null)
            return null;
        var mails = await LastMailsAsync(rows, [id]);
        return InvitationViews.Of(row, mails.GetValueOrDefault(id), now);
    }

    /// <summary>How many invitations there are in each state.</summary>
    public static async Task<IReadOnlyDictionary<string, long>> CountsAsync(ComeAboardContext rows)
    {
        var kept = await rows.InvitationCounts.AsNoTracking().ToDictionaryAsync(c => c.State, c => c.Count);
        return Enum.GetValues<InvitationState>()
            .ToDictionary(state => state.Word(), state => kept.GetValueOrDefault(state));
    }

    private static Outcome<IQueryable<InvitationRow>> Narrow(
        IQueryable<InvitationRow> rows,
        InvitationQuery query,
        DateTimeOffset now
    )
    {
        if (query.Kind is { Length: > 0 })
        {
            if (!Kinds.Read(query.Kind).Try(out var kind, out var refusal))
                return refusal;
            rows = rows.Where(i => i.Kind == kind);
        }
        if (query.Search?.Trim() is { Length: > 0 } search)
        {
            var pattern = "%" + Escape(search.ToLowerInvariant()) + "%";
            rows = rows.Where(i => EF.Functions.Like(i.SearchText, pattern, "\\"));
        }
        if (string.IsNullOrEmpty(query.State))
            return Outcome.Of(rows);
        if (query.State == "pending")
            return Outcome.Of(
                rows.Where(i =>
                    (i.State == InvitationState.Queued || i.State == InvitationState.Sent) && i.Deadline > now
                )
            );
        if (!Enum.TryParse<InvitationState>(query.State, true, out var state) || !Enum.IsDefined(state))
            return new Refusal(
                "state.unknown",
                "There is no such state of an invitation.",
                $"Use pending or one of: {string.Join(", ", Enum.GetNames<InvitationState>()).ToLowerInvariant()}.",
                Field: "state"
            );
        return Outcome.Of(rows.Where(i => i.State == state));
    }

    /// <summary>Makes a text stand for itself in a LIKE pattern.</summary>
    public static string Escape(string text) =>
        text.Replace("\\", "\\\\", StringComparison.Ordinal)
            .Replace("%", "\\%", StringComparison.Ordinal)
            .Replace("_", "\\_", StringComparison.Ordinal);

    private static async Task<Dictionary<Guid, DeliveryRow>> LastMailsAsync(
        ComeAboardContext rows,
        IReadOnlyList<Guid> ids
    )
    {
        var mails = await rows
            .Deliveries.AsNoTracking()
            .Where(d => d.Purpose == Purposes && d.InvitationId != null && ids.Contains(d.InvitationId.Value))
            .ToListAsync();
        return mails.GroupBy(d => d.InvitationId!.Value).ToDictionary(g => g.Key, g => g.MaxBy(d => d.Id)!);
    }

    private const string Purposes = Mail.Purposes.Invitation;
}
