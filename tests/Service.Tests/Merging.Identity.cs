using System.Text.Json;
using ComeAboard.Client.Accounts;
using ComeAboard.Core.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Record;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <content>Merging and parting comes to nothing, whatever two are: every row of every table is as it was.</content>
public abstract partial class Merging
{
    [Fact]
    public async Task Merged_and_parted_two_are_as_they_were_whatever_they_are()
    {
        var ship = await ShipAsync();
        var other = await ShipAsync();
        var model = await ModelAsync(ship);
        for (var seed = 1; seed <= 25; seed++)
        {
            var (one, two) = await PairAsync(ship, other, model, new Random(seed));
            var before = await DumpAsync(null);
            var wish = new MergeRequest(
                one,
                two,
                seed % 2 == 0 ? one : two,
                seed % 3 == 0 ? ["title", "name", "host"] : null,
                WithGains: seed % 4 == 0
            );
            var plan = await ship.Client.MergeAsync(wish, dryRun: true);
            Assert.True(plan.Problem is null, $"seed {seed}: {plan.Problem?.Title}");
            Assert.Equal(before, await DumpAsync(null));
            var done = await ship.Client.MergeAsync(wish);
            Assert.Equal(
                JsonSerializer.Serialize(plan.Steps.Select(step => step.Sentence)),
                JsonSerializer.Serialize(done.Steps.Select(step => step.Sentence))
            );
            Assert.NotEqual(before, await DumpAsync(null));
            await ship.OtherNode.UnmergeAsync(new UnmergeRequest(two));
            Same(before, await DumpAsync(null), seed);
        }
    }

    private static void Same(string before, string after, int seed) =>
        EveryRow.Same(before, after, $"seed {seed}");

    private Task<string> DumpAsync(Ship? ship) => EveryRow.DumpAsync(harbour, ship);

    private sealed record Model(
        Guid[] Groups,
        Guid[] Pools,
        Guid[] Resources,
        Guid[] Organisations,
        Guid Mira,
        Guid Application
    );

    private static async Task<Model> ModelAsync(Ship ship)
    {
        var client = ship.Client;
        await client.Areas.AddAsync(new Client.Access.AreaRequest("Deck"));
        foreach (var name in new[] { "Logbook", "Sails", "Stores" })
            await client.Resources.AddAsync(new Client.Access.ResourceRequest(name, "Deck"));
        foreach (var name in new[] { "Watch", "Rope hands" })
            await client.Groups.AddAsync(new Client.Access.GroupRequest(name));
        await client.GrantAsync(new Client.Access.GrantRequest("edit", Group: "Watch"));
        await client.GrantAsync(
            new Client.Access.GrantRequest("manage", Group: "Rope hands", Resource: "Sails")
        );
        foreach (var (name, total) in new[] { ("Radio", 60), ("Charts", 3) })
            await client.Pools.AddAsync(new Client.Access.PoolRequest(name, total));
        foreach (var (name, kind) in new[] { ("Brightmail", "guest"), ("Harbour board", "partner") })
            await client.Organisations.AddAsync(new Client.Access.OrganisationRequest(name, kind));
        await using var rows = ship.Harbour.Database.Open(ship.Id);
        return new Model(
            [.. await rows.Groups.Select(g => g.Id).ToListAsync()],
            [.. await rows.SeatPools.Select(p => p.Id).ToListAsync()],
            [.. await rows.Resources.Select(r => r.Id).ToListAsync()],
            [.. await rows.Organisations.Where(o => o.Name != "").Select(o => o.Id).ToListAsync()],
            await rows.Members.Select(m => m.Id).FirstAsync(),
            Guid.NewGuid()
        );
    }

