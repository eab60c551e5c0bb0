using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
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
        Role.View,
        new Stay(Today.AddDays(10)),
        IsEnded: false,
        OpenSessions: 2,
        Tokens: 1,
        PendingInvitations: 3,
        OtherWorkspaces: 0,
        LastingAdministrators: 1
    );

    private static readonly LeaverFacts Mira = Ines with
    {
        Name = "Mira",
        Kind = Kind.Staff,
        Role = Role.Manage,
        Stay = Stay.Endless,
    };

    [Fact]
    public void The_plan_names_what_is_lost_and_what_is_not()
    {
        var plan = DeparturePlan.For(Ines, null, Today).Value;
        Assert.True(plan.ClosesSessions);
        Assert.Equal(4, plan.Losses.Count);
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
        Assert.True(DeparturePlan.For(Mira with { LastingAdministrators = 2 }, null, Today).Succeeded);
    }

    [Fact]
    public void Whatever_is_ended_in_whatever_order_a_lasting_administrator_remains() =>
        Gen.Select(
                Gen.Select(Gen.Enum<Kind>(), Gen.Int[0, 2].Select(i => Role.All[i]), Gen.Bool).Array[1, 8],
                Gen.Int[0, 7].Array[0, 30]
            )
            .Sample(
                (crew, leavers) =>
                {
                    var here = crew.Select(c =>
                            (c.Item1, c.Item2, Stay: c.Item3 ? Stay.Endless : new Stay(Today))
                        )
                        .ToList();
                    here.Add((Kind.Staff, Role.Manage, Stay.Endless));
                    foreach (var index in leavers.Select(l => l % here.Count))
                    {
                        var lasting = here.Count(m => AdministratorRule.IsLasting(m.Item1, m.Item2, m.Stay));
                        var (kind, role, stay) = here[index];
                        if (
                            AdministratorRule.Forbids(AdministratorRule.IsLasting(kind, role, stay), lasting)
                            is null
                        )
                            here.RemoveAt(index);
                        if (here.Count == 0)
                            break;
                    }
                    Assert.Contains(here, m => AdministratorRule.IsLasting(m.Item1, m.Item2, m.Stay));
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
