using System.Collections.Immutable;
using ComeAboard.Core.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

public sealed class EffectiveAccessWorlds
{
    // Worlds looked at, with every person and place in them.
    private static readonly int Many = Often.Times(100_000);

    [Fact]
    public void Access_is_what_a_plain_reading_of_the_rules_gives() =>
        Worlds.Any.Sample(
            world =>
            {
                foreach (var person in world.People.Values)
                {
                    foreach (var place in world.Places())
                        Assert.Equal(
                            Naive(world, person, place),
                            world.LevelOf(person.Id, place, Worlds.Today)
                        );
                    Assert.Equal(NaiveDuties(world, person), world.DutiesOf(person.Id, Worlds.Today));
                }
                Assert.Equal(Level.None, world.LevelOf(Guid.NewGuid(), Place.Elsewhere, Worlds.Today));
            },
            iter: Many
        );

    [Fact]
    public void An_explanation_names_exactly_the_grants_without_which_the_answer_changes() =>
        Worlds.Any.Sample(
            world =>
            {
                foreach (var person in world.People.Values)
                foreach (var place in world.Places())
                {
                    var answer = world.Explain(person.Id, place, Worlds.Today);
                    var named = answer.Because.Select(path => path.Grant.Id).ToHashSet();
                    Assert.Equal(answer.Level == Level.None, named.Count == 0);
                    if (named.Count == 0)
                        continue;
                    // Without all of them it changes; as long as one is left, it does not; without the others it never does.
                    Assert.True(Without(world, named).LevelOf(person.Id, place, Worlds.Today) < answer.Level);
                    foreach (var one in named)
                        Assert.Equal(
                            answer.Level,
                            Without(world, [.. named.Where(id => id != one).Concat(Others(world, named))])
                                .LevelOf(person.Id, place, Worlds.Today)
                        );
                }
            },
            iter: Many
        );

    [Fact]
    public void A_duty_is_explained_by_the_grants_that_give_it() =>
        Worlds.Any.Sample(world =>
        {
            foreach (var person in world.People.Values)
            foreach (var answer in world.ExplainDuties(person.Id, Worlds.Today))
            {
                var without = Without(world, [.. answer.Because.Select(path => path.Grant.Id)]);
                Assert.False(without.DutiesOf(person.Id, Worlds.Today).HasFlag(answer.Duty));
            }
        });

    [Fact]
    public void A_difference_names_everybody_whose_access_changes_and_nobody_else() =>
        Gen.Select(Worlds.Any, Worlds.GenEdit)
            .Sample(
                (before, edit) =>
                {
                    var after = edit(before);
                    var difference = AccessDifference.Between(before, after, Worlds.Today);
                    // A resource is the same wherever it is put, and what is removed gives nothing.
                    var (there, here) = (Named(before), Named(after));
                    var expected = (
                        from person in before.People.Keys.Union(after.People.Keys)
                        from name in there.Keys.Union(here.Keys)
                        let place = here.GetValueOrDefault(name) ?? there[name]!.Value
                        let was = before.LevelOf(person, there.GetValueOrDefault(name) ?? place, Worlds.Today)
                        let now = here.ContainsKey(name)
                            ? after.LevelOf(person, place, Worlds.Today)
                            : Level.None
                        where was != now
                        select new LevelChange(person, place, was, now)
                    ).ToHashSet();
                    Assert.Equal(expected, [.. difference.Levels]);
                    Assert.Equal(
                        before
                            .People.Keys.Union(after.People.Keys)
                            .Count(p => before.DutiesOf(p, Worlds.Today) != after.DutiesOf(p, Worlds.Today)),
                        difference.Duties.Count
                    );
                }
            );

    [Fact]
    public void Nobody_gives_what_they_do_not_hold() =>
        Gen.Select(Worlds.Any, Worlds.GenRole, Gen.Int[0, 3])
            .Sample(
                (world, role, at) =>
                {
                    world = world with { Roles = world.Roles.SetItem(role.Id, role) };
                    Guid? resource =
                        at < 3 && world.Resources.ContainsKey(Worlds.Ids[at]) ? Worlds.Ids[at] : null;
                    foreach (var giver in world.People.Keys)
                    {
                        if (GivingRules.Forbids(world, giver, role, resource, Worlds.Today) is not null)
                            continue;
                        // Whoever gets it may do nothing, anywhere, that the giver may not.
                        var taker = Guid.NewGuid();
                        var after = world.With(
                            new Person(
                                taker,
                                Kind.Staff,
                                default,
                                false,
                                null,
                                false,
                                [new Grant(Guid.NewGuid(), role.Id, resource, default)],
                                []
                            )
                        );
                        foreach (var place in after.Places())
                            Assert.True(
                                after.LevelOf(taker, place, Worlds.Today)
                                    <= Unswitched(after).LevelOf(giver, place, Worlds.Today)
                            );
                        if (resource is null)
                            Assert.Equal(
                                Duties.None,
                                after.DutiesOf(taker, Worlds.Today) & ~world.DutiesOf(giver, Worlds.Today)
                            );
                    }
                }
            );

