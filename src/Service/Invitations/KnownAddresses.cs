using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// What a workspace knows of some addresses: who is a member, who is invited, who asked not to be, where mail came back,
/// who has an account; and which of the hosts named with them there are.
/// </summary>
public sealed class KnownAddresses
{
    private readonly Dictionary<string, (Guid Id, DateOnly? LastDay)> _members = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (Guid Id, DateTimeOffset? Deadline)> _pending = new(
        StringComparer.Ordinal
    );
    private readonly Dictionary<string, string> _bounced = new(StringComparer.Ordinal);
    private readonly HashSet<string> _accounts = new(StringComparer.Ordinal);
    private readonly HashSet<string> _optedOut = new(StringComparer.Ordinal);
    private readonly Dictionary<string, MemberRow> _hosts = new(StringComparer.Ordinal);

    private readonly Dictionary<Guid, SeatAccount> _seats = [];
    private readonly Dictionary<Guid, int> _organisations = [];

    private KnownAddresses() { }

    /// <summary>The accounts of the pools the offers want seats of.</summary>
    public IReadOnlyDictionary<Guid, SeatAccount> Seats => _seats;

    /// <summary>How many people of an organisation are here or invited.</summary>
    public int OfOrganisation(Guid id) => _organisations.GetValueOrDefault(id);

    /// <summary>Reads all that is known of what some offers name, in a handful of looks however many there are.</summary>
    public static async Task<KnownAddresses> ReadAsync(
        ComeAboardContext rows,
        IReadOnlyCollection<InvitationOffer> offers
    )
    {
        var known = await ReadAsync(rows, [.. offers.Select(offer => offer.Address)]);
        await known.ReadSeatsAsync(rows, [.. offers.SelectMany(offer => offer.Gives.Pools).Distinct()]);
        await known.ReadOrganisationsAsync(
            rows,
            [.. offers.Select(offer => offer.OrganisationId).OfType<Guid>().Distinct()]
        );
        await known.ReadHostsAsync(rows, [.. offers.Select(offer => offer.Host).OfType<string>().Distinct()]);
        return known;
    }

    /// <summary>Reads all that is known of some addresses.</summary>
    public static async Task<KnownAddresses> ReadAsync(
        ComeAboardContext rows,
        IReadOnlyCollection<EmailAddress> addresses
    )
    {
        var keys = addresses.Select(address => address.Key).Distinct().ToArray();
        var hashes = addresses.Select(Inviting.OptOutHash).Distinct().ToArray();
        var known = new KnownAddresses();
        await foreach (
            var m in rows
                .Members.Where(m => keys.Contains(m.AddressKey) && m.EndedAt == null)
                .Select(m => new
                {
                    m.AddressKey,
                    m.Id,
                    m.LastDay,
                })
                .AsAsyncEnumerable()
        )
            known._members.TryAdd(m.AddressKey, (m.Id, m.LastDay));
        await foreach (
            var i in rows
                .Invitations.Where(i =>
                    keys.Contains(i.AddressKey)
                    && (
                        i.State == InvitationState.Queued
                        || i.State == InvitationState.Sent
                        || i.State == InvitationState.Waiting
                    )
                )
                .Select(i => new
                {
                    i.AddressKey,
                    i.Id,
                    i.Deadline,
                    i.State,
                })
                .AsAsyncEnumerable()
        )
            known._pending[i.AddressKey] = (i.Id, i.State == InvitationState.Waiting ? null : i.Deadline);
        await foreach (
            var b in rows
                .BouncedAddresses.AsNoTracking()
                .Where(b => keys.Contains(b.AddressKey))
                .AsAsyncEnumerable()
        )
            known._bounced[b.AddressKey] = b.Answer;
        await foreach (
            var hash in rows
                .OptOuts.Where(o => hashes.Contains(o.AddressHash))
                .Select(o => o.AddressHash)
                .AsAsyncEnumerable()
        )
            known._optedOut.Add(hash);
        await foreach (
            var key in rows
                .AccountAddresses.Where(a => keys.Contains(a.AddressKey) && a.ProvedAt != null)
                .Select(a => a.AddressKey)
                .AsAsyncEnumerable()
        )
            known._accounts.Add(key);
        return known;
    }

