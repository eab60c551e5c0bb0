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

    private static readonly LeaverFacts Ines = new(
        "Dr Ines Calloway",
        "ines@saltmarsh-university.example",
        Kind.Guest,
        ["The role view in the whole workspace. See everything in the workspace."],
        new Stay(Today.AddDays(10)),
        IsEnded: false,
        OpenSessions: 2,
        Tokens: 1,
        PendingInvitations: 3,
        OtherWorkspaces: 0,
        IsOnlyAdministrator: false,
        Seats: ["Reading desks"],
        Owned: ["Register"]
    );

    private static readonly LeaverFacts Mira = Ines with
    {
        Name = "Mira",
        Kind = Kind.Staff,
        IsOnlyAdministrator = true,
        Stay = Stay.Endless,
    };

    [Fact]
    public void The_plan_names_what_is_lost_and_what_is_not()
    {
        var plan = DeparturePlan.For(Ines, null, Today).Value;
        Assert.True(plan.ClosesSessions);
        Assert.Equal(6, plan.Losses.Count);
        Assert.Contains("A seat of Reading desks is freed.", plan.Losses);
        Assert.Contains("2 open sign-ins are closed.", plan.Losses);
        Assert.Contains("1 API token of this workspace is revoked.", plan.Losses);

        var elsewhere = DeparturePlan.For(Ines with { OtherWorkspaces = 2 }, null, Today).Value;
        Assert.False(elsewhere.ClosesSessions);
        Assert.Contains("2 other workspaces they belong to.", elsewhere.Stays);
    }

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
        Assert.Equal("administrator.last", DeparturePlan.For(Mira, null, Today).Refusal!.Code);
        Assert.Equal("administrator.last", DeparturePlan.For(Mira, Today.AddDays(30), Today).Refusal!.Code);
        Assert.True(DeparturePlan.For(Mira with { IsOnlyAdministrator = false }, null, Today).Succeeded);
    }

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
