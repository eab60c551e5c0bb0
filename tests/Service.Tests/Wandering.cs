using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using ComeAboard.Client.Access;
using ComeAboard.Client.Invitations;
using ComeAboard.Core.Access;
using ComeAboard.Service.Access;
using ComeAboard.Service.Tests.World;
using ComeAboard.Storage.Access;
using Microsoft.Extensions.DependencyInjection;
using Xunit;

namespace ComeAboard.Service.Tests;

public sealed class Wandering_on_SQLite(SqliteHarbour harbour)
    : Wandering(harbour),
        IClassFixture<SqliteHarbour>;

public sealed class Wandering_on_PostgreSQL(PostgresHarbour harbour)
    : Wandering(harbour),
        IClassFixture<PostgresHarbour>;

/// <summary>
/// Edits of every sort in any order, through the network interface of either node. After each, what was said beforehand,
/// what was said afterwards, what the nodes hold in memory and what the database holds are the same.
/// </summary>
public abstract class Wandering(Harbour harbour)
{
    private const int Edits = 60;
    private static readonly string[] Areas = ["Collection", "Shop", "Voyages"];
    private static readonly string[] Resources = ["Register", "Ledger", "Log book"];
    private static readonly string[] Groups = ["Reading room", "Crew"];
    private static readonly string[] Organisations = ["Gull Rock", "Sandpiper"];
    private static readonly string[] RoleNames = ["reader", "purser", "view", "edit", "manage"];

    /// <summary>Three walks; COMEABOARD_TEST_WALKS may say another number.</summary>
    public static TheoryData<int> Seeds =>
        [
            .. Enumerable.Range(
                1,
                int.TryParse(Environment.GetEnvironmentVariable("COMEABOARD_TEST_WALKS"), out var walks)
                    ? walks
                    : 3
            ),
        ];

    [Theory]
    [MemberData(nameof(Seeds))]
    public async Task What_is_said_of_an_edit_is_what_it_does_in_memory_and_in_the_database(int seed)
    {
        var random = new Random(seed);
        var (ship, people) = await ShipAsync();
        using var here = Http(ship.Token, harbour.Node, ship.Name);
        using var there = Http(ship.Token, harbour.OtherNode, ship.Name);
        var (done, changing) = (0, 0);
        for (var n = 0; n < Edits; n++)
        {
            var before = await WorldAsync(harbour.Node, ship, 0);
            var (method, path, body) = AnyEdit(random, before, people);
            var node = random.Next(2) == 0 ? here : there;
            var what = $"{n}: {method} {path} {JsonSerializer.Serialize(body)}";
            if (await AskAsync(node, method, path, body, true) is not { } planned)
                continue;
            Assert.True(
                Same(before, await WorldAsync(harbour.Node, ship, before.Version)),
                "Planning changed something: " + what
            );
            var real = await AskAsync(node, method, path, body, false);
            Assert.True(real is not null, "Planned, but refused: " + what);
            Assert.Equal(planned.OrderBy(c => c.ToString()), real.OrderBy(c => c.ToString()));
            await using var rows = harbour.Database.Open(ship.Id);
            var fresh = (await AccessPicture.ReadAsync(rows, 0)).World;
            var version = harbour.Database.Open().Workspaces.Single(w => w.Id == ship.Id).AccessVersion;
            foreach (var at in new[] { harbour.Node, harbour.OtherNode })
                Assert.True(Same(fresh, await WorldAsync(at, ship, version)), "Memory is another: " + what);
            Assert.True(
                Changes(before, fresh).SetEquals(real.Where(c => c.Place is not null)),
                $"{what} said {string.Join(" ", real)} and did {string.Join(" ", Changes(before, fresh))}"
            );
            done++;
            changing += real.Count > 0 ? 1 : 0;
        }
        // Else nothing was tried.
        Assert.True(
            done > Edits / 4 && changing > Edits / 12,
            $"{done} edits, {changing} of them changing something"
        );
    }

