using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;

namespace ComeAboard.Core.Tests.Access;

/// <summary>Random workspaces: small, so that everything in them meets everything else.</summary>
public static class Worlds
{
    public static readonly DateOnly Today = new(2026, 11, 23);

    public static readonly Guid[] Ids =
    [
        .. Enumerable.Range(1, 12).Select(n => new Guid(n, 0, 0, new byte[8])),
    ];

    private static readonly Gen<DateOnly?> GenDay = Gen.OneOf(
        Gen.Const((DateOnly?)null),
        Gen.Int[-3, 3].Select(off => (DateOnly?)Today.AddDays(off))
    );

    public static readonly Gen<Stay> GenStay = Gen.Select(
        GenDay,
        GenDay,
        (first, last) => new Stay(last, first)
    );

    private static readonly Gen<Area[]> GenAreas = Gen.Int[0, 3]
        .Select(count => Ids.Take(count).Select(id => new Area(id, $"area {id}")).ToArray());

    public static readonly Gen<Role> GenRole = Gen.Select(
        Gen.Int[0, 4],
        Gen.Enum<Level>(),
        Gen.Select(Gen.Int[0, 3], Gen.Enum<Level>()).Array[0, 3],
        Gen.Int[0, 255],
        (which, everywhere, levels, duties) =>
            new Role(
                Ids[which],
                $"role {which}",
                "Does something.",
                everywhere,
                levels.DistinctBy(l => l.Item1).ToImmutableSortedDictionary(l => Ids[l.Item1], l => l.Item2),
                (Duties)duties
            )
    );

    public static readonly Gen<Grant> GenGrant = Gen.Select(
        Gen.Guid,
        Gen.Int[0, 8],
        Gen.Int[0, 5],
        GenStay,
        (id, role, resource, window) =>
            new Grant(
                id,
                role < 5 ? Ids[role] : Role.AllBuiltIn[role - 5].Id,
                resource < 3 ? Ids[resource] : null,
                window
            )
    );

    private static readonly Gen<ImmutableArray<Grant>> GenGrants = GenGrant
        .Array[0, 4]
        .Select(grants => grants.ToImmutableArray());

    public static readonly Gen<Person> GenPerson = Gen.Select(
        Gen.Select(Gen.Int[0, 5], Gen.Enum<Kind>(), GenStay, Gen.Int[0, 4]),
        Gen.Select(Gen.Int[0, 5], GenGrants, Gen.Int[0, 2].Array[0, 3]),
        (who, has) =>
            new Person(
                Ids[who.Item1],
                who.Item2,
                who.Item3,
                who.Item4 == 0,
                has.Item1 < 3 ? Ids[has.Item1] : null,
                false,
                has.Item2,
                [.. has.Item3.Distinct().Select(group => Ids[group])]
            )
            {
                AddressKey = $"{who.Item1}@ship.example",
            }
    );

    public static readonly Gen<AccessWorld> Any = Gen.Select(
        Gen.Select(GenPerson.Array[1, 5], GenRole.Array[0, 5], GenAreas, Gen.Int[0, 3]),
        Gen.Select(
            GenGrants.Array[3],
            Gen.Select(GenGrants, GenDay).Array[3],
            Gen.Select(Gen.Int[0, 5], Gen.Int[0, 2]).Array[0, 2]
        ),
        (a, b) =>
        {
            var (people, roles, areas, resources) = a;
            var (groups, organisations, off) = b;
            var world = AccessWorld.Empty with
            {
                Areas = areas.ToImmutableDictionary(area => area.Id),
                Resources = Ids.Take(areas.Length == 0 ? 0 : resources)
                    .Select((id, i) => new Resource(id, areas[i % areas.Length].Id, $"resource {i}"))
                    .ToImmutableDictionary(r => r.Id),
                Roles = AccessWorld.Empty.Roles.SetItems(roles.Select(r => KeyValuePair.Create(r.Id, r))),
                Groups = groups
                    .Select((grants, i) => new Group(Ids[i], $"group {i}", grants))
                    .ToImmutableDictionary(g => g.Id),
                Organisations = organisations
                    .Select(
                        (o, i) =>
                            new Organisation(Ids[i], $"body {i}", Kind.Guest, o.Item2, [], null, o.Item1)
                    )
                    .ToImmutableDictionary(o => o.Id),
                SwitchedOff = [.. off.Select(s => (Ids[s.Item1], Ids[s.Item2]))],
            };
            return people.Aggregate(world, (all, person) => all.With(person));
        }
    );

    /// <summary>Something somebody might do to a workspace.</summary>
    public static readonly Gen<Func<AccessWorld, AccessWorld>> GenEdit = Gen.OneOf(
        Gen.Int[0, 11].Select(n => (Func<AccessWorld, AccessWorld>)(world => world.Without(Ids[n]))),
        GenPerson.Select(person => (Func<AccessWorld, AccessWorld>)(world => world.With(person))),
        GenRole.Select(role =>
            (Func<AccessWorld, AccessWorld>)(
                world => world with { Roles = world.Roles.SetItem(role.Id, role) }
            )
        ),
        Gen.Select(Gen.Int[0, 2], GenGrants)
            .Select(g =>
                (Func<AccessWorld, AccessWorld>)(
                    world =>
                        world with
                        {
                            Groups = world.Groups.SetItem(Ids[g.Item1], new Group(Ids[g.Item1], "", g.Item2)),
                        }
                )
            ),
        // A resource put into another area, made, or removed.
        Gen.Select(Gen.Int[0, 2], Gen.Int[0, 3])
            .Select(r =>
                (Func<AccessWorld, AccessWorld>)(
                    world =>
                        world with
                        {
                            Resources =
                                r.Item2 < 3
                                    ? world.Resources.SetItem(
                                        Ids[r.Item1],
                                        new Resource(Ids[r.Item1], Ids[r.Item2], "")
                                    )
                                    : world.Resources.Remove(Ids[r.Item1]),
                        }
                )
            ),
        Gen.Int[0, 2]
            .Select(n =>
                (Func<AccessWorld, AccessWorld>)(world => world with { Areas = world.Areas.Remove(Ids[n]) })
            )
    );

    /// <summary>The same with an administrator in it.</summary>
    public static AccessWorld WithAdministrator(AccessWorld world, Guid? id = null) =>
        world.With(
            new Person(
                id ?? Ids[11],
                Kind.Staff,
                Stay.Endless,
                false,
                null,
                false,
                [new Grant(Guid.NewGuid(), Role.Manage.Id, null, Stay.Endless)],
                []
            )
            {
                AddressKey = "mira@ship.example",
            }
        );
}
