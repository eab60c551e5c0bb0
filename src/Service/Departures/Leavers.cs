using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Gathers everything that names somebody, for their departure.</summary>
public static class Leavers
{
    /// <summary>What is known of a leaver, within the change in which they are ended or would be.</summary>
    /// <param name="write">The change.</param>
    /// <param name="member">Who leaves.</param>
    /// <param name="endedBy">Who ends them; null when nobody in particular does.</param>
    public static async Task<LeaverFacts> ReadAsync(WorkspaceWrite write, MemberRow member, Guid? endedBy)
    {
        var (rows, id) = (write.Rows, member.Id);
        // What was closed elsewhere since their time was over was closed because of it, though nobody had come to write it down.
        var over =
            member.Stay.Over(write.Workspace.Zone) is { } end && end <= write.Now
                ? end
                : (DateTimeOffset?)null;
        var open = rows
            .Invitations.AsNoTracking()
            .Where(i => i.IsPending || i.State == InvitationState.Draft);
        return new LeaverFacts(
            id,
            member.Name,
            member.Kind,
            member.Stay,
            !member.IsHere(write.Now, write.Workspace.Zone),
            await write.WorldAsync()
        )
        {
            EndedBy = endedBy,
            Planned = await rows
                .Departures.AsNoTracking()
                .Where(d => d.MemberId == id && d.State == DepartureState.Planned && d.KnowsAgreed)
                .Select(d => new PlannedEnd(d.AgreedDay))
                .FirstOrDefaultAsync(),
            Sessions = await rows
                .Sessions.Where(s => s.AccountId == member.AccountId && s.ExpiresAt > write.Now)
                .OrderBy(s => s.OpenedAt)
                .Select(s => s.Id)
                .ToListAsync(),
            OtherWorkspaces = await rows
                .Members.IgnoreQueryFilters()
                .CountAsync(m =>
                    m.AccountId == member.AccountId
                    && m.WorkspaceId != member.WorkspaceId
                    && m.EndedAt == null
                ),
            Tokens = await NamedAsync(
                rows.ApiTokens.Where(t => t.MemberId == id && t.RevokedAt == null)
                    .Select(t => new Pair(t.Id, t.Label))
            ),
            Links = await NamedAsync(
                rows.JoinLinks.Where(l => l.CreatedBy == id && l.ClosedAt == null)
                    .Select(l => new Pair(l.Id, l.Label))
            ),
            Lists = await NamedAsync(
                rows.Batches.Where(b =>
                        b.CreatedBy == id && (b.State == BatchState.Reading || b.State == BatchState.Sending)
                    )
                    .Select(b => new Pair(b.Id, b.Name))
            ),
            Invitations = await NamedAsync(
                open.Where(i => i.InvitedBy == id).Select(i => new Pair(i.Id, i.Address))
            ),
            HostedInvitations = await NamedAsync(
                open.Where(i => i.HostId == id).Select(i => new Pair(i.Id, i.Address))
            ),
            Guests = await NamedAsync(
                rows.Members.Where(m => m.HostId == id && m.Id != id && m.EndedAt == null)
                    .Select(m => new Pair(m.Id, m.Name))
            ),
            Accounts = await NamedAsync(
                from account in rows.AccountsThere
                join connection in rows.Connections on account.ConnectionId equals connection.Id
                where
                    account.MemberId == id
                    && (
                        account.Wanted != AccountThere.Gone
                        || account.DueAt != null
                        || account.DepartureId == null && account.ConfirmedAt >= over
                    )
                select new Pair(connection.Id, connection.Name)
            ),
            Seats = await (
                from seat in rows.Seats
                join pool in rows.SeatPools on seat.PoolId equals pool.Id
                where seat.MemberId == id
                orderby pool.Id
                select new SeatHeld(pool.Id, pool.Name, seat.Since, seat.ForCustody)
            ).ToListAsync(),
        };
    }

    private static async Task<IReadOnlyList<Named>> NamedAsync(IQueryable<Pair> query) =>
        [.. (await query.ToListAsync()).OrderBy(p => p.Id).Select(p => new Named(p.Id, p.Name))];

    private sealed record Pair(Guid Id, string Name);
}