    /// <summary>How an address stands at an instant.</summary>
    public AddressStanding Of(EmailAddress address, DateTimeOffset now, TimeZoneInfo zone)
    {
        Guid? member =
            _members.TryGetValue(address.Key, out var found) && !new Stay(found.LastDay).IsOver(now, zone)
                ? found.Id
                : null;
        Guid? pending =
            _pending.TryGetValue(address.Key, out var invited)
            && (invited.Deadline is not { } deadline || deadline > now)
                ? invited.Id
                : null;
        return new AddressStanding(
            member,
            pending,
            _optedOut.Count > 0 && _optedOut.Contains(Inviting.OptOutHash(address)),
            _bounced.GetValueOrDefault(address.Key),
            _accounts.Contains(address.Key)
        );
    }

    /// <summary>The host named by an address or id: a member of the staff; null when there is none.</summary>
    public MemberRow? Host(string? written) => written is null ? null : _hosts.GetValueOrDefault(written);

    /// <summary>Notes an invitation just decided, for those that are decided after it.</summary>
    public void NoteInvited(InvitationOffer offer, Guid id, DateTimeOffset deadline, DateOnly today)
    {
        _pending[offer.Address.Key] = (id, deadline);
        foreach (var pool in offer.Gives.Pools)
            _seats[pool] = _seats[pool].In(today.Year).Reserve(out _).Value;
        if (offer.OrganisationId is { } own)
            _organisations[own] = OfOrganisation(own) + 1;
    }

    private async Task ReadSeatsAsync(ComeAboardContext rows, IReadOnlyList<Guid> pools)
    {
        if (pools.Count == 0)
            return;
        foreach (
            var pool in await rows.SeatPools.AsNoTracking().Where(p => pools.Contains(p.Id)).ToListAsync()
        )
            _seats[pool.Id] = pool.Account;
    }

    private async Task ReadOrganisationsAsync(ComeAboardContext rows, IReadOnlyList<Guid> organisations)
    {
        foreach (var id in organisations)
            _organisations[id] =
                await rows.Members.CountAsync(m => m.OrganisationId == id && m.EndedAt == null)
                + await rows.Invitations.CountAsync(i => i.OrganisationId == id && i.IsPending);
    }

    /// <summary>An overdue invitation nobody has noticed yet must not stand in the way of a new one.</summary>
    public async Task ExpireOverdueAsync(WorkspaceWrite write)
    {
        var overdue = _pending
            .Values.Where(invited => invited.Deadline <= write.Now)
            .Select(invited => invited.Id)
            .ToList();
        if (overdue.Count == 0)
            return;
        foreach (
            var invitation in await write.Rows.Invitations.Where(i => overdue.Contains(i.Id)).ToListAsync()
        )
            await InvitationSteps.ExpireAsync(write, invitation);
        await write.Rows.SaveChangesAsync();
    }

    private async Task ReadHostsAsync(ComeAboardContext rows, IReadOnlyList<string> written)
    {
        if (written.Count == 0)
            return;
        var keys = new Dictionary<string, string>(StringComparer.Ordinal);
        var ids = new Dictionary<Guid, string>();
        foreach (var host in written)
        {
            if (Guid.TryParse(host, out var id))
                ids[id] = host;
            else if (EmailAddress.Read(host).Try(out var address, out _))
                keys[address.Key] = host;
        }
        var found = await rows
            .Members.AsNoTracking()
            .Where(m =>
                m.EndedAt == null
                && m.Kind == Kind.Staff
                && (keys.Keys.Contains(m.AddressKey) || ids.Keys.Contains(m.Id))
            )
            .ToListAsync();
        // The same person may be named in several ways.
        foreach (var host in written)
        {
            var member = found.FirstOrDefault(m =>
                Guid.TryParse(host, out var id)
                    ? m.Id == id
                    : EmailAddress.Read(host).Try(out var address, out _) && m.AddressKey == address.Key
            );
            if (member is not null)
                _hosts[host] = member;
        }
    }
}
