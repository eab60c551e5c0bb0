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
        var grants = await GrantsAsync(rows, rows.Grants);
        var groups = await GroupsAsync(rows, rows.GroupMembers);
        var people = new Dictionary<Guid, Person>();
        var byAddress = new Dictionary<string, Guid>();
        foreach (var person in await PeopleAsync(rows, rows.Members, grants[HolderKind.Member], groups))
        {
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
                g => new Group(g.Id, g.Name, grants[HolderKind.Group].Of(g.Id))
            ),
            Organisations = (await rows.Organisations.AsNoTracking().ToListAsync()).ToImmutableDictionary(
                o => o.Id,
                o => OrganisationOf(o, grants[HolderKind.Organisation].Of(o.Id))
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
        var grants = await GrantsAsync(
            rows,
            rows.Grants.Where(g => g.HolderKind == HolderKind.Member && ids.Contains(g.HolderId))
        );
        var groups = await GroupsAsync(rows, rows.GroupMembers.Where(g => ids.Contains(g.MemberId)));
        var people = await PeopleAsync(
            rows,
            rows.Members.Where(m => ids.Contains(m.Id)),
            grants[HolderKind.Member],
            groups
        );
        // Whoever is gone first: their address may belong to somebody else by now.
        var left = ids.Except(people.Select(person => person.Id)).ToList();
        foreach (var gone in left)
            world = world.Without(gone);
        if (left.Count > 0)
            foreach (var (address, kept) in await MergedAsync(rows.Members.Where(m => left.Contains(m.Id))))
                if (!world.ByAddress.ContainsKey(address))
                    world = world with { ByAddress = world.ByAddress.SetItem(address, kept) };
        foreach (var person in people)
            world = world.With(person);
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
        (await GrantsAsync(rows, rows.Grants.Where(g => g.HolderKind == kind && g.HolderId == holder)))[kind]
            .Of(holder);

    private static async Task<Dictionary<HolderKind, Gathered<Grant>>> GrantsAsync(
        ComeAboardContext rows,
        IQueryable<GrantRow> among
    )
    {
        var found = Enum.GetValues<HolderKind>().ToDictionary(kind => kind, _ => new Gathered<Grant>());
        await using var cursor = await RowCursor.OpenAsync(
            rows,
            among
                .AsNoTracking()
                .Select(g => new
                {
                    g.HolderKind,
                    g.HolderId,
                    g.Id,
                    g.RoleId,
                    g.ResourceId,
                    g.FirstDay,
                    g.LastDay,
                    g.Version,
                })
        );
        while (await cursor.NextAsync())
            found[cursor.Word<HolderKind>(0)]
                .Add(
                    cursor.Id(1),
                    new Grant(
                        cursor.Id(2),
                        cursor.Id(3),
                        cursor.IdOrNull(4),
                        new Stay(FirstDay: cursor.DayOrNull(5), LastDay: cursor.DayOrNull(6))
                    )
                    {
                        Version = cursor.Number(7),
                    }
                );
        return found;
    }

    private static async Task<Gathered<Guid>> GroupsAsync(
        ComeAboardContext rows,
        IQueryable<GroupMemberRow> among
    )
    {
        var found = new Gathered<Guid>();
        await using var cursor = await RowCursor.OpenAsync(
            rows,
            among.AsNoTracking().Select(g => new { g.MemberId, g.GroupId })
        );
        while (await cursor.NextAsync())
            found.Add(cursor.Id(0), cursor.Id(1));
        return found;
    }

    private static async Task<List<Person>> PeopleAsync(
        ComeAboardContext rows,
        IQueryable<MemberRow> among,
        Gathered<Grant> grants,
        Gathered<Guid> groups
    )
    {
        var people = new List<Person>();
        await using var cursor = await RowCursor.OpenAsync(
            rows,
            among
                .AsNoTracking()
                .Where(m => m.EndedAt == null)
                .Select(m => new
                {
                    m.Id,
                    m.Kind,
                    m.FirstDay,
                    m.LastDay,
                    m.PausedAt,
                    m.OrganisationId,
                    m.Leads,
                    m.AddressKey,
                    m.Name,
                })
        );
        while (await cursor.NextAsync())
        {
            var id = cursor.Id(0);
            people.Add(
                new Person(
                    id,
                    cursor.Word<Kind>(1),
                    new Stay(FirstDay: cursor.DayOrNull(2), LastDay: cursor.DayOrNull(3)),
                    IsPaused: !cursor.IsNull(4),
                    cursor.IdOrNull(5),
                    Leads: cursor.Flag(6),
                    grants.Of(id),
                    groups.Of(id)
                )
                {
                    AddressKey = cursor.Text(7),
                    Name = cursor.Text(8),
                }
            );
        }
        return people;
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

    private static Organisation OrganisationOf(OrganisationRow row, ImmutableArray<Grant> grants) =>
        new(row.Id, row.Name, row.Kind, row.AgreementEnds, [.. row.DomainList], row.Cap, grants)
        {
            Code = row.Code,
        };

    /// <summary>What belongs to each of many, as it comes.</summary>
    private sealed class Gathered<T>
    {
        private readonly Dictionary<Guid, ImmutableArray<T>.Builder> _of = [];

        public void Add(Guid owner, T value)
        {
            if (!_of.TryGetValue(owner, out var theirs))
                _of[owner] = theirs = ImmutableArray.CreateBuilder<T>(1);
            theirs.Add(value);
        }

        public ImmutableArray<T> Of(Guid owner) =>
            _of.TryGetValue(owner, out var theirs) ? theirs.ToImmutable() : [];
    }
}
