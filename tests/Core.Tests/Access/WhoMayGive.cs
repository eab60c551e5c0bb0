using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>Nobody gives what they do not hold: case by case, and what the refusal says.</summary>
public sealed class WhoMayGive
{
    private static readonly Role Looker = Ship.RoleOf(24, "looker", Level.None, (Ship.Deck, Level.View));

    private static readonly AccessWorld World = Ship.World with
    {
        Roles = Ship.World.Roles.Add(Looker.Id, Looker),
    };

    [Fact]
    public void A_role_in_the_whole_workspace_is_measured_by_its_duties_and_then_place_by_place()
    {
        Assert.Null(Whole(Ship.Mira, Role.Manage));
        Assert.Null(Whole(Ship.Yara, Ship.Warden));
        Assert.Null(Whole(Ship.Yara, Role.View));
        // More everywhere, more in one area, and a duty the giver lacks.
        Assert.Contains(" everywhere.", Whole(Ship.Yara, Role.Edit)!.Sentence, StringComparison.Ordinal);
        Assert.Contains(
            " in Deck bookings.",
            Whole(Ship.Yara, Ship.Bosun)!.Sentence,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "with the duties invite, record.",
            Whole(Ship.Ada, Ship.Warden)!.Sentence,
            StringComparison.Ordinal
        );
        Assert.Contains(" in Archive.", Whole(Ship.Yara, Ship.Curator)!.Sentence, StringComparison.Ordinal);
        // What one has by a group can be given, and no more.
        Assert.Null(Whole(Ship.Bo, Ship.Bosun));
        Assert.Null(Whole(Ship.Bo, Looker));
        Assert.Equal("right.beyond-own", Whole(Ship.Bo, Role.View)!.Code);
        var no = Whole(Ship.Bo, Role.View)!;
        Assert.Equal((RefusalSort.NotAllowed, "role"), (no.Sort, no.Field));

        static Refusal? Whole(Person giver, Role role) =>
            GivingRules.Forbids(World, giver.Id, role, null, Ship.Today);
    }

    [Fact]
    public void A_role_at_a_resource_is_measured_there_alone()
    {
        Assert.Null(There(Ship.Ada, Role.Manage, Ship.Logbook));
        Assert.Null(There(Ship.Ada, Role.View, Ship.Wheelhouse));
        var no = There(Ship.Ada, Role.Edit, Ship.Wheelhouse)!;
        Assert.Equal("right.beyond-own", no.Code);
        Assert.Contains("at Wheelhouse", no.Sentence, StringComparison.Ordinal);
        // Duties do not come with a role at a resource, so they are not asked about.
        Assert.Null(There(Ship.Ada, Ship.Warden, Ship.Logbook));
        // Whoever is kept out gives nothing.
        var paused = World.With(Ship.Ada with { IsPaused = true });
        Assert.NotNull(GivingRules.Forbids(paused, Ship.Ada.Id, Role.View, Ship.Logbook.Id, Ship.Today));
        Assert.NotNull(GivingRules.Forbids(paused, Ship.Ada.Id, Role.View, null, Ship.Today));
        // A resource that is not there is nobody's to refuse.
        Assert.Null(GivingRules.Forbids(World, Ship.Bo.Id, Role.Manage, Guid.NewGuid(), Ship.Today));

        static Refusal? There(Person giver, Role role, Resource at) =>
            GivingRules.Forbids(World, giver.Id, role, at.Id, Ship.Today);
    }

    [Fact]
    public void Grants_are_given_together_or_not_at_all()
    {
        Assert.Null(Of(Ship.Given(Role.View), Ship.Given(Ship.Warden)));
        Assert.Equal("right.beyond-own", Of(Ship.Given(Role.View), Ship.Given(Role.Edit))!.Code);
        Assert.Equal("right.beyond-own", Of(Ship.Given(Role.Edit), Ship.Given(Role.View))!.Code);
        // A role that was removed gives nothing.
        Assert.Null(Of(Ship.Given(Role.View) with { RoleId = Guid.NewGuid() }));
        Assert.Null(Of());

        static Refusal? Of(params Grant[] grants) =>
            GivingRules.Forbids(World, Ship.Yara.Id, grants, Ship.Today);
    }

