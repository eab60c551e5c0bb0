using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

public sealed class SideBySide
{
    [Fact]
    public void Roles_side_by_side_say_area_by_area_what_each_says_alone() =>
        Worlds.Any.Sample(world =>
        {
            var roles = world.Roles.Values.OrderBy(r => r.Id).ToList();
            var matrix = RoleMatrix.Of(world, roles);
            Assert.Equal(world.Areas.Count + 1, matrix.Lines.Count);
            Assert.Null(matrix.Lines[^1].Area);
            foreach (var line in matrix.Lines)
            {
                for (var n = 0; n < roles.Count; n++)
                {
                    var alone =
                        line.Area is { } area && roles[n].Areas.TryGetValue(area.Id, out var level)
                            ? level
                            : roles[n].Everywhere;
                    Assert.Equal(alone, line.Levels[n]);
                }
                Assert.Equal(line.Levels.Distinct().Count() > 1, line.Differs);
            }
        });

    [Fact]
    public void Whoever_is_kept_out_can_do_nothing_anywhere_and_is_told_why() =>
        Gen.Select(Worlds.Any, Gen.Int[0, 11], Gen.Int[-40, 40])
            .Sample(
                (world, who, days) =>
                {
                    var (member, day) = (Worlds.Ids[who], Worlds.Today.AddDays(days));
                    var no = EntryRules.Forbids(world, member, day);
                    var isKnown = world.People.TryGetValue(member, out var person);
                    if (!isKnown)
                        Assert.Same(EntryRules.Ended, no);
                    else
                    {
                        Assert.Equal(world.CutOf(person!, day) == Cut.None, no is null);
                        Assert.Equal(
                            world.CutOf(person!, day) == Cut.Paused,
                            ReferenceEquals(no, EntryRules.Paused)
                        );
                    }
                    if (no is null)
                        return;
                    Assert.Equal(Duties.None, world.DutiesOf(member, day));
                    Assert.All(
                        world.Places(),
                        place => Assert.Equal(Level.None, world.LevelOf(member, place, day))
                    );
                }
            );

    [Fact]
    public void A_join_link_only_ever_shuts_until_somebody_renews_it() =>
        Gen.Select(Gen.Bool, Gen.Int[0, 6], Gen.Int[0, 6], Gen.Int[-5, 5], Gen.Int[0, 5], Gen.Int[0, 3])
            .Sample(
                (closed, uses, cap, expires, later, more) =>
                {
                    var now = new DateTimeOffset(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);
                    var end = now.AddDays(expires);
                    var before = JoinLinkRules.StateOf(closed, uses, cap, end, now);
                    Assert.Equal(!closed && uses < cap && now < end, before == JoinLinkState.Open);
                    // Time that passes and people who come in open nothing.
                    var after = JoinLinkRules.StateOf(closed, uses + more, cap, end, now.AddDays(later));
                    if (before != JoinLinkState.Open)
                        Assert.NotEqual(JoinLinkState.Open, after);
                    if (before == JoinLinkState.Closed)
                        Assert.Equal(JoinLinkState.Closed, after);
                    Assert.NotEmpty(after.Word());
                }
            );

    [Theory]
    [InlineData(Level.None, "none")]
    [InlineData(Level.View, "view")]
    [InlineData(Level.Contribute, "contribute")]
    [InlineData(Level.Edit, "edit")]
    [InlineData(Level.Manage, "manage")]
    public void Words_of_the_wire_read_back_in_any_case(Level level, string word)
    {
        Assert.Equal(word, level.Word());
        Assert.Equal(level, Levels.Read(word.ToUpperInvariant()).Value);
        Assert.Equal(level, Words.Find<Level>($" {word} "));
        Assert.Null(Words.Find<Level>(word + "s"));
        Assert.Contains(word, Words.All<Level>(), StringComparison.Ordinal);
        Assert.Equal(41, Words.Short(new string('x', 60)).Length);
    }
}
