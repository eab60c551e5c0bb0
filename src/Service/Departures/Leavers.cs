using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
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
    public static async Task<LeaverFacts> ReadAsync(WorkspaceWrite write, MemberRow member, Guid? endedBy) =>
        (await ReadAsync(write, [member]))[member.Id] with
        {
            EndedBy = endedBy,
        };

    /// <summary>What is known of several leavers, read together; who ends each is for whoever asks to say.</summary>
    /// <param name="write">The change.</param>
    /// <param name="members">Who leaves.</param>
    public static async Task<IReadOnlyDictionary<Guid, LeaverFacts>> ReadAsync(
        WorkspaceWrite write,
        IReadOnlyList<MemberRow> members
    )
    {
        var (rows, zone) = (write.Rows, write.Workspace.Zone);
        var ids = members.Select(member => member.Id).ToList();
        var accountIds = members.Select(member => member.AccountId).ToList();
        // What was closed elsewhere since their time was over was closed because of it, though nobody had come to write it down.
        var over = members.ToDictionary(
            member => member.Id,
            member => member.Stay.Over(zone) is { } end && end <= write.Now ? end : (DateTimeOffset?)null
        );
        var open = rows
            .Invitations.AsNoTracking()
            .Where(i => i.IsPending || i.State == InvitationState.Draft);
        var planned = (
            await rows
                .Departures.AsNoTracking()
                .Where(d => ids.Contains(d.MemberId) && d.State == DepartureState.Planned && d.KnowsAgreed)
                .Select(d => new { d.MemberId, d.AgreedDay })
                .ToListAsync()
        ).ToLookup(d => d.MemberId);
        var sessions = (
            await rows
                .Sessions.Where(s => accountIds.Contains(s.AccountId) && s.ExpiresAt > write.Now)
                .Select(s => new
                {
                    s.AccountId,
                    s.Id,
                    s.OpenedAt,
                })
                .ToListAsync()
        ).ToLookup(s => s.AccountId);
        var elsewhere = await rows
            .Members.IgnoreQueryFilters()
            .Where(m =>
                accountIds.Contains(m.AccountId) && m.WorkspaceId != write.Workspace.Id && m.EndedAt == null
            )
            .GroupBy(m => m.AccountId)
            .Select(of => new { of.Key, Count = of.Count() })
            .ToDictionaryAsync(of => of.Key, of => of.Count);
        var tokens = await NamedAsync(
            rows.ApiTokens.Where(t => ids.Contains(t.MemberId) && t.RevokedAt == null)
                .Select(t => new Of(t.MemberId, t.Id, t.Label))
        );
        var links = await NamedAsync(
            rows.JoinLinks.Where(l => ids.Contains(l.CreatedBy) && l.ClosedAt == null)
                .Select(l => new Of(l.CreatedBy, l.Id, l.Label))
        );
        var lists = await NamedAsync(
            rows.Batches.Where(b =>
                    ids.Contains(b.CreatedBy)
                    && (b.State == BatchState.Reading || b.State == BatchState.Sending)
                )
                .Select(b => new Of(b.CreatedBy, b.Id, b.Name))
        );
        var invitations = await NamedAsync(
            open.Where(i => ids.Contains(i.InvitedBy)).Select(i => new Of(i.InvitedBy, i.Id, i.Address))
        );
        var hosted = await NamedAsync(
            open.Where(i => i.HostId != null && ids.Contains(i.HostId.Value))
                .Select(i => new Of(i.HostId!.Value, i.Id, i.Address))
        );
        var guests = await NamedAsync(
            rows.Members.Where(m =>
                    m.HostId != null && ids.Contains(m.HostId.Value) && m.Id != m.HostId && m.EndedAt == null
                )
                .Select(m => new Of(m.HostId!.Value, m.Id, m.Name))
        );
        var there = (
            await (
                from account in rows.AccountsThere
                join connection in rows.Connections on account.ConnectionId equals connection.Id
                where ids.Contains(account.MemberId)
                select new
                {
                    account.MemberId,
                    connection.Id,
                    connection.Name,
                    IsOpen = account.Wanted != AccountThere.Gone || account.DueAt != null,
                    IsOfNone = account.DepartureId == null,
                    account.ConfirmedAt,
                }
            )
                .AsNoTracking()
                .ToListAsync()
        ).Where(a => a.IsOpen || a.IsOfNone && a.ConfirmedAt >= over[a.MemberId]).Select(a => new Of(a.MemberId, a.Id, a.Name)).OrderBy(a => a.Id).ToLookup(a => a.Owner, a => new Named(a.Id, a.Name));
        var seats = (
            await (
                from seat in rows.Seats
                join pool in rows.SeatPools on seat.PoolId equals pool.Id
                where ids.Contains(seat.MemberId)
                orderby pool.Id
                select new
                {
                    seat.MemberId,
                    pool.Id,
                    pool.Name,
                    seat.Since,
                    seat.ForCustody,
                }
            ).ToListAsync()
        ).ToLookup(seat => seat.MemberId);
        var world = await write.WorldAsync();
        return members.ToDictionary(
            member => member.Id,
            member => new LeaverFacts(
                member.Id,
                member.Name,
                member.Kind,
                member.Stay,
                !member.IsHere(write.Now, zone),
                world
            )
            {
                Planned = planned[member.Id].Select(d => new PlannedEnd(d.AgreedDay)).FirstOrDefault(),
                Sessions = [.. sessions[member.AccountId].OrderBy(s => s.OpenedAt).Select(s => s.Id)],
                OtherWorkspaces = elsewhere.GetValueOrDefault(member.AccountId),
                Tokens = [.. tokens[member.Id]],
                Links = [.. links[member.Id]],
                Lists = [.. lists[member.Id]],
                Invitations = [.. invitations[member.Id]],
                HostedInvitations = [.. hosted[member.Id]],
                Guests = [.. guests[member.Id]],
                Accounts = [.. there[member.Id]],
                Seats = [.. seats[member.Id].Select(s => new SeatHeld(s.Id, s.Name, s.Since, s.ForCustody))],
            }
        );
    }

    private static async Task<ILookup<Guid, Named>> NamedAsync(IQueryable<Of> query) =>
        (await query.ToListAsync())
            .OrderBy(one => one.Id)
            .ToLookup(one => one.Owner, one => new Named(one.Id, one.Name));

    private sealed record Of(Guid Owner, Guid Id, string Name);
}