    [Fact]
    public void A_bundle_is_measured_by_its_roles_and_by_what_its_groups_have()
    {
        Assert.Null(Of(Ship.Bo, new Bundle([new GivenRole(Looker.Id)], [Ship.Crew.Id], [])));
        Assert.Equal("right.beyond-own", Of(Ship.Bo, Ship.Gives(Looker, Role.View))!.Code);
        Assert.Equal("right.beyond-own", Of(Ship.Bo, Ship.Gives(Role.View, Looker))!.Code);
        Assert.Null(Of(Ship.Ada, new Bundle([new GivenRole(Role.Manage.Id, Ship.Logbook.Id)], [], [])));
        Assert.Null(Of(Ship.Yara, new Bundle([], [Ship.Readers.Id], [])));
        var group = Of(Ship.Yara, new Bundle([], [Ship.Readers.Id, Ship.Crew.Id], []))!;
        Assert.Equal(
            ("right.beyond-own", "groups", RefusalSort.NotAllowed),
            (group.Code, group.Field, group.Sort)
        );
        Assert.StartsWith(
            "The group Crew gives more than you hold: You do not hold",
            group.Sentence,
            StringComparison.Ordinal
        );

        // What is not there any more is said to be gone, before anything is measured.
        foreach (
            var (bundle, what) in new[]
            {
                (new Bundle([new GivenRole(Guid.NewGuid())], [], []), "role"),
                (new Bundle([new GivenRole(Role.View.Id, Guid.NewGuid())], [], []), "resource"),
                (new Bundle([], [Guid.NewGuid()], []), "group"),
            }
        )
        {
            var gone = Of(Ship.Mira, bundle)!;
            Assert.Equal((what + ".gone", what, RefusalSort.Conflict), (gone.Code, gone.Field, gone.Sort));
            Assert.Equal(
                gone.Code,
                GivingRules.ForbidsAll(World, Ship.Mira.Id, bundle, null, Ship.Today)!.Code
            );
        }

        static Refusal? Of(Person giver, Bundle bundle) =>
            GivingRules.Forbids(World, giver.Id, bundle, Ship.Today);
    }

    [Fact]
    public void What_comes_with_an_organisation_is_given_too()
    {
        var tide = Ship.Tide with { Grants = [Ship.Given(Ship.Curator)] };
        var world = World with { Organisations = World.Organisations.SetItem(tide.Id, tide) };
        Assert.Null(All(Ship.Yara, Ship.Gives(Role.View), null));
        Assert.Null(All(Ship.Yara, Ship.Gives(Role.View), Ship.Pier.Id));
        Assert.Null(All(Ship.Yara, Ship.Gives(Role.View), Guid.NewGuid()));
        var no = All(Ship.Yara, Ship.Gives(Role.View), tide.Id)!;
        Assert.Equal(("right.beyond-own", "organisation"), (no.Code, no.Field));
        Assert.StartsWith(
            "The organisation Tide Institute gives more than you hold: ",
            no.Sentence,
            StringComparison.Ordinal
        );
        Assert.Null(All(Ship.Ada, Ship.Gives(Role.View), tide.Id));
        // The bundle is looked at first.
        Assert.Equal("role", All(Ship.Yara, Ship.Gives(Role.Edit), tide.Id)!.Field);

        Refusal? All(Person giver, Bundle bundle, Guid? organisation) =>
            GivingRules.ForbidsAll(world, giver.Id, bundle, organisation, Ship.Today);
    }

