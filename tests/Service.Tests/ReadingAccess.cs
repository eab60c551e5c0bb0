using ComeAboard.Client.Access;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class ReadingAccess_on_SQLite(SqliteHarbour harbour)
    : ReadingAccess(harbour),
        IClassFixture<SqliteHarbour>
{
    [Fact]
    public async Task What_is_kept_of_another_kind_is_refused_and_not_taken_for_nothing()
    {
        var ship = await harbour.NewShipAsync();
        foreach (
            var (column, value) in new[]
            {
                ("id", "a lantern"),
                ("id", "01a22a3d-d2c0-7671-97ab-2fe06bb6a88b and more"),
                ("role_id", ""),
                ("resource_id", "01a22a3d"),
                ("first_day", "2026-11-31"),
                ("last_day", "today"),
                ("holder_id", "a lantern"),
            }
        )
        {
            await using var rows = harbour.Database.Open(ship.Id);
            await using var aside = await rows.Database.BeginTransactionAsync();
            await rows.Grants.ExecuteUpdateAsync(set => set.SetProperty(g => g.Version, 3));
            Assert.NotEmpty((await AccessPicture.ReadAsync(rows, 0)).World.People);
            await rows.Database.ExecuteSqlRawAsync(
                string.Concat("UPDATE grants SET ", column, " = {0} WHERE version = 3"),
                value
            );
            var fault = await Assert.ThrowsAsync<InvalidDataException>(() =>
                AccessPicture.ReadAsync(rows, 0)
            );
            Assert.Contains(
                column.Replace("_", "", StringComparison.Ordinal),
                fault.Message,
                StringComparison.OrdinalIgnoreCase
            );
        }
    }
}

