using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Mail;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// What a workspace knows of some addresses: who is a member, who is invited, who asked not to be, where mail came back;
/// and which of the hosts named with them there are.
/// </summary>
public sealed class KnownAddresses
{
    private readonly Dictionary<string, (Guid Id, DateOnly? LastDay)> _members = new(StringComparer.Ordinal);
    private readonly Dictionary<string, (Guid Id, DateTimeOffset? Deadline)> _pending = new(
        StringComparer.Ordinal
    );
    private readonly Dictionary<string, string> _bounced = new(StringComparer.Ordinal);
    private static readonly TimeSpan Day = TimeSpan.FromDays(1);

    private readonly Dictionary<string, List<DateTimeOffset>> _mails = new(StringComparer.Ordinal);
    private readonly HashSet<string> _personal = new(StringComparer.Ordinal);
    private readonly HashSet<string> _optedOut = new(StringComparer.Ordinal);
    private readonly Dictionary<string, MemberRow> _hosts = new(StringComparer.Ordinal);

    private readonly Dictionary<Guid, SeatAccount> _seats = [];
    private readonly Dictionary<Guid, int> _organisations = [];

    private readonly Guid _workspace;

    private KnownAddresses(Guid workspace) => _workspace = workspace;

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
        await known.ReadPersonalAsync(rows, [.. offers.Select(offer => offer.Address)]);
        return known;
    }

    /// <summary>Reads all that is known of some addresses.</summary>
    public static async Task<KnownAddresses> ReadAsync(
        ComeAboardContext rows,
        IReadOnlyCollection<EmailAddress> addresses
    )
    {
        var keys = addresses.Select(address => address.Key).Distinct().ToArray();
        var hashes = addresses
            .SelectMany(address =>
                (string[])[OptOuts.HashOf(address), OptOuts.HashOf(address, rows.Workspace)]
            )
            .Distinct()
            .ToArray();
        var known = new KnownAddresses(rows.Workspace);
        var facts = await FactsOf(rows, keys, hashes).ToListAsync();
        // The address of somebody who was made one with another leads to that other, unless somebody else has it now.
        foreach (var fact in facts.OrderBy(fact => fact.About))
            known.Note(fact);
        return known;
    }

    /// <summary>All of it in one look: each of them would be one more way to a server and back.</summary>
    private static IQueryable<Fact> FactsOf(ComeAboardContext rows, string[] keys, string[] hashes) =>
        rows
            .Members.Where(m => keys.Contains(m.AddressKey) && m.EndedAt == null)
            .Select(m => new Fact
            {
                About = About.Member,
                Key = m.AddressKey,
                Id = m.Id,
                LastDay = m.LastDay,
                // Nothing, and yet a column: how an instant is kept is read from the first of what is put together.
                At = m.EndedAt,
                Words = null,
            })
            .Concat(
                from gone in rows.Members
                join kept in rows.Members
                    on new { gone.WorkspaceId, Id = gone.MergedIntoId } equals new
                    {
                        kept.WorkspaceId,
                        Id = (Guid?)kept.Id,
                    }
                where keys.Contains(gone.AddressKey) && gone.MergedIntoId != null && kept.EndedAt == null
                select new Fact
                {
                    About = About.MadeOneWith,
                    Key = gone.AddressKey,
                    Id = kept.Id,
                    LastDay = kept.LastDay,
                    At = null,
                    Words = null,
                }
            )
            .Concat(
                rows.Invitations.Where(i =>
                        keys.Contains(i.AddressKey)
                        && (
                            i.State == InvitationState.Queued
                            || i.State == InvitationState.Sent
                            || i.State == InvitationState.Waiting
                        )
                    )
                    .Select(i => new Fact
                    {
                        About = About.Invited,
                        Key = i.AddressKey,
                        Id = i.Id,
                        LastDay = null,
                        At = i.State == InvitationState.Waiting ? null : i.Deadline,
                        Words = null,
                    })
            )
            .Concat(
                rows.BouncedAddresses.Where(b => keys.Contains(b.AddressKey))
                    .Select(b => new Fact
                    {
                        About = About.Bounced,
                        Key = b.AddressKey,
                        Id = null,
                        LastDay = null,
                        At = null,
                        Words = b.Answer,
                    })
            )
            .Concat(
                rows.OptOuts.Where(o => hashes.Contains(o.AddressHash))
                    .Select(o => new Fact
                    {
                        About = About.OptedOut,
                        Key = o.AddressHash,
                        Id = null,
                        LastDay = null,
                        At = null,
                        Words = null,
                    })
            )
            .Concat(
                from i in rows.Invitations
                join d in rows.Deliveries on (Guid?)i.Id equals d.InvitationId
                where
                    keys.Contains(i.AddressKey)
                    && (d.Purpose == Purposes.Invitation || d.Purpose == Purposes.Reminder)
                    && d.SettledAt != null
                    && d.State != DeliveryState.Failed
                select new Fact
                {
                    About = About.Mailed,
                    Key = i.AddressKey,
                    Id = null,
                    LastDay = null,
                    At = d.CreatedAt,
                    Words = null,
                }
            );

    private void Note(Fact fact)
    {
        switch (fact.About)
        {
            case About.Member or About.MadeOneWith:
                _members.TryAdd(fact.Key, (fact.Id!.Value, fact.LastDay));
                break;
            case About.Invited:
                _pending[fact.Key] = (fact.Id!.Value, fact.At);
                break;
            case About.Bounced:
                _bounced[fact.Key] = fact.Words!;
                break;
            case About.OptedOut:
                _optedOut.Add(fact.Key);
                break;
            case About.Mailed:
                if (!_mails.TryGetValue(fact.Key, out var times))
                    _mails[fact.Key] = times = [];
                times.Add(fact.At!.Value);
                break;
        }
    }

    private enum About
    {
        Member,
        MadeOneWith,
        Invited,
        Bounced,
        OptedOut,
        Mailed,
    }

    private sealed class Fact
    {
        public required About About { get; init; }

        /// <summary>The key of the address; of one that asked not to be mailed, its hash.</summary>
        public required string Key { get; init; }
        public required Guid? Id { get; init; }
        public required DateOnly? LastDay { get; init; }
        public required DateTimeOffset? At { get; init; }
        public required string? Words { get; init; }
    }

    /// <summary>How an address stands at an instant.</summary>
    /// <param name="address">Which.</param>
    /// <param name="now">When.</param>
    /// <param name="zone">The workspace's time zone.</param>
    /// <param name="aside">An invitation that is not looked at: the one it is about.</param>
    public AddressStanding Of(EmailAddress address, DateTimeOffset now, TimeZoneInfo zone, Guid? aside = null)
    {
        Guid? member =
            _members.TryGetValue(address.Key, out var found) && !new Stay(found.LastDay).IsOver(now, zone)
                ? found.Id
                : null;
        Guid? pending =
            _pending.TryGetValue(address.Key, out var invited)
            && invited.Id != aside
            && (invited.Deadline is not { } deadline || deadline > now)
                ? invited.Id
                : null;
        return new AddressStanding(
            member,
            pending,
            _optedOut.Count > 0
                && (
                    _optedOut.Contains(OptOuts.HashOf(address))
                    || _optedOut.Contains(OptOuts.HashOf(address, _workspace))
                ),
            _bounced.GetValueOrDefault(address.Key),
            _personal.Contains(address.Key),
            _mails.GetValueOrDefault(address.Key)?.Count(at => at > now - Day) ?? 0
        );
    }

    /// <summary>The host named by an address or id: a member of the staff; null when there is none.</summary>
    public MemberRow? Host(string? written) => written is null ? null : _hosts.GetValueOrDefault(written);

    /// <summary>Notes an invitation just decided, for those that are decided after it.</summary>
    public void NoteInvited(InvitationOffer offer, Guid id, DateTimeOffset deadline, DateOnly today)
    {
        _pending[offer.Address.Key] = (id, deadline);
        foreach (var pool in offer.Gives.Pools)
        {
            if (_seats[pool].In(today.Year).Reserve(out _).Try(out var account, out _))
                _seats[pool] = account;
        }
        if (offer.OrganisationId is { } own)
            _organisations[own] = OfOrganisation(own) + 1;
    }

    /// <summary>Notes that an invitation is under way no more, for those that are decided after it.</summary>
    public void NoteOver(InvitationOffer offer, Guid id)
    {
        if (_pending.TryGetValue(offer.Address.Key, out var pending) && pending.Id == id)
            _pending.Remove(offer.Address.Key);
        if (offer.OrganisationId is { } own)
            _organisations[own] = OfOrganisation(own) - 1;
    }

    /// <summary>Reads which addresses are those of personally held accounts: only at domains the workspace has proved.</summary>
    private async Task ReadPersonalAsync(ComeAboardContext rows, IReadOnlyCollection<EmailAddress> addresses)
    {
        var proved = await rows
            .Domains.Where(d => d.Holds != null && d.MissingSince == null)
            .Select(d => d.Domain)
            .ToListAsync();
        var keys = addresses
            .Where(address => proved.Contains(address.DomainKey))
            .Select(address => address.Key)
            .Distinct()
            .ToArray();
        if (keys.Length == 0)
            return;
        await foreach (
            var key in (
                from at in rows.AccountAddresses
                join account in rows.Accounts on at.AccountId equals account.Id
                where
                    keys.Contains(at.AddressKey)
                    && at.ProvedAt != null
                    && at.Address == account.Address
                    && account.CustodyId == null
                select at.AddressKey
            ).AsAsyncEnumerable()
        )
            _personal.Add(key);
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
            _organisations[id] = await Organisations.HeadcountAsync(rows, id);
    }

    /// <summary>An overdue invitation nobody has noticed yet must not stand in the way of a new one.</summary>
    public async Task ExpireOverdueAsync(
        WorkspaceWrite write,
        Consequences consequences,
        IReadOnlyCollection<Guid>? aside = null
    )
    {
        var overdue = _pending
            .Values.Where(invited => invited.Deadline <= write.Now && aside?.Contains(invited.Id) != true)
            .Select(invited => invited.Id)
            .ToList();
        if (overdue.Count == 0)
            return;
        foreach (
            var invitation in await write.Rows.Invitations.Where(i => overdue.Contains(i.Id)).ToListAsync()
        )
            await consequences.ExpireAsync(write, invitation);
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