    [Fact]
    public void Nobody_acts_on_somebody_with_a_duty_they_lack_and_everybody_on_themselves()
    {
        var no = Acting(Ship.Yara, Ship.Mira)!;
        Assert.Equal(("right.acting-on", RefusalSort.NotAllowed), (no.Code, no.Sort));
        Assert.StartsWith(
            "Mira Okafor holds duties you do not: approve, people, access, seats, claims, settings.",
            no.Sentence,
            StringComparison.Ordinal
        );
        Assert.Null(Acting(Ship.Mira, Ship.Yara));
        Assert.Null(Acting(Ship.Yara, Ship.Yara));
        Assert.Null(Acting(Ship.Yara, Ship.Bo));
        Assert.Null(GivingRules.ForbidsActingOn(World, Ship.Yara.Id, Guid.NewGuid(), Ship.Today));
        // Duties that do not count today – paused, over, to come – count here.
        foreach (
            var mira in new[]
            {
                Ship.Mira with
                {
                    IsPaused = true,
                },
                Ship.Mira with
                {
                    Stay = new Stay(Ship.Today.AddDays(-1)),
                },
                Ship.Mira with
                {
                    Stay = new Stay(null, Ship.Today.AddDays(1)),
                },
                Ship.Mira with
                {
                    Grants =
                    [
                        Ship.Given(Role.Manage) with
                        {
                            Window = new Stay(null, Ship.Today.AddDays(9)),
                        },
                    ],
                },
            }
        )
        {
            var world = World.With(mira);
            Assert.NotNull(GivingRules.ForbidsActingOn(world, Ship.Yara.Id, mira.Id, Ship.Today));
            // Whoever's own duties do not count today acts on nobody who holds any, but still on themselves.
            Assert.NotNull(GivingRules.ForbidsActingOn(world, mira.Id, Ship.Yara.Id, Ship.Today));
            Assert.Null(GivingRules.ForbidsActingOn(world, mira.Id, mira.Id, Ship.Today));
        }
        // The same role gives an outsider no duty, and nobody any at a resource alone.
        Assert.Null(Acting(Ship.Bo, Ship.Kofi with { Grants = [Ship.Given(Role.Manage)] }));
        Assert.Null(Acting(Ship.Bo, Ship.Ada with { Grants = [Ship.Given(Role.Manage, Ship.Logbook)] }));
        // What two grants give is given, not taken back by the second.
        Assert.NotNull(
            Acting(Ship.Bo, Ship.Ada with { Grants = [Ship.Given(Ship.Warden), Ship.Given(Ship.Warden)] })
        );
        // A removed role gives none either.
        Assert.Null(
            Acting(
                Ship.Bo,
                Ship.Ada with
                {
                    Grants = [Ship.Given(Role.Manage) with { RoleId = Guid.NewGuid() }],
                }
            )
        );

        static Refusal? Acting(Person actor, Person other) =>
            GivingRules.ForbidsActingOn(World.With(other), actor.Id, other.Id, Ship.Today);
    }

    [Fact]
    public void Who_uses_a_resource_is_arranged_by_staff_who_manage_it_or_hold_the_duty()
    {
        Assert.Null(Arranging(Ship.Mira, null));
        Assert.Null(Arranging(Ship.Mira, Ship.Wheelhouse.Id));
        Assert.Null(Arranging(Ship.Ada, Ship.Logbook.Id));
        Assert.NotNull(Arranging(Ship.Ada, Ship.Wheelhouse.Id));
        Assert.NotNull(Arranging(Ship.Ada, null));
        Assert.NotNull(Arranging(Ship.Ada, Guid.NewGuid()));
        Assert.NotNull(Arranging(Ship.Bo, Ship.Wheelhouse.Id));
        Assert.NotNull(Arranging(Ship.Ada with { IsPaused = true }, Ship.Logbook.Id));
        Assert.NotNull(Arranging(Ship.Mira with { IsPaused = true }, null));
        // An outsider who manages a resource does not decide who uses it.
        Assert.NotNull(Arranging(Ship.Ada with { Kind = Kind.Partner }, Ship.Logbook.Id));
        Assert.NotNull(GivingRules.ForbidsArranging(World, Guid.NewGuid(), Ship.Logbook.Id, Ship.Today));
        Assert.Equal("right.missing", Arranging(Ship.Bo, null)!.Code);

        static Refusal? Arranging(Person giver, Guid? resource) =>
            GivingRules.ForbidsArranging(World.With(giver), giver.Id, resource, Ship.Today);
    }

    [Fact]
    public void What_is_missing_is_named_by_its_duty()
    {
        var no = DutyWords.Missing(Duties.Seats);
        Assert.Equal(("right.missing", RefusalSort.NotAllowed), (no.Code, no.Sort));
        Assert.Contains("\"seats\"", no.Sentence, StringComparison.Ordinal);
    }
}
