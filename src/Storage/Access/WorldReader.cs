using System.Collections.Immutable;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Storage.Access;

/// <summary>Whom an API token acts as, and the first instant at which it does not count any more (exclusive end).</summary>
public readonly record struct TokenHolder(Guid Id, Guid Member, Guid Account, DateTimeOffset ExpiresAt);

/// <summary>Who may do what in the entered workspace, and by which tokens programs ask, as read from the database.</summary>
/// <param name="World">Who may do what.</param>
/// <param name="Tokens">The member of each API token that counts, by its hash.</param>
/// <param name="Holders">Those members as they are written down; but for when they were last seen, which is of then.</param>
public sealed record AccessPicture(
    AccessWorld World,
    ImmutableDictionary<string, TokenHolder> Tokens,
    ImmutableDictionary<Guid, MemberRow> Holders
)
{
    // Many members at once are read in lots, as a statement takes only so many parameters.
    private const int LotSize = 500;

    /// <summary>Reads everything. All of it is of one moment only within a transaction that sees one.</summary>
    public static async Task<AccessPicture> ReadAsync(ComeAboardContext rows, long version)
    {
        var grants = await GrantsAsync(rows.Grants);
        var groups = new Dictionary<Guid, ImmutableArray<Guid>.Builder>();
        await foreach (
            var row in rows
                .GroupMembers.AsNoTracking()
                .Select(g => new { g.MemberId, g.GroupId })
                .AsAsyncEnumerable()
        )
        {
            if (!groups.TryGetValue(row.MemberId, out var list))
                groups[row.MemberId] = list = ImmutableArray.CreateBuilder<Guid>();
            list.Add(row.GroupId);
        }
        var people = new Dictionary<Guid, Person>();
        var byAddress = new Dictionary<string, Guid>();
        await foreach (var member in Here(rows.Members).AsAsyncEnumerable())
        {
            var person = member.ToPerson(
                grants.GetValueOrDefault((HolderKind.Member, member.Id), []),
                groups.TryGetValue(member.Id, out var own) ? own.ToImmutable() : []
            );
            people[person.Id] = person;
            byAddress[person.AddressKey] = person.Id;
        }
        foreach (var (address, kept) in await MergedAsync(rows.Members))
            byAddress.TryAdd(address, kept);
        var world = await WithModelAsync(AccessWorld.Empty, rows);
        world = world with
        {
            Version = version,
            People = LayeredDictionary<Guid, Person>.Of(people),
            ByAddress = LayeredDictionary<string, Guid>.Of(byAddress),
            Groups = (await rows.Groups.AsNoTracking().ToListAsync()).ToImmutableDictionary(
                g => g.Id,
                g => new Group(g.Id, g.Name, grants.GetValueOrDefault((HolderKind.Group, g.Id), []))
            ),
            Organisations = (await rows.Organisations.AsNoTracking().ToListAsync()).ToImmutableDictionary(
                o => o.Id,
                o => OrganisationOf(o, grants.GetValueOrDefault((HolderKind.Organisation, o.Id), []))
            ),
        };
        var tokens = await TokensAsync(rows);
        return new AccessPicture(
            world,
            tokens,
            await WithHoldersAsync(ImmutableDictionary<Guid, MemberRow>.Empty, rows, HoldersOf(tokens))
        );
    }

    /// <summary>Reads some subjects again.</summary>
    public async Task<AccessPicture> CatchUpAsync(
        ComeAboardContext rows,
        IReadOnlyCollection<AccessSubject> subjects,
        long version
    )
    {
        var (world, tokens, holders) = (World, Tokens, Holders);
        var stale = Ids(AccessSubjectKind.Member).Where(holders.ContainsKey).ToHashSet();
        if (subjects.Any(subject => subject.Kind == AccessSubjectKind.Model))
            world = await WithModelAsync(world, rows);
        if (subjects.Any(subject => subject.Kind == AccessSubjectKind.Tokens))
        {
            tokens = await TokensAsync(rows);
            var now = HoldersOf(tokens).ToHashSet();
            holders = holders.RemoveRange(holders.Keys.Except(now));
            stale.IntersectWith(now);
            stale.UnionWith(now.Except(holders.Keys));
        }
        holders = await WithHoldersAsync(holders, rows, stale);
        foreach (var id in Ids(AccessSubjectKind.Group))
        {
            var row = await rows.Groups.AsNoTracking().FirstOrDefaultAsync(g => g.Id == id);
            world = world with
            {
                Groups = row is null
                    ? world.Groups.Remove(id)
                    : world.Groups.SetItem(
                        id,
                        new Group(id, row.Name, await GrantsOfAsync(rows, HolderKind.Group, id))
                    ),
            };
        }
        foreach (var id in Ids(AccessSubjectKind.Organisation))
        {
            var row = await rows.Organisations.AsNoTracking().FirstOrDefaultAsync(o => o.Id == id);
            world = world with
            {
                Organisations = row is null
                    ? world.Organisations.Remove(id)
                    : world.Organisations.SetItem(
                        id,
                        OrganisationOf(row, await GrantsOfAsync(rows, HolderKind.Organisation, id))
                    ),
            };
        }
        foreach (var lot in Ids(AccessSubjectKind.Member).Chunk(LotSize))
            world = await WithMembersAsync(world, rows, lot);
        return new AccessPicture(world with { Version = version }, tokens, holders);

        IEnumerable<Guid> Ids(AccessSubjectKind kind) =>
            subjects.Where(subject => subject.Kind == kind).Select(subject => subject.Id).Distinct();
    }

    private static async Task<AccessWorld> WithMembersAsync(
        AccessWorld world,
        ComeAboardContext rows,
        Guid[] ids
    )
    {
        var members = await Here(rows.Members.Where(m => ids.Contains(m.Id))).ToListAsync();
        var grants = await GrantsAsync(
            rows.Grants.Where(g => g.HolderKind == HolderKind.Member && ids.Contains(g.HolderId))
        );
        var groups = (
            await rows.GroupMembers.AsNoTracking().Where(g => ids.Contains(g.MemberId)).ToListAsync()
        ).ToLookup(g => g.MemberId, g => g.GroupId);
        // Whoever is gone first: their address may belong to somebody else by now.
        var left = ids.Except(members.Select(m => m.Id)).ToList();
        foreach (var gone in left)
            world = world.Without(gone);
        if (left.Count > 0)
            foreach (var (address, kept) in await MergedAsync(rows.Members.Where(m => left.Contains(m.Id))))
                if (!world.ByAddress.ContainsKey(address))
                    world = world with { ByAddress = world.ByAddress.SetItem(address, kept) };
        foreach (var member in members)
            world = world.With(
                member.ToPerson(
                    grants.GetValueOrDefault((HolderKind.Member, member.Id), []),
                    [.. groups[member.Id]]
                )
            );
        return world;
    }

    private static async Task<AccessWorld> WithModelAsync(AccessWorld world, ComeAboardContext rows)
    {
        var areas = await rows.Areas.AsNoTracking().ToListAsync();
        var roles = await rows.Roles.AsNoTracking().ToListAsync();
        return world with
        {
            Areas = areas.ToImmutableDictionary(a => a.Id, a => a.Area),
            Dependencies =
            [
                .. areas.SelectMany(a =>
                    a.NeedsByArea.Select(need => new Dependency(a.Id, need.Key, need.Value))
                ),
            ],
            Roles = Role.AllBuiltIn.Concat(roles.Select(r => r.Role)).ToImmutableDictionary(role => role.Id),
            Resources = (await rows.Resources.AsNoTracking().ToListAsync()).ToImmutableDictionary(
                r => r.Id,
                r => r.Resource
            ),
            SwitchedOff =
            [
                .. (await rows.SwitchedOff.AsNoTracking().ToListAsync()).Select(s =>
                    (s.HolderId, s.ResourceId)
                ),
            ],
            Pools = (
                await rows.SeatPools.AsNoTracking().Select(p => new { p.Id, p.Name }).ToListAsync()
            ).ToImmutableDictionary(p => p.Id, p => p.Name),
        };
    }

    private static async Task<ImmutableDictionary<string, TokenHolder>> TokensAsync(ComeAboardContext rows) =>
        (
            await rows
                .ApiTokens.AsNoTracking()
                .Where(t => t.RevokedAt == null)
                .Select(t => new
                {
                    t.SecretHash,
                    t.Id,
                    t.MemberId,
                    t.AccountId,
                    t.ExpiresAt,
                })
                .ToListAsync()
        ).ToImmutableDictionary(
            t => t.SecretHash,
            t => new TokenHolder(t.Id, t.MemberId, t.AccountId, t.ExpiresAt),
            StringComparer.Ordinal
        );

    private static IEnumerable<Guid> HoldersOf(ImmutableDictionary<string, TokenHolder> tokens) =>
        tokens.Values.Select(token => token.Member);

    private static async Task<ImmutableDictionary<Guid, MemberRow>> WithHoldersAsync(
        ImmutableDictionary<Guid, MemberRow> holders,
        ComeAboardContext rows,
        IEnumerable<Guid> ids
    )
    {
        foreach (var lot in ids.Distinct().Chunk(LotSize))
            holders = holders.SetItems(
                await rows.Members.AsNoTracking().Where(m => lot.Contains(m.Id)).ToDictionaryAsync(m => m.Id)
            );
        return holders;
    }

    private static async Task<ImmutableArray<Grant>> GrantsOfAsync(
        ComeAboardContext rows,
        HolderKind kind,
        Guid holder
    ) =>
        (
            await GrantsAsync(rows.Grants.Where(g => g.HolderKind == kind && g.HolderId == holder))
        ).GetValueOrDefault((kind, holder), []);

    private static async Task<Dictionary<(HolderKind, Guid), ImmutableArray<Grant>>> GrantsAsync(
        IQueryable<GrantRow> among
    )
    {
        var found = new Dictionary<(HolderKind, Guid), List<Grant>>();
        await foreach (
            var g in among
                .AsNoTracking()
                .Select(g => new
                {
                    g.Id,
                    g.HolderKind,
                    g.HolderId,
                    g.RoleId,
                    g.ResourceId,
                    g.FirstDay,
                    g.LastDay,
                    g.Version,
                })
                .AsAsyncEnumerable()
        )
        {
            if (!found.TryGetValue((g.HolderKind, g.HolderId), out var list))
                found[(g.HolderKind, g.HolderId)] = list = [];
            list.Add(
                new Grant(g.Id, g.RoleId, g.ResourceId, new Stay(g.LastDay, g.FirstDay))
                {
                    Version = g.Version,
                }
            );
        }
        return found.ToDictionary(pair => pair.Key, pair => pair.Value.ToImmutableArray());
    }

    /// <summary>The addresses of those who were made one with another, and whom they lead to.</summary>
    private static async Task<IReadOnlyList<(string Address, Guid Kept)>> MergedAsync(
        IQueryable<MemberRow> members
    ) =>
        [
            .. (
                await members
                    .AsNoTracking()
                    .Where(m => m.MergedIntoId != null)
                    .Select(m => new { m.AddressKey, m.MergedIntoId })
                    .ToListAsync()
            ).Select(m => (m.AddressKey, m.MergedIntoId!.Value)),
        ];

    private static IQueryable<FoundMember> Here(IQueryable<MemberRow> members) =>
        members
            .AsNoTracking()
            .Where(m => m.EndedAt == null)
            .Select(m => new FoundMember(
                m.Id,
                m.Kind,
                m.FirstDay,
                m.LastDay,
                m.PausedAt != null,
                m.OrganisationId,
                m.Leads,
                m.AddressKey,
                m.Name
            ));

    private static Organisation OrganisationOf(OrganisationRow row, ImmutableArray<Grant> grants) =>
        new(row.Id, row.Name, row.Kind, row.AgreementEnds, [.. row.DomainList], row.Cap, grants)
        {
            Code = row.Code,
        };

    private sealed record FoundMember(
        Guid Id,
        Kind Kind,
        DateOnly? FirstDay,
        DateOnly? LastDay,
        bool IsPaused,
        Guid? OrganisationId,
        bool Leads,
        string AddressKey,
        string Name
    )
    {
        public Person ToPerson(ImmutableArray<Grant> grants, ImmutableArray<Guid> groups) =>
            new(Id, Kind, new Stay(LastDay, FirstDay), IsPaused, OrganisationId, Leads, grants, groups)
            {
                AddressKey = AddressKey,
                Name = Name,
            };
    }
}