/// <summary>
/// Those of a lot whose time is over, read together; read again once a departure has changed what others have, for that may be
/// one of them.
/// </summary>
public sealed class LeaverLot(WorkspaceWrite write, IReadOnlyList<Guid> ids)
{
    private Dictionary<Guid, Leaver>? _read;

    /// <summary>Somebody as they are now, tracked; null when they are not of the lot, or gone.</summary>
    public async Task<Leaver?> TakeAsync(Guid id)
    {
        _read ??= await ReadAsync();
        if (!_read.TryGetValue(id, out var leaver))
            return null;
        write.Rows.Attach(leaver.Member);
        if (leaver.Planned is not null)
            write.Rows.Attach(leaver.Planned);
        write.Rows.AttachRange(leaver.Accounts);
        return leaver with { Facts = leaver.Facts with { World = await write.WorldAsync() } };
    }

    /// <summary>Has the rest read again.</summary>
    public void Forget() => _read = null;

    private async Task<Dictionary<Guid, Leaver>> ReadAsync()
    {
        var members = (await write.MembersAsync(ids)).Values.Where(m => m.EndedAt is null).ToList();
        var planned = await write
            .Rows.Departures.AsNoTracking()
            .Where(d => ids.Contains(d.MemberId) && d.State == DepartureState.Planned)
            .ToListAsync();
        var accounts = await write
            .Rows.AccountsThere.AsNoTracking()
            .Where(a => ids.Contains(a.MemberId))
            .ToListAsync();
        var (facts, by) = (await Leavers.ReadAsync(write, members), planned.ToLookup(d => d.MemberId));
        var there = accounts.ToLookup(a => a.MemberId);
        return members.ToDictionary(
            member => member.Id,
            member => new Leaver(
                member,
                by[member.Id].FirstOrDefault(),
                [.. there[member.Id]],
                facts[member.Id]
            )
        );
    }
}

/// <summary>Somebody whose time is over.</summary>
/// <param name="Member">Who.</param>
/// <param name="Planned">Their departure, where it was planned.</param>
/// <param name="Accounts">Their accounts in connected systems, as far as they are read already.</param>
/// <param name="Facts">Everything that names them.</param>
public sealed record Leaver(
    MemberRow Member,
    DepartureRow? Planned,
    IReadOnlyList<AccountThereRow> Accounts,
    LeaverFacts Facts
);
