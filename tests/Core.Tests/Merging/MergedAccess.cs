using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Merging;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Merging;

/// <summary>What a merge does to who may do what: in random workspaces, against asking for every day and place.</summary>
public sealed class MergedAccess
{
    private static readonly DateOnly[] Days =
    [
        .. Enumerable.Range(0, 8).Select(n => Worlds.Today.AddDays(n)),
    ];

    private static readonly MergeField[] Access = [MergeField.Stay, MergeField.Kind, MergeField.Organisation];

    // Two who are here, what is wanted of their merge, and the workspace.
    private static readonly Gen<(
        AccessWorld World,
        Guid Kept,
        Guid Other,
        ImmutableArray<MergeField> Take
    )> Two = Gen.Select(
            Worlds.Any,
            Gen.Int[0, 5],
            Gen.Int[1, 5],
            Gen.Int[0, 2].Select(n => Access[n]).Array[0, 3]
        )
        .Where((world, _, _, _) => world.People.Count > 1)
        .Select(
            (world, one, off, take) =>
            {
                var ids = world.People.Keys.Order().ToList();
                var kept = one % ids.Count;
                var other = (kept + 1 + off % (ids.Count - 1)) % ids.Count;
                return (world, ids[kept], ids[other], take.Distinct().ToImmutableArray());
            }
        );

    [Fact]
    public void Nobody_can_do_by_being_merged_what_neither_could_before() =>
        Two.Sample(
            (world, kept, other, take) =>
            {
                var plan = PlanOf(world, kept, other, new MergeWish(take.ToHashSet()));
                Assert.False(plan.After.People.ContainsKey(other));
                foreach (var (day, place) in Everywhere(world))
                    Assert.True(
                        plan.After.LevelOf(kept, place, day) <= Either(world, kept, other, place, day),
                        $"{place} on {day}"
                    );
                foreach (var day in Days)
                {
                    var either = world.DutiesHeldBy(kept, day) | world.DutiesHeldBy(other, day);
                    Assert.Equal(Duties.None, plan.After.DutiesHeldBy(kept, day) & ~either);
                    foreach (var resource in world.Resources.Keys)
                        Assert.False(
                            Arranges(plan.After, kept, resource, day)
                                && !Arranges(world, kept, resource, day)
                                && !Arranges(world, other, resource, day)
                        );
                }
            },
            iter: Often.Times(3000)
        );

    [Fact]
    public void What_is_lost_is_said_and_nothing_else() =>
        Two.Sample(
            (world, kept, other, take) =>
            {
                var plan = PlanOf(world, kept, other, new MergeWish(take.ToHashSet()));
                var loses =
                    Everywhere(world)
                        .Any(at =>
                            plan.After.LevelOf(kept, at.Place, at.Day)
                            < Either(world, kept, other, at.Place, at.Day)
                        )
                    || Days.Any(day =>
                        (
                            (world.DutiesHeldBy(kept, day) | world.DutiesHeldBy(other, day))
                            & ~plan.After.DutiesHeldBy(kept, day)
                        ) != Duties.None
                    );
                Assert.Equal(loses, plan.Losses.Count > 0);
            },
            iter: Often.Times(2000)
        );

    [Fact]
    public void Only_what_gives_more_is_left_undone_and_all_of_it_is_done_when_somebody_opts_for_it() =>
        Two.Sample(
            (world, kept, other, _) =>
            {
                var plan = PlanOf(world, kept, other, MergeWish.Nothing);
                Assert.All(plan.Steps, step => Assert.Equal(step.Gains.Count > 0, step.IsLeft));
                var all = PlanOf(world, kept, other, MergeWish.Nothing with { WithGains = true });
                Assert.DoesNotContain(all.Steps, step => step.IsLeft);
                // Each for itself is the same as all of them.
                var keys = all.Steps.Where(step => step.Gains.Count > 0).Select(step => step.Key).ToHashSet();
                var each = PlanOf(world, kept, other, MergeWish.Nothing with { Gains = keys });
                Assert.True(
                    new AccessGauge(world, kept, other, Worlds.Today).IsSame(each.After, all.After, kept)
                );
                // Opting can only add.
                foreach (var (day, place) in Everywhere(world))
                    Assert.True(all.After.LevelOf(kept, place, day) >= plan.After.LevelOf(kept, place, day));
            },
            iter: Often.Times(1500)
        );

    [Fact]
    public void What_either_could_do_for_good_is_kept_where_nothing_is_between() =>
        Two.Sample(
            (world, kept, other, _) =>
            {
                // Two of the same kind, here for good, switched off nowhere: there is nothing to lose.
                Person Plain(Guid id) =>
                    world.People[id] with
                    {
                        Kind = Kind.Staff,
                        Stay = Stay.Endless,
                        IsPaused = false,
                        OrganisationId = null,
                    };
                var plain = (world with { SwitchedOff = [] }).With(Plain(kept)).With(Plain(other));
                var plan = PlanOf(plain, kept, other, MergeWish.Nothing);
                Assert.Empty(plan.Losses);
                Assert.DoesNotContain(plan.Steps, step => step.IsLeft);
            },
            iter: Often.Times(1000)
        );

    private static IEnumerable<(DateOnly Day, Place Place)> Everywhere(AccessWorld world) =>
        from day in Days
        from place in world.Places()
        select (day, place);

    private static Level Either(AccessWorld world, Guid one, Guid other, Place place, DateOnly day) =>
        (Level)Math.Max((int)world.LevelOf(one, place, day), (int)world.LevelOf(other, place, day));

    private static bool Arranges(AccessWorld world, Guid id, Guid resource, DateOnly day) =>
        GivingRules.ForbidsArranging(world, id, resource, day) is null;

    private static MergePlan PlanOf(AccessWorld world, Guid kept, Guid other, MergeWish wish) =>
        MergePlan.For(
            new MergeFacts(world, Worlds.Today, SideOf(world, kept), SideOf(world, other)),
            wish,
            Guid.NewGuid
        );

    private static MergeSide SideOf(AccessWorld world, Guid id)
    {
        var person = world.People[id];
        return new MergeSide(
            id,
            $"person {id}",
            new Dictionary<MergeField, FieldValue>
            {
                [MergeField.Kind] = new(person.Kind.Word()),
                [MergeField.Stay] = FieldValue.Of(person.Stay),
                [MergeField.Organisation] = person.OrganisationId is { } own
                    ? new FieldValue($"body {own}", own)
                    : FieldValue.Empty,
            }
        );
    }
}
