using ComeAboard.Core.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>What programs may do that act for somebody, and who may sign in to them.</summary>
public sealed class ProgramsInWorlds
{
    private static readonly Gen<Duties> GenDuties = Gen.Int[0, (int)Duties.All].Select(bits => (Duties)bits);

    [Fact]
    public void A_program_has_of_the_duties_of_the_one_it_acts_for_those_it_was_given_and_changes_nothing_else() =>
        Gen.Select(Worlds.Any, GenDuties)
            .Sample(
                (world, given) =>
                {
                    foreach (var one in world.People.Values)
                    {
                        var bound = world.BoundTo(one.Id, given);
                        foreach (var person in world.People.Values)
                        {
                            var held = world.DutiesOf(person.Id, Worlds.Today);
                            Assert.Equal(
                                person.Id == one.Id ? held & given : held,
                                bound.DutiesOf(person.Id, Worlds.Today)
                            );
                            Assert.Equal(held, bound.DutiesHeldBy(person.Id, Worlds.Today));
                            foreach (var place in world.Places())
                                Assert.Equal(
                                    world.LevelOf(person.Id, place, Worlds.Today),
                                    bound.LevelOf(person.Id, place, Worlds.Today)
                                );
                        }
                    }
                }
            );

    [Fact]
    public void Whoever_has_access_above_none_to_the_resource_gets_in_and_nobody_else() =>
        Worlds.Any.Sample(world =>
        {
            foreach (var person in world.People.Values)
            foreach (var resource in world.Resources.Values)
            {
                var level = world.LevelOf(person.Id, Place.At(resource), Worlds.Today);
                var admitted = ApplicationRules.Admit(world, person.Id, resource.Id, Worlds.Today);
                Assert.Equal(level > Level.None, admitted.Succeeded);
                if (admitted.Succeeded)
                    Assert.Equal(level, admitted.Value);
            }
            foreach (var person in world.People.Values)
                Assert.False(ApplicationRules.Admit(world, person.Id, Guid.Empty, Worlds.Today).Succeeded);
        });

    [Fact]
    public void Nobody_registers_a_program_with_duties_that_they_or_whom_it_acts_for_do_not_hold() =>
        Gen.Select(Worlds.Any, GenDuties, GenDuties)
            .Sample(
                (world, given, duties) =>
                {
                    foreach (var actor in world.People.Values)
                    foreach (var other in world.People.Values)
                    {
                        var seen = world.BoundTo(actor.Id, given);
                        if (
                            ApplicationRules.Forbids(seen, actor.Id, duties, other.Id, Worlds.Today)
                            is not null
                        )
                            continue;
                        var own = seen.DutiesOf(actor.Id, Worlds.Today);
                        Assert.Equal(duties, duties & own);
                        Assert.Equal(duties, duties & world.DutiesOf(other.Id, Worlds.Today));
                        Assert.True(actor.Id == other.Id || (world.DutiesEver(other) & ~own) == Duties.None);
                    }
                }
            );

    [Theory]
    [InlineData("https://rigging.example/back", true)]
    [InlineData(" https://rigging.example/back?a=b ", true)]
    [InlineData("http://localhost:4711/back", true)]
    [InlineData("http://[::1]:4711/", true)]
    [InlineData("http://rigging.example/", false)]
    [InlineData("https://rigging.example/#part", false)]
    [InlineData("https://somebody@rigging.example/", false)]
    [InlineData("https://*.rigging.example/", false)]
    [InlineData("https://rigging.example/\"><b>", false)]
    [InlineData("https://rigging.example\\evil.example/", false)]
    [InlineData("https://rigging.example/\r\nX: y", false)]
    [InlineData("javascript:alert(1)", false)]
    [InlineData("//rigging.example/", false)]
    [InlineData("rigging://back", false)]
    [InlineData("", false)]
    [InlineData(null, false)]
    public void People_are_sent_to_whole_addresses_only(string? text, bool isOne)
    {
        var read = ApplicationRules.ReadAddress(text, "redirects");
        Assert.Equal(isOne, read.Succeeded);
        if (isOne)
            Assert.Equal(text!.Trim(), read.Value);
        else
            Assert.Equal(
                ("application.address-malformed", "redirects"),
                (read.Refusal!.Code, read.Refusal.Field)
            );
    }

    [Fact]
    public void An_address_is_no_longer_than_it_can_be_kept()
    {
        var longest = "https://rigging.example/" + new string('x', 476);
        Assert.True(ApplicationRules.ReadAddress(longest, "redirects").Succeeded);
        Assert.False(ApplicationRules.ReadAddress(longest + "x", "redirects").Succeeded);
    }

    [Theory]
    [InlineData(0, false, "", false, "application.no-use")]
    [InlineData(0, true, "people", false, "application.no-use")]
    [InlineData(1, false, "", false, "application.no-resource")]
    [InlineData(1, false, "people", true, "application.no-resource")]
    [InlineData(0, false, "", true, "application.no-duties")]
    [InlineData(1, true, "", true, "application.no-duties")]
    [InlineData(1, true, "", false, null)]
    [InlineData(2, true, "people", true, null)]
    [InlineData(0, false, "people", true, null)]
    public void A_program_is_one_that_does_something(
        int redirects,
        bool isResource,
        string duties,
        bool acts,
        string? code
    ) =>
        Assert.Equal(
            code,
            ApplicationRules
                .ForbidsShape(
                    redirects,
                    isResource,
                    DutyWords.Read(duties.Split(',', StringSplitOptions.RemoveEmptyEntries)).Value,
                    acts ? Guid.NewGuid() : null
                )
                ?.Code
        );
}