    /// <summary>Every level that differs, place by place, found without any help of the service's own comparing.</summary>
    private static HashSet<ChangeView> Changes(AccessWorld before, AccessWorld after)
    {
        var today = DateOnly.FromDateTime(DateTime.UtcNow);
        var changes = new HashSet<ChangeView>();
        foreach (var id in before.People.Keys.Union(after.People.Keys))
        {
            foreach (var (key, was) in Places(before))
            {
                var now = Places(after).GetValueOrDefault(key);
                var (had, has) = (
                    before.LevelOf(id, was.Place, today),
                    now.Name is null ? Level.None : after.LevelOf(id, now.Place, today)
                );
                if (had != has)
                    changes.Add(
                        new ChangeView(
                            id,
                            (after.People.GetValueOrDefault(id) ?? before.People[id]).Name,
                            now.Name ?? was.Name,
                            had.Word(),
                            has.Word()
                        )
                    );
            }
        }
        return changes;

        static Dictionary<Guid, (string Name, Place Place)> Places(AccessWorld world) =>
            world
                .Resources.Values.Select(r => (r.Id, (r.Name, Place.At(r))))
                .Concat(world.Areas.Values.Select(a => (a.Id, (a.Name, Place.In(a)))))
                .Append((Guid.Empty, ("everything else", Place.Elsewhere)))
                .ToDictionary(p => p.Item1, p => p.Item2);
    }

    /// <summary>Whether two worlds answer alike, now and later, for everybody and everywhere.</summary>
    private static bool Same(AccessWorld one, AccessWorld other)
    {
        var today = DateOnly.FromDateTime(DateTime.UtcNow);
        return one.People.Keys.Order().SequenceEqual(other.People.Keys.Order())
            && one.Places().ToHashSet().SetEquals(other.Places())
            && one.People.Values.All(person =>
                other.ByAddress.GetValueOrDefault(person.AddressKey) == person.Id
            )
            && one.People.Keys.All(id =>
                Enumerable
                    .Range(-1, 5)
                    .All(days =>
                        one.DutiesOf(id, today.AddDays(days)) == other.DutiesOf(id, today.AddDays(days))
                        && one.Places()
                            .All(place =>
                                one.LevelOf(id, place, today.AddDays(days))
                                == other.LevelOf(id, place, today.AddDays(days))
                            )
                    )
            );
    }

    private static (string Method, string Path, object? Body) AnyEdit(
        Random random,
        AccessWorld world,
        IReadOnlyList<string> people
    )
    {
        var today = DateOnly.FromDateTime(DateTime.UtcNow);
        var grants = world
            .People.Values.SelectMany(p => p.Grants)
            .Concat(world.Groups.Values.SelectMany(g => g.Grants))
            .Concat(world.Organisations.Values.SelectMany(o => o.Grants))
            .ToList();
        var grant = grants[random.Next(grants.Count)].Id;
        var person = Any(people);
        DateOnly? later = random.Next(3) == 0 ? today.AddDays(random.Next(4)) : null;
        return random.Next(16) switch
        {
            0 or 1 => (
                "POST",
                "grants",
                new GrantRequest(Any(RoleNames), person, Resource: Perhaps(Resources), From: later)
            ),
            2 => (
                "POST",
                "grants",
                new GrantRequest(
                    Any(RoleNames),
                    Group: Any(Groups),
                    Resource: Perhaps(Resources),
                    Until: later
                )
            ),
            3 => (
                "POST",
                "grants",
                new GrantRequest(
                    Any(RoleNames),
                    Organisation: Any(Organisations),
                    Resource: Perhaps(Resources)
                )
            ),
            4 => ("PUT", $"grants/{grant}", new GrantChangeRequest(Any(RoleNames), later)),
            5 => ("DELETE", $"grants/{grant}", null),
            6 => ("POST", $"groups/{Any(Groups)}/members", new PeopleRequest([person, Any(people)])),
            7 => ("DELETE", $"groups/{Any(Groups)}/members/{person}", null),
            8 => ("POST", $"resources/{Any(Resources)}/off", new SwitchRequest(person)),
            9 => (
                "POST",
                $"resources/{Any(Resources)}/off",
                new SwitchRequest(Organisation: Any(Organisations))
            ),
            10 when world.SwitchedOff.FirstOrDefault() is var off && off.Holder != default => (
                "DELETE",
                $"resources/{off.Resource}/off/{off.Holder}",
                null
            ),
            11 => ("PUT", "roles/" + Any(["reader", "purser"]), AnyRole()),
            12 => ("PUT", "resources/" + Any(Resources), AnyResource()),
            13 => ("PUT", "organisations/" + Any(Organisations), AnyOrganisation()),
            14 => (
                "POST",
                "people/steps",
                new Client.Accounts.PeopleStepRequest(Any(["pause", "resume"]), [person])
            ),
            15 when random.Next(3) == 0 => ("DELETE", "resources/" + Any(Resources), null),
            _ => ("POST", "resources", AnyResource()),
        };

        T Any<T>(IReadOnlyList<T> among) => among[random.Next(among.Count)];
        string? Perhaps(IReadOnlyList<string> among) => random.Next(2) == 0 ? Any(among) : null;
        string AnyLevel() => Any(["none", "view", "contribute", "edit"]);
        RoleRequest AnyRole() =>
            new(
                Any(["reader", "purser"]),
                "Does what it does today.",
                AnyLevel(),
                [new(Any(Areas), AnyLevel())],
                random.Next(2) == 0 ? ["record"] : []
            );
        ResourceRequest AnyResource() => new(Any(Resources), Any(Areas));
        OrganisationRequest AnyOrganisation() =>
            new(
                Any(Organisations),
                "partner",
                AgreementEnds: Any<DateOnly?>([null, today.AddDays(-1), today.AddDays(2)])
            );
    }

