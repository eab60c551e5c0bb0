using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Departures;

public sealed class Departing
{
    private static readonly DateOnly Today = new(2026, 11, 23);

    private static readonly AccessWorld World = Worlds.WithAdministrator(
        Worlds.WithAdministrator(AccessWorld.Empty, Worlds.Ids[0]),
        Worlds.Ids[1]
    );

    private static readonly LeaverFacts Ines = new(
        Worlds.Ids[5],
        "Dr Ines Calloway",
        Kind.Guest,
        new Stay(Today.AddDays(10)),
        false,
        World
    )
    {
        Sessions = [Guid.NewGuid(), Guid.NewGuid()],
        Tokens = [new Named(Guid.NewGuid(), "laptop")],
        Links = [new Named(Guid.NewGuid(), "Harbour day")],
        Invitations =
        [
            .. Enumerable.Range(0, 5).Select(n => new Named(Guid.NewGuid(), $"p{n}@tide.example")),
        ],
        Guests = [new Named(Guid.NewGuid(), "Hamish Orlo")],
        Seats = [new SeatHeld(Guid.NewGuid(), "Reading desks", default, false)],
        EndedBy = Worlds.Ids[1],
    };

    [Fact]
    public void The_sentences_are_made_from_the_steps_that_are_carried_out()
    {
        var plan = DeparturePlan.For(Ines, null, Today).Value;
        var sentences = DepartureWords.Sentences(plan.Steps);
        Assert.Contains("A seat of Reading desks is freed.", sentences);
        Assert.Contains("2 open sign-ins are closed.", sentences);
        Assert.Contains("Their API token \"laptop\" of this workspace is revoked.", sentences);
        Assert.Contains("Their join link \"Harbour day\" is closed.", sentences);
        Assert.Contains(
            sentences,
            s => s.StartsWith("5 open invitations they made pass to", StringComparison.Ordinal)
        );
        Assert.Contains(
            sentences,
            s => s.EndsWith("becomes the host of Hamish Orlo.", StringComparison.Ordinal)
        );
        Assert.Equal("Nothing is given to them; they lose their place in the workspace.", sentences[0]);

        var elsewhere = DeparturePlan.For(Ines with { OtherWorkspaces = 2 }, null, Today).Value;
        Assert.DoesNotContain(elsewhere.Steps, step => step.Deed == DepartureDeed.CloseSession);
        Assert.Contains("2 other workspaces they belong to.", elsewhere.Stays);
    }

    [Fact]
    public void Whatever_passes_on_passes_to_somebody_of_the_staff_who_is_here_and_stays() =>
        Gen.Select(Worlds.Any, Gen.Int[0, 11], Gen.Int[0, 11])
            .Sample(
                (any, leaver, by) =>
                {
                    var world = Worlds.WithAdministrator(any);
                    var facts = Ines with
                    {
                        Id = Worlds.Ids[leaver],
                        World = world,
                        EndedBy = Worlds.Ids[by],
                    };
                    foreach (var step in DeparturePlan.Carrying(facts, null, Worlds.Today).Steps)
                    {
                        if (step.Heir is not { } heir)
                            continue;
                        Assert.NotEqual(Worlds.Ids[leaver], heir);
                        Assert.Equal(Kind.Staff, world.People[heir].Kind);
                        Assert.Equal(Cut.None, world.CutOf(world.People[heir], Worlds.Today));
                    }
                }
            );

    [Fact]
    public void Ending_only_ever_shortens_a_stay()
    {
        Assert.Equal("departure.later", DeparturePlan.For(Ines, Today.AddDays(11), Today).Refusal!.Code);
        Assert.Equal("stay.past", DeparturePlan.For(Ines, Today.AddDays(-1), Today).Refusal!.Code);
        Assert.Equal(
            "departure.already",
            DeparturePlan.For(Ines with { IsEnded = true }, null, Today).Refusal!.Code
        );
        Assert.True(DeparturePlan.For(Ines, Today.AddDays(10), Today).Succeeded);
    }

    [Fact]
    public void The_last_administrator_stays_now_and_at_any_day()
    {
        var mira = Ines with { Id = Worlds.Ids[0], Kind = Kind.Staff, Stay = Stay.Endless };
        var alone = mira with { World = World.Without(Worlds.Ids[1]) };
        Assert.Equal("administrator.last", DeparturePlan.For(alone, null, Today).Refusal!.Code);
        Assert.Equal("administrator.last", DeparturePlan.For(alone, Today.AddDays(30), Today).Refusal!.Code);
        Assert.True(DeparturePlan.For(mira, null, Today).Succeeded);
    }

    [Fact]
    public void Nobody_acts_on_somebody_with_duties_they_do_not_hold() =>
        Gen.Select(Worlds.Any, Gen.Int[0, 11], Gen.Int[0, 11])
            .Sample(
                (world, actor, other) =>
                {
                    var no = GivingRules.ForbidsActingOn(
                        world,
                        Worlds.Ids[actor],
                        Worlds.Ids[other],
                        Worlds.Today
                    );
                    if (no is not null)
                        return;
                    // Whenever it counts – let in again, on another day – they hold nothing the actor does not hold now.
                    if (actor == other || !world.People.TryGetValue(Worlds.Ids[other], out var person))
                        return;
                    var letIn = world.With(person with { IsPaused = false, Stay = Stay.Endless });
                    foreach (var off in Enumerable.Range(-4, 9))
                        Assert.Equal(
                            Duties.None,
                            letIn.DutiesOf(person.Id, Worlds.Today.AddDays(off))
                                & ~world.DutiesOf(Worlds.Ids[actor], Worlds.Today)
                        );
                }
            );

    [Fact]
    public void Whatever_is_changed_in_whatever_order_a_lasting_administrator_remains() =>
        Gen.Select(Worlds.Any, Worlds.GenEdit.Array[0, 30])
            .Sample(
                (world, edits) =>
                {
                    var now = Worlds.WithAdministrator(world);
                    foreach (var edit in edits)
                    {
                        var next = edit(now);
                        if (AdministratorRule.Forbids(now, next, Worlds.Today) is null)
                            now = next;
                    }
                    var lasting = AdministratorRule.Lasting(now, Worlds.Today).ToList();
                    Assert.NotEmpty(lasting);
                    // However long they stay untouched, they can go on looking after the workspace.
                    Assert.All(
                        lasting,
                        id =>
                            Assert.True(
                                now.DutiesOf(id, Worlds.Today.AddYears(300))
                                    .HasFlag(DutyWords.OfAdministrator)
                            )
                    );
                }
            );

    [Fact]
    public void Duties_are_for_staff()
    {
        Assert.Equal(Duties.All, Role.Manage.DutiesFor(Kind.Staff));
        Assert.All(
            [Kind.Guest, Kind.Partner, Kind.Client],
            kind => Assert.Equal(Duties.None, Role.Manage.DutiesFor(kind))
        );
    }
}