public sealed class ReadingAccess_on_PostgreSQL(PostgresHarbour harbour)
    : ReadingAccess(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>Who may do what comes out of the database as the mapper would read it, and is there before anybody asks.</summary>
public abstract class ReadingAccess(Harbour harbour)
{
    private const int Members = 120;
    private static readonly string[] Names = ["", "Zoë Quill", "海 \"the\" O'Mara\n", "A, B; C", "👩‍✈️"];

    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(3)]
    public async Task Everything_is_read_as_it_was_put_in(int seed)
    {
        var random = new Random(seed);
        var ship = await harbour.NewShipAsync();
        var groups = new List<Guid>
        {
            (await ship.Client.Groups.AddAsync(new GroupRequest("Reading room"))).Id,
            (await ship.Client.Groups.AddAsync(new GroupRequest("Crew"))).Id,
        };
        await using var rows = harbour.Database.Open(ship.Id);
        await using var aside = await rows.Database.BeginTransactionAsync();
        var members = Enumerable.Range(0, Members).Select(n => Member(ship.Id, n, random)).ToList();
        var holders = members.Select(m => (HolderKind.Member, m.Id)).ToList();
        holders.AddRange(groups.Select(id => (HolderKind.Group, id)));
        // What a group or an organisation of a member's id holds is not the member's.
        holders.AddRange(members.Take(20).Select(m => (HolderKind.Group, m.Id)));
        holders.AddRange(members.Take(20).Select(m => (HolderKind.Organisation, m.Id)));
        await RowLoader.LoadAsync(rows, typeof(MemberRow), members);
        await RowLoader.LoadAsync(
            rows,
            typeof(GrantRow),
            [.. Enumerable.Range(0, 4 * Members).Select(_ => Grant(ship.Id, holders, random))]
        );
        await RowLoader.LoadAsync(
            rows,
            typeof(GroupMemberRow),
            [
                .. from member in members
                from room in groups
                where random.Next(3) == 0
                select new GroupMemberRow
                {
                    WorkspaceId = ship.Id,
                    GroupId = room,
                    MemberId = member.Id,
                    Since = DateTimeOffset.UnixEpoch,
                },
            ]
        );

        var read = await AccessPicture.ReadAsync(rows, 7);
        var mapped = await ByTheMapperAsync(rows);
        Assert.Equal(7, read.World.Version);
        Assert.Equal(mapped, [.. read.World.People.Values.Select(Words).Order()]);
        foreach (var group in groups)
            Assert.Equal(
                await GrantsAsync(rows, HolderKind.Group, group),
                Words(read.World.Groups[group].Grants)
            );

        // Reading some of them again says the same of them.
        var again = await read.CatchUpAsync(
            rows,
            [.. members.Take(50).Select(m => m.Subject), AccessSubject.Member(Guid.NewGuid())],
            8
        );
        Assert.Equal(mapped, [.. again.World.People.Values.Select(Words).Order()]);
    }

    [Fact]
    public async Task Who_may_do_what_is_read_after_a_start_before_anybody_asks()
    {
        var ship = await harbour.NewShipAsync();
        await using var node = ServiceHost.Build(harbour.Settings, harbour.Clock, Harbour.Quickly);
        await node.StartAsync(TestContext.Current.CancellationToken);
        var worlds = node.Services.GetRequiredService<AccessWorlds>();
        var kept = await World.Patience.UntilAsync(
            () => Task.FromResult(worlds.Recent(ship.Name)),
            seen => seen is not null
        );
        Assert.Single(kept!.World.People.Values);
        await node.StopAsync(TestContext.Current.CancellationToken);
    }

    private static MemberRow Member(Guid ship, int n, Random random) =>
        new MemberRow
        {
            WorkspaceId = ship,
            Id = Guid.NewGuid(),
            AccountId = Guid.NewGuid(),
            Address = $"sailor{n}@harbour.example",
            AddressKey = $"sailor{n}@harbour.example",
            Name = Names[random.Next(Names.Length)],
            Kind = (Kind)random.Next(4),
            FirstDay = Day(random),
            LastDay = Day(random),
            PausedAt = Perhaps(random, DateTimeOffset.UnixEpoch),
            OrganisationId = Perhaps(random, Guid.NewGuid()),
            Leads = random.Next(2) == 0,
            JoinedAt = DateTimeOffset.UnixEpoch,
            EndedAt = random.Next(10) == 0 ? DateTimeOffset.UnixEpoch : null,
        }.WithSearchText();

    private static GrantRow Grant(Guid ship, List<(HolderKind, Guid)> holders, Random random)
    {
        var (kind, id) = holders[random.Next(holders.Count)];
        return new GrantRow
        {
            WorkspaceId = ship,
            Id = Guid.NewGuid(),
            HolderKind = kind,
            HolderId = id,
            RoleId = random.Next(2) == 0 ? Role.View.Id : Guid.NewGuid(),
            ResourceId = Perhaps(random, Guid.NewGuid()),
            FirstDay = Day(random),
            LastDay = Day(random),
            GivenAt = DateTimeOffset.UnixEpoch,
            GivenByName = "Mira Tollander",
            Version = random.Next(1, int.MaxValue),
        };
    }

    private static DateOnly? Day(Random random) =>
        Perhaps(random, DateOnly.FromDayNumber(random.Next(DateOnly.MaxValue.DayNumber + 1)));

    private static T? Perhaps<T>(Random random, T value)
        where T : struct => random.Next(2) == 0 ? value : null;

    private static async Task<List<string>> ByTheMapperAsync(ComeAboardContext rows)
    {
        var people = new List<string>();
        foreach (var m in await rows.Members.AsNoTracking().Where(m => m.EndedAt == null).ToListAsync())
        {
            var theirs = await rows.GroupMembers.Where(g => g.MemberId == m.Id).ToListAsync();
            people.Add(
                Words(
                    new Person(
                        m.Id,
                        m.Kind,
                        m.Stay,
                        m.PausedAt is not null,
                        m.OrganisationId,
                        m.Leads,
                        [],
                        [.. theirs.Select(g => g.GroupId)]
                    )
                    {
                        AddressKey = m.AddressKey,
                        Name = m.Name,
                    },
                    await GrantsAsync(rows, HolderKind.Member, m.Id)
                )
            );
        }
        return [.. people.Order()];
    }

    private static async Task<string> GrantsAsync(ComeAboardContext rows, HolderKind kind, Guid id) =>
        Words(
            (
                await rows
                    .Grants.AsNoTracking()
                    .Where(g => g.HolderKind == kind && g.HolderId == id)
                    .ToListAsync()
            ).Select(g => new Grant(g.Id, g.RoleId, g.ResourceId, new Stay(g.LastDay, g.FirstDay))
            {
                Version = g.Version,
            })
        );

    private static string Words(Person person) => Words(person, Words(person.Grants));

    private static string Words(Person person, string grants) =>
        $"{person with { Grants = [], Groups = [] }} in {string.Join(' ', person.Groups.Order())}: {grants}";

    private static string Words(IEnumerable<Grant> grants) =>
        string.Join(' ', grants.Select(grant => grant.ToString()).Order());
}