    /// <summary>Asks for an edit, and reads what it says it changes; null when it is refused.</summary>
    private static async Task<List<ChangeView>?> AskAsync(
        HttpClient node,
        string method,
        string path,
        object? body,
        bool dryRun
    )
    {
        using var request = new HttpRequestMessage(
            new HttpMethod(method),
            $"{path}?dryRun={(dryRun ? "true" : "false")}"
        );
        request.Headers.TryAddWithoutValidation("If-Match", "*");
        if (body is not null)
            request.Content = JsonContent.Create(body, body.GetType());
        using var answer = await node.SendAsync(request);
        var text = await answer.Content.ReadAsStringAsync();
        using var json = JsonDocument.Parse(text);
        if (!answer.IsSuccessStatusCode)
        {
            Assert.True((int)answer.StatusCode is 403 or 404 or 409 or 422, text);
            return null;
        }
        if (json.RootElement.TryGetProperty("refused", out var refused) && refused.GetArrayLength() > 0)
            return null;
        return json
            .RootElement.GetProperty("difference")
            .GetProperty("changes")
            .Deserialize<List<ChangeView>>(JsonSerializerOptions.Web);
    }

    /// <summary>What a node answers from, once it has seen a version.</summary>
    private static async Task<AccessWorld> WorldAsync(
        Microsoft.AspNetCore.Builder.WebApplication node,
        Ship ship,
        long version
    )
    {
        for (var tries = 0; tries < 200; tries++)
        {
            var kept = await Patience.ThroughAsync(() =>
                node.Services.GetRequiredService<AccessWorlds>().NowAsync(ship.Name).AsTask()
            );
            if (kept!.World.Version >= version)
                return kept.World;
            await Task.Delay(25);
        }
        throw new TimeoutException("The node has not seen the change.");
    }

    private async Task<(Ship, IReadOnlyList<string>)> ShipAsync()
    {
        var ship = await harbour.NewShipAsync();
        foreach (var area in Areas)
            await ship.Client.Areas.AddAsync(new AreaRequest(area, area == "Shop"));
        for (var n = 0; n < Resources.Length; n++)
            await ship.Client.Resources.AddAsync(new ResourceRequest(Resources[n], Areas[n]));
        foreach (var role in new[] { "reader", "purser" })
            await ship.Client.Roles.AddAsync(
                new RoleRequest(role, "Reads.", "view", [new AreaLevel("Shop", "edit")])
            );
        foreach (var group in Groups)
            await ship.Client.Groups.AddAsync(new GroupRequest(group));
        foreach (var organisation in Organisations)
            await ship.Client.Organisations.AddAsync(new OrganisationRequest(organisation, "partner"));
        var people = new List<string> { ship.Administrator };
        foreach (
            var (name, kind, organisation) in new[]
            {
                ("kofi", "staff", null),
                ("ines", "guest", null),
                ("ada", "partner", Organisations[0]),
                ("bo", "partner", Organisations[1]),
            }
        )
        {
            var address = ship.Address(name);
            await ship.Client.SendInvitationAsync(
                new InvitationRequest(address, kind, "view") { Organisation = organisation },
                name
            );
            await ship.AcceptAsync(await ship.SecretAsync(address), name);
            people.Add(address);
        }
        return (ship, people);
    }

    private static HttpClient Http(
        string token,
        Microsoft.AspNetCore.Builder.WebApplication node,
        string ship
    )
    {
        var http = new HttpClient
        {
            BaseAddress = new Uri(Harbour.UrlOf(node), $"/api/v1/workspaces/{ship}/"),
        };
        http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        return http;
    }
}
