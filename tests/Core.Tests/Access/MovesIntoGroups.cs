using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>People who have a role directly come to have it by a group, and nobody loses anything on any day.</summary>
public sealed class MovesIntoGroups
{
    private static readonly DateOnly[] Days =
    [
        .. Enumerable.Range(0, 8).Select(n => Worlds.Today.AddDays(n)),
    ];
    private static readonly Group Watch = new(new Guid(60, 0, 0, new byte[8]), "Watch", []);

    [Fact]
    public void Nobody_loses_anything_on_any_day_or_nothing_is_done() =>
        Gen.Select(Worlds.Any, Gen.Int[0, 7], Gen.Int[0, 3], Gen.Int[0, 2])
            .Sample(
                (world, whichRole, whichResource, whichGroup) =>
                {
                    var roles = world.Roles.Values.OrderBy(role => role.Id).ToList();
                    var role = roles[whichRole % roles.Count];
                    Guid? at = whichResource < 3 ? Worlds.Ids[whichResource] : null;
                    var group = world.Groups[Worlds.Ids[whichGroup]];
                    var holders = world
                        .People.Values.Where(person => person.Grants.Any(grant => Meant(grant, role, at)))
                        .ToList();
                    var planned = MoveIn.Plan(world, group, role, at, null, Worlds.Today, Guid.NewGuid);
                    if (holders.Count == 0)
                    {
                        Assert.Equal("move.nobody", planned.Refusal!.Code);
                        return;
                    }
                    if (planned.Try(out var plan, out var no))
                    {
                        Assert.Equal(
                            holders.Select(p => p.Id).Order(),
                            plan.People.Select(p => p.Id).Order()
                        );
                        Assert.False(Loses(world, plan.After, world.People.Keys));
                        Assert.All(
                            plan.People,
                            moved =>
                            {
                                Assert.DoesNotContain(
                                    plan.After.People[moved.Id].Grants,
                                    grant => Meant(grant, role, at)
                                );
                                Assert.Contains(group.Id, plan.After.People[moved.Id].Groups);
                                Assert.Equal(Gains(world, plan.After, moved.Id), moved.Gains.Count > 0);
                            }
                        );
                        return;
                    }
                    // It is refused only where doing it would take something from one of them.
                    Assert.Equal("move.loses", no.Code);
                    Assert.Contains(group.Grants, grant => Meant(grant, role, at));
                    var done = holders.Aggregate(
                        world,
                        (all, person) =>
                            all.With(
                                person with
                                {
                                    Grants = [.. person.Grants.Where(grant => !Meant(grant, role, at))],
                                    Groups = [.. person.Groups.Append(group.Id).Distinct()],
                                }
                            )
                    );
                    Assert.True(Loses(world, done, holders.Select(person => person.Id)));
                },
                iter: Often.Times(4000)
            );

    [Fact]
    public void A_group_that_has_the_role_for_less_long_is_refused_with_who_and_what()
    {
        var june = new DateOnly(2027, 6, 30);
        var short_ = Watch with { Grants = [GrantOf(1, Role.Edit, null, new Stay(june))] };
        var world = WorldOf(short_, Somebody(70, "Ada"), Somebody(71, "Bo"));
        var no = MoveIn.Plan(world, short_, Role.Edit, null, null, Ship.Today, Guid.NewGuid).Refusal!;
        Assert.Equal("move.loses", no.Code);
        Assert.Contains("Ada: edit everywhere", no.Sentence, StringComparison.Ordinal);
        Assert.Contains("from 2027-07-01: nothing is left; Bo: ", no.Sentence, StringComparison.Ordinal);
        Assert.Contains("Watch", no.Remedy, StringComparison.Ordinal);
    }

    [Fact]
    public void Only_those_who_are_named_are_moved_and_each_is_told_what_they_gain()
    {
        var (ada, bo) = (Somebody(70, "Ada"), Somebody(71, "Bo", new Stay(new DateOnly(2027, 1, 31))));
        var world = WorldOf(Watch, ada, bo);
        var plan = MoveIn.Plan(world, Watch, Role.Edit, null, [ada.Id], Ship.Today, Guid.NewGuid).Value;
        Assert.Equal(["Ada"], plan.People.Select(person => person.Name));
        Assert.Empty(plan.People[0].Gains);
        Assert.Equal(plan.Through, plan.Given!.Value.Id);
        Assert.Equal(bo, plan.After.People[bo.Id]);
        // Together the group has it for as long as any of them: whoever had it for less long gains.
        plan = MoveIn.Plan(world, Watch, Role.Edit, null, null, Ship.Today, Guid.NewGuid).Value;
        Assert.True(plan.Given!.Value.Window.IsEndless);
        Assert.Contains(
            "from 2027-02-01, instead of none",
            plan.People[1].Gains[0],
            StringComparison.Ordinal
        );
        Assert.Equal(
            "move.no-grant",
            MoveIn.Plan(world, Watch, Role.View, null, [ada.Id], Ship.Today, Guid.NewGuid).Refusal!.Code
        );
        Assert.Equal(
            "move.nobody",
            MoveIn.Plan(world, Watch, Role.View, null, null, Ship.Today, Guid.NewGuid).Refusal!.Code
        );
        // What is over is nothing to be moved.
        var past = WorldOf(Watch, Somebody(72, "Cleo", new Stay(Ship.Today.AddDays(-1))));
        Assert.Equal(
            "move.nobody",
            MoveIn.Plan(past, Watch, Role.Edit, null, null, Ship.Today, Guid.NewGuid).Refusal!.Code
        );
    }

    private static bool Meant(Grant grant, Role role, Guid? at) =>
        grant.RoleId == role.Id && grant.ResourceId == at && !(grant.Window.LastDay < Worlds.Today);

    private static bool Loses(AccessWorld before, AccessWorld after, IEnumerable<Guid> people) =>
        people.Any(id =>
            Days.Any(day =>
                (before.DutiesHeldBy(id, day) & ~after.DutiesHeldBy(id, day)) != Duties.None
                || before
                    .Places()
                    .Any(place => after.LevelOf(id, place, day) < before.LevelOf(id, place, day))
            )
        );

    private static bool Gains(AccessWorld before, AccessWorld after, Guid id) => Loses(after, before, [id]);

    private static AccessWorld WorldOf(Group group, params Person[] people) =>
        people.Aggregate(
            AccessWorld.Empty with
            {
                Groups = AccessWorld.Empty.Groups.Add(group.Id, group),
            },
            (world, person) => world.With(person)
        );

    private static Person Somebody(int id, string name, Stay? window = null) =>
        new(
            new Guid(id, 0, 0, new byte[8]),
            Kind.Staff,
            Stay.Endless,
            false,
            null,
            false,
            [GrantOf(id, Role.Edit, null, window ?? Stay.Endless)],
            []
        )
        {
            Name = name,
            AddressKey = $"{id}@ship.example",
        };

    private static Grant GrantOf(int id, Role role, Guid? at, Stay window) =>
        new(new Guid(id, 2, 0, new byte[8]), role.Id, at, window);
}