    [Fact]
    public void Either_way_out_of_a_missing_dependency_leaves_none() =>
        Gen.Select(Worlds.GenRole, Gen.Select(Gen.Int[0, 3], Gen.Int[0, 3], Gen.Enum<Level>()).Array[0, 6])
            .Sample(
                (role, needs) =>
                {
                    Dependency[] dependencies =
                    [
                        .. needs.Select(n => new Dependency(
                            Worlds.Ids[n.Item1],
                            Worlds.Ids[n.Item2],
                            n.Item3
                        )),
                    ];
                    var advice = DependencyAdvice.For(role, dependencies);
                    Assert.Empty(DependencyAdvice.For(advice.Raised, dependencies).Gaps);
                    Assert.Empty(DependencyAdvice.For(advice.Lowered, dependencies).Gaps);
                    foreach (var area in Worlds.Ids)
                    {
                        Assert.True(advice.Raised.LevelIn(area) >= role.LevelIn(area));
                        Assert.True(advice.Lowered.LevelIn(area) <= role.LevelIn(area));
                    }
                    if (advice.Gaps.Count == 0)
                        Assert.Equal((role, role), (advice.Raised, advice.Lowered));
                }
            );

    [Theory]
    [InlineData(Level.Contribute, Level.Edit, true, false, true)]
    [InlineData(Level.Contribute, Level.Edit, false, false, false)]
    [InlineData(Level.Contribute, Level.View, false, false, true)]
    [InlineData(Level.Contribute, Level.View, false, true, false)]
    [InlineData(Level.Edit, Level.View, false, true, true)]
    [InlineData(Level.View, Level.View, null, true, true)]
    [InlineData(Level.View, Level.Contribute, null, false, false)]
    [InlineData(Level.None, Level.View, true, false, false)]
    [InlineData(Level.Edit, Level.Manage, true, false, false)]
    public void Entries_of_ones_own_and_of_others_are_told_apart(
        Level held,
        Level asked,
        bool? own,
        bool isPrivate,
        bool allowed
    ) => Assert.Equal(allowed, Decision.Allows(held, asked, own, isPrivate));

    private static Level Naive(AccessWorld world, Person person, Place place)
    {
        var today = Worlds.Today;
        var organisation = person.OrganisationId is { } own
            ? world.Organisations.GetValueOrDefault(own)
            : null;
        if (person.IsPaused || person.Stay.FirstDay > today || person.Stay.LastDay < today)
            return Level.None;
        if (organisation?.AgreementEnds < today)
            return Level.None;
        if (
            place.Resource is { } at
            && (
                world.SwitchedOff.Contains((person.Id, at))
                || person.OrganisationId is { } of && world.SwitchedOff.Contains((of, at))
            )
        )
            return Level.None;
        var all = person
            .Grants.Concat(
                person.Groups.SelectMany(g => world.Groups.TryGetValue(g, out var group) ? group.Grants : [])
            )
            .Concat(organisation?.Grants ?? []);
        return all.Where(g =>
                (g.ResourceId is null || g.ResourceId == place.Resource)
                && !(g.Window.FirstDay > today)
                && !(g.Window.LastDay < today)
                && world.Roles.ContainsKey(g.RoleId)
            )
            .Select(g => world.Roles[g.RoleId])
            .Select(role => role.Areas.TryGetValue(place.Area, out var level) ? level : role.Everywhere)
            .DefaultIfEmpty(Level.None)
            .Max();
    }

    private static Duties NaiveDuties(AccessWorld world, Person person)
    {
        var free = world with { SwitchedOff = [] };
        if (person.Kind != Kind.Staff || free.CutOf(person, Worlds.Today) != Cut.None)
            return Duties.None;
        return free.PathsOf(person)
            .Where(p => p.Grant.ResourceId is null && p.Grant.Window.Contains(Worlds.Today))
            .Select(p => world.Roles.GetValueOrDefault(p.Grant.RoleId)?.Duties ?? Duties.None)
            .Aggregate(Duties.None, (sum, duties) => sum | duties);
    }

    private static Dictionary<string, Place?> Named(AccessWorld world) =>
        world
            .Resources.Values.Select(r => ($"resource {r.Id}", Place.At(r)))
            .Concat(world.Areas.Values.Select(a => ($"area {a.Id}", Place.In(a))))
            .Append(("elsewhere", Place.Elsewhere))
            .ToDictionary(named => named.Item1, named => (Place?)named.Item2);

    private static AccessWorld Unswitched(AccessWorld world) => world with { SwitchedOff = [] };

    private static IEnumerable<Guid> Others(AccessWorld world, HashSet<Guid> named) =>
        world
            .People.Values.SelectMany(person => world.PathsOf(person))
            .Select(path => path.Grant.Id)
            .Where(id => !named.Contains(id));

    private static AccessWorld Without(AccessWorld world, HashSet<Guid> grants)
    {
        ImmutableArray<Grant> Left(ImmutableArray<Grant> all) => [.. all.Where(g => !grants.Contains(g.Id))];
        return world with
        {
            People = LayeredDictionary<Guid, Person>.Of(
                world.People.ToDictionary(p => p.Key, p => p.Value with { Grants = Left(p.Value.Grants) })
            ),
            Groups = world.Groups.ToImmutableDictionary(
                g => g.Key,
                g => g.Value with { Grants = Left(g.Value.Grants) }
            ),
            Organisations = world.Organisations.ToImmutableDictionary(
                o => o.Key,
                o => o.Value with { Grants = Left(o.Value.Grants) }
            ),
        };
    }
}
