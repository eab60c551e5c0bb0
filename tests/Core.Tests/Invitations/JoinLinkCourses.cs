using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class JoinLinkCourses
{
    private static readonly DateTimeOffset Now = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);

    [Fact]
    public void Nobody_makes_or_renews_a_link_to_more_than_they_hold() =>
        Gen.Select(Worlds.Any, Gen.Int[0, 11], Gen.Int[0, 7], Gen.Enum<JoinLinkState>())
            .Sample(
                (world, who, which, state) =>
                {
                    var role = world.Roles.Values.OrderBy(r => r.Id).ElementAt(which % world.Roles.Count);
                    var (actor, gives) = (Worlds.Ids[who], new Bundle([new GivenRole(role.Id)], [], []));
                    var renewed = JoinLinkCourse.Renew(
                        state,
                        Kind.Guest,
                        gives,
                        world,
                        new HouseRules(),
                        actor,
                        Worlds.Today
                    );
                    if (!renewed.Try(out var what, out _))
                        return;
                    Assert.Equal(JoinLinkState.Open, state);
                    Assert.True(what.Renews && what.Answerable == actor);
                    Assert.True(world.DutiesOf(actor, Worlds.Today).HasFlag(Duties.Invite));
                    Assert.Equal(Duties.None, role.Duties & ~world.DutiesOf(actor, Worlds.Today));
                    Assert.All(
                        world.Areas.Values,
                        area =>
                            Assert.True(
                                role.LevelIn(area.Id) <= world.LevelOf(actor, Place.In(area), Worlds.Today)
                            )
                    );
                }
            );

    [Fact]
    public void Only_holders_of_a_role_the_house_names_make_links_for_a_kind()
    {
        var world = Worlds.WithAdministrator(AccessWorld.Empty, Worlds.Ids[0]);
        var gives = Bundle.Of(Role.View);
        var rules = new HouseRules
        {
            Inviters = new Dictionary<Kind, IReadOnlyList<Guid>> { [Kind.Guest] = [Role.View.Id] },
        };
        Assert.Equal("rule.inviter", Renew(Kind.Guest).Refusal!.Code);
        Assert.True(Renew(Kind.Partner).Succeeded);
        Assert.Null(JoinLinkCourse.Close(JoinLinkState.Closed));
        Assert.True(JoinLinkCourse.Close(JoinLinkState.UsedUp)!.Closes);

        Outcome<JoinLinkConsequences> Renew(Kind kind) =>
            JoinLinkCourse.Renew(JoinLinkState.Open, kind, gives, world, rules, Worlds.Ids[0], Worlds.Today);
    }

    [Theory]
    [InlineData(null, 90)]
    [InlineData(1, 1)]
    [InlineData(365, 365)]
    [InlineData(0, null)]
    [InlineData(366, null)]
    public void A_token_ends_within_a_year(int? days, int? counts)
    {
        DateTimeOffset? end = TokenRules.End(days, Now).Try(out var found, out _) ? found : null;
        Assert.Equal(counts, end is { } at ? (int)(at - Now).TotalDays : null);
    }

    [Fact]
    public void An_organisation_takes_its_own_kind_up_to_its_cap()
    {
        var body = new Organisation(Guid.NewGuid(), "Harbour board", Kind.Partner, null, [], 2, []);
        Assert.Equal("organisation.kind", OrganisationRules.ForbidsKind(body, Kind.Guest)!.Code);
        Assert.Null(OrganisationRules.ForbidsKind(body, Kind.Partner));
        Assert.Null(OrganisationRules.ForbidsMore(body, 1));
        Assert.Equal("organisation.full", OrganisationRules.ForbidsMore(body, 2)!.Code);
        Assert.Null(OrganisationRules.ForbidsMore(body with { Cap = null }, 1_000_000));
    }
}