    /// <summary>Two accounts, as different as they can be, with all that can hang on them.</summary>
    private async Task<(string One, string Two)> PairAsync(Ship ship, Ship other, Model model, Random random)
    {
        var (now, n) = (harbour.Clock.GetUtcNow(), Guid.NewGuid().ToString("N")[..8]);
        var addresses = new[] { ship.Address("one." + n), ship.Address("two." + n) };
        await using (var rows = harbour.Database.Open(ship.Id))
        {
            var members = new List<MemberRow>();
            foreach (var address in addresses)
            {
                var account = await AccountOfAsync(rows, ship, address, now, random);
                var member = MemberOf(ship, account, address, model, now, random);
                members.Add(member);
                rows.Members.Add(member);
                Give(rows, ship, member.Id, model, now, random);
                await SeatAsync(rows, ship, member.Id, model, now, random);
            }
            // One may host the other; both may host somebody else.
            await rows.SaveChangesAsync();
            var guest = MemberOf(
                ship,
                await AccountOfAsync(rows, ship, ship.Address("guest." + n), now, random),
                ship.Address("guest." + n),
                model,
                now,
                random
            );
            var host = members[random.Next(2)];
            (guest.HostId, guest.HostName) = (host.Id, host.Name);
            rows.Members.Add(guest);
            if (random.Next(3) == 0)
                (members[0].HostId, members[0].HostName) = (members[1].Id, members[1].Name);
            foreach (var resource in await rows.Resources.ToListAsync())
                if (random.Next(3) == 0)
                    resource.OwnerId = members[random.Next(2)].Id;
            await rows.SaveChangesAsync();
            await TellAsync(rows, ship);
        }
        // One of the two is in another workspace as well, or was.
        await using (var rows = harbour.Database.Open(other.Id))
        {
            var account = await rows.Accounts.FirstAsync(a => a.Address == addresses[1]);
            for (var places = random.Next(3); places > 0; places--)
            {
                var member = MemberOf(other, account.Id, addresses[1], null, now, random);
                if (places > 1 || random.Next(2) == 0)
                    member.EndedAt = now;
                rows.Members.Add(member);
            }
            await rows.SaveChangesAsync();
            await TellAsync(rows, other);
        }
        return (addresses[0], addresses[1]);
    }

    /// <summary>Has every process read again who is here, and what they own.</summary>
    private static async Task TellAsync(Storage.ComeAboardContext rows, Ship ship)
    {
        var next =
            await rows.Workspaces.Where(w => w.Id == ship.Id).Select(w => w.AccessVersion).FirstAsync() + 1;
        var subjects = rows
            .ChangeTracker.Entries<MemberRow>()
            .Select(entry => entry.Entity.Subject)
            .Append(AccessSubject.Model)
            .Append(AccessSubject.Tokens)
            .Distinct()
            .ToList();
        foreach (var subject in subjects)
            rows.AccessChanges.Add(
                new AccessChangeRow
                {
                    WorkspaceId = ship.Id,
                    Version = next,
                    Kind = subject.Kind,
                    SubjectId = subject.Id,
                }
            );
        await rows.SaveChangesAsync();
        await rows
            .Workspaces.Where(w => w.Id == ship.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(w => w.AccessVersion, next));
    }

    private static async Task<Guid> AccountOfAsync(
        Storage.ComeAboardContext rows,
        Ship ship,
        string address,
        DateTimeOffset now,
        Random random
    )
    {
        var account = new AccountRow
        {
            Id = Guid.NewGuid(),
            Name = "Somebody " + random.Next(9),
            Address = address,
            Language = "en",
            CreatedAt = now,
            CustodyId = ship.Id,
            CustodySince = now,
        };
        rows.Accounts.Add(account);
        var notices = random.Next(4);
        foreach (var (at, isProved) in new[] { (address, true), ("x" + address, random.Next(2) == 0) })
            rows.AccountAddresses.Add(
                new AccountAddressRow
                {
                    AccountId = account.Id,
                    Address = at,
                    AddressKey = at.ToLowerInvariant(),
                    ProvedAt = isProved ? now : null,
                    TakesNotices = notices == (at == address ? 0 : 1),
                }
            );
        for (var ways = random.Next(3); ways > 0; ways--)
            rows.Credentials.Add(
                new CredentialRow
                {
                    AccountId = account.Id,
                    Id = Guid.NewGuid(),
                    Kind =
                        ways == 1
                            ? Core.Accounts.CredentialKind.OutsideIdentity
                            : Core.Accounts.CredentialKind.Passkey,
                    Label = "a way in",
                    Handle = Guid.NewGuid().ToString("N"),
                    Secret = "shown",
                    MadeAt = now,
                }
            );
        await rows.SaveChangesAsync();
        return account.Id;
    }

    private static MemberRow MemberOf(
        Ship ship,
        Guid account,
        string address,
        Model? model,
        DateTimeOffset now,
        Random random
    )
    {
        var kind = (Kind)random.Next(4);
        Guid? organisation =
            model is not null && kind == Kind.Guest && random.Next(2) == 0 ? model.Organisations[0] : null;
        return new MemberRow
        {
            WorkspaceId = ship.Id,
            Id = Guid.CreateVersion7(now),
            AccountId = account,
            Address = address,
            AddressKey = address.ToLowerInvariant(),
            Name = "Somebody " + random.Next(9),
            Kind = kind,
            LastDay =
                random.Next(2) == 0 ? null : DateOnly.FromDateTime(now.DateTime).AddDays(random.Next(1, 60)),
            FirstDay = random.Next(4) == 0 ? DateOnly.FromDateTime(now.DateTime).AddDays(1) : null,
            JoinedAt = now,
            PausedAt = random.Next(6) == 0 ? now : null,
            Organisation = organisation is null ? "" : "Brightmail",
            OrganisationId = organisation,
            Leads = organisation is not null && random.Next(2) == 0,
            Title = random.Next(2) == 0 ? "" : "Rigger",
            Country = random.Next(2) == 0 ? "" : "Portugal",
            HostId = model?.Mira,
            HostName = model is null ? "" : "Mira Tollander",
        }.WithSearchText();
    }

    private static void Give(
        Storage.ComeAboardContext rows,
        Ship ship,
        Guid member,
        Model model,
        DateTimeOffset now,
        Random random
    )
    {
        for (var grants = random.Next(4); grants > 0; grants--)
            rows.Grants.Add(
                new GrantRow
                {
                    WorkspaceId = ship.Id,
                    Id = Guid.NewGuid(),
                    HolderKind = HolderKind.Member,
                    HolderId = member,
                    RoleId = new[] { Role.View, Role.Contribute, Role.Edit, Role.Manage }[random.Next(4)].Id,
                    ResourceId = random.Next(2) == 0 ? null : model.Resources[random.Next(3)],
                    LastDay =
                        random.Next(2) == 0
                            ? null
                            : DateOnly.FromDateTime(now.DateTime).AddDays(random.Next(90)),
                    GivenAt = now,
                    GivenByName = "Mira Tollander",
                }
            );
        foreach (var group in model.Groups.Where(_ => random.Next(3) == 0))
            rows.GroupMembers.Add(
                new GroupMemberRow
                {
                    WorkspaceId = ship.Id,
                    GroupId = group,
                    MemberId = member,
                    Since = now,
                }
            );
        if (random.Next(4) == 0)
            rows.SwitchedOff.Add(
                new SwitchedOffRow
                {
                    WorkspaceId = ship.Id,
                    HolderId = member,
                    ResourceId = model.Resources[random.Next(3)],
                    IsOrganisation = false,
                    At = now,
                    ByName = "Mira Tollander",
                }
            );
        rows.ApiTokens.Add(
            new ApiTokenRow
            {
                WorkspaceId = ship.Id,
                Id = Guid.NewGuid(),
                MemberId = member,
                AccountId = rows.Members.Local.First(m => m.Id == member).AccountId,
                SecretHash = Guid.NewGuid().ToString("N") + Guid.NewGuid().ToString("N"),
                Label = "a program",
                CreatedAt = now,
                ExpiresAt = now.AddDays(30),
            }
        );
    }

    private static async Task SeatAsync(
        Storage.ComeAboardContext rows,
        Ship ship,
        Guid member,
        Model model,
        DateTimeOffset now,
        Random random
    )
    {
        foreach (var id in model.Pools.Where(_ => random.Next(2) == 0))
        {
            var pool = await rows.SeatPools.FirstAsync(p => p.Id == id);
            if (!pool.Account.Give().Try(out var account, out _))
                continue;
            pool.Account = account;
            rows.Seats.Add(
                new SeatRow
                {
                    WorkspaceId = ship.Id,
                    PoolId = id,
                    MemberId = member,
                    Since = now,
                    ForCustody = random.Next(3) == 0,
                }
            );
        }
        await rows.SaveChangesAsync();
    }
}
