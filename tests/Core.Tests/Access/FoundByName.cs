using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>Roles, resources, groups and the rest, found by name or id; bundles read; roles described and compared.</summary>
public sealed class FoundByName
{
    private static readonly AccessWorld World = Ship.World;

    [Theory]
    [InlineData("  BOSUN ")]
    [InlineData("bosun")]
    public void A_name_is_found_in_any_case(string written)
    {
        Assert.Equal(Ship.Bosun.Id, World.FindRole(written).Value.Id);
        Assert.Equal(Ship.Bosun.Id, World.FindRole(Ship.Bosun.Id.ToString()).Value.Id);
    }

    [Fact]
    public void Everything_is_found_by_name_and_by_id()
    {
        Assert.Equal(Ship.Logbook, World.FindResource("logbook").Value);
        Assert.Equal(Ship.Logbook, World.FindResource(Ship.Logbook.Id.ToString()).Value);
        Assert.Equal(Ship.Deck, World.FindArea("deck bookings").Value);
        Assert.Equal(Ship.Deck, World.FindArea(Ship.Deck.Id.ToString("N")).Value);
        Assert.Equal(Ship.Crew, World.FindGroup("crew").Value);
        Assert.Equal(Ship.Tide, World.FindOrganisation("Tide institute").Value);
        Assert.Equal(Ship.Tide, World.FindOrganisation(" ti ").Value);
        Assert.Equal(Ship.Pier, World.FindOrganisation(Ship.Pier.Id.ToString()).Value);
        Assert.Equal(Ship.Desks, World.FindPool("reading desks").Value);
        Assert.Equal(Ship.Desks, World.FindPool(Ship.Desks.ToString()).Value);
    }

    [Fact]
    public void What_is_not_there_is_refused_with_what_was_probably_meant()
    {
        Says(World.FindRole("bosum").Refusal!, "role", "Did you mean \"bosun\"?");
        Says(
            World.FindRole("zzz").Refusal!,
            "role",
            "Use one of: view, contribute, edit, manage, bosun, curator, warden."
        );
        Says(World.FindResource("Logbok").Refusal!, "resource", "Did you mean \"Logbook\"?");
        Says(World.FindResource("zzz").Refusal!, "resource", "Look at the list of resources.");
        Says(World.FindArea("zzz").Refusal!, "area", "Look at the list of areas.");
        Says(World.FindGroup(null).Refusal!, "group", "Look at the list of groups.");
        Says(World.FindOrganisation("").Refusal!, "organisation", "Look at the list of organisations.");
        Says(World.FindPool("Reading desk").Refusal!, "pool", "Did you mean \"Reading desks\"?");
        Says(World.FindPool("zzz").Refusal!, "pool", "Look at the list of seat pools.");
        Assert.Contains(
            "seat pool \"zzz\"",
            World.FindPool("zzz").Refusal!.Sentence,
            StringComparison.Ordinal
        );
        // An id that is none is not held against names.
        Says(World.FindGroup(Ship.Bosun.Id.ToString()).Refusal!, "group", "Look at the list of groups.");
        // An organisation without a code is not found by an empty one.
        Assert.Equal(Ship.Pier, World.FindOrganisation("pier friends").Value);

        static void Says(Refusal no, string what, string remedy)
        {
            Assert.Equal((what + ".unknown", what, RefusalSort.NotFound), (no.Code, no.Field, no.Sort));
            Assert.Equal(remedy, no.Remedy);
        }
    }

    [Fact]
    public void Roles_are_listed_built_in_first_least_first_then_by_name() =>
        Assert.Equal(
            ["view", "contribute", "edit", "manage", "Anchor", "bosun", "curator", "warden"],
            AccessWorld
                .InOrder(World.Roles.Values.Append(Ship.RoleOf(29, "Anchor", Level.Manage)).Reverse())
                .Select(role => role.Name)
        );

    [Fact]
    public void Roles_side_by_side_stand_in_the_order_of_their_areas_names()
    {
        var matrix = RoleMatrix.Of(World, [Role.View, Ship.Curator]);
        Assert.Equal(["Archive", "Deck bookings", null], matrix.Lines.Select(line => line.Area?.Name));
        Assert.Equal([true, false, false], matrix.Lines.Select(line => line.Differs));
        Assert.Equal([Level.View, Level.Manage], matrix.Lines[0].Levels);
    }

    [Fact]
    public void A_person_put_in_anew_is_found_at_the_new_address_alone()
    {
        var moved = World.With(Ship.Kofi with { AddressKey = "kofi@orlo.example" });
        Assert.Equal(Ship.Kofi.Id, moved.ByAddress["kofi@orlo.example"]);
        Assert.False(moved.ByAddress.ContainsKey("kofi@ship.example"));
        Assert.Equal(
            Ship.Kofi.Id,
            World.With(Ship.Kofi with { Name = "Kofi" }).ByAddress["kofi@ship.example"]
        );
        Assert.False(World.With(Ship.Kofi with { AddressKey = "" }).ByAddress.ContainsKey(""));
        Assert.False(World.Without(Ship.Kofi.Id).ByAddress.ContainsKey("kofi@ship.example"));
        Assert.False(World.Without(Ship.Kofi.Id).People.ContainsKey(Ship.Kofi.Id));
        Assert.Same(World, World.Without(Guid.NewGuid()));
        // An address that has passed to somebody else stays theirs.
        var passed = World.With(
            Ship.PersonOf(69, "Other", Kind.Guest) with
            {
                AddressKey = "kofi@ship.example",
            }
        );
        Assert.Equal(Ship.Id(69), passed.Without(Ship.Kofi.Id).ByAddress["kofi@ship.example"]);
    }

    [Fact]
    public void Every_place_is_asked_about_once() =>
        Assert.Equal(
            new HashSet<Place>
            {
                Place.At(Ship.Wheelhouse),
                Place.At(Ship.Logbook),
                Place.In(Ship.Deck),
                Place.In(Ship.Archive),
                Place.Elsewhere,
            },
            [.. World.Places()]
        );

    [Fact]
    public void A_bundle_is_read_each_thing_once()
    {
        var day = Ship.Today.AddDays(3);
        var read = Bundle
            .Read(
                new BundleWish(
                    [
                        new("View"),
                        new("view", " "),
                        new("view", "Logbook"),
                        new("view", "logbook", day),
                        new("edit"),
                    ],
                    ["Crew", " ", "crew", "Readers"],
                    ["reading desks", "", "Reading desks"]
                ),
                World
            )
            .Value;
        Assert.Equal(
            [
                new GivenRole(Role.View.Id),
                new GivenRole(Role.View.Id, Ship.Logbook.Id),
                new GivenRole(Role.View.Id, Ship.Logbook.Id, day),
                new GivenRole(Role.Edit.Id),
            ],
            read.Roles
        );
        Assert.Equal([Ship.Crew.Id, Ship.Readers.Id], read.Groups);
        Assert.Equal([Ship.Desks], read.Pools);
        // What is written from it reads back the same.
        var again = Bundle.Read(read.ToWish(), World).Value;
        Assert.Equal(read.Roles, again.Roles);
        Assert.Equal(read.Groups, again.Groups);
        Assert.Equal(read.Pools, again.Pools);
        Assert.False(read.IsEmpty);
        Assert.False((Bundle.Nothing with { Groups = [Ship.Crew.Id] }).IsEmpty);
        Assert.True((Bundle.Nothing with { Pools = [Ship.Desks] }).IsEmpty);
        Assert.Equal([new GivenRole(Role.Edit.Id)], Bundle.Of(Role.Edit).Roles);
    }

    [Theory]
    [InlineData("role.unknown", "role", "captain", null, null, null)]
    [InlineData("resource.unknown", "resource", "view", "Crow's nest", null, null)]
    [InlineData("group.unknown", "group", "view", null, "Cooks", null)]
    [InlineData("pool.unknown", "seats", "view", null, null, "Hammocks")]
    public void A_bundle_with_something_nobody_knows_is_refused(
        string code,
        string field,
        string role,
        string? resource,
        string? group,
        string? pool
    )
    {
        var no = Bundle
            .Read(
                new BundleWish(
                    [new RoleWish(role, resource)],
                    group is null ? [] : [group],
                    pool is null ? [] : [pool]
                ),
                World
            )
            .Refusal!;
        Assert.Equal((code, field, RefusalSort.Invalid), (no.Code, no.Field, no.Sort));
    }

    [Fact]
    public void A_bundle_holds_fifty_of_each_and_no_more()
    {
        RoleWish[] roles = [.. Enumerable.Repeat(new RoleWish("view"), Bundle.Most)];
        string[] groups = [.. Enumerable.Repeat("Crew", Bundle.Most)];
        string[] seats = [.. Enumerable.Repeat("Reading desks", Bundle.Most)];
        Assert.True(Bundle.Read(new BundleWish(roles, groups, seats), World).Succeeded);
        foreach (
            var tooMany in new BundleWish[]
            {
                new([.. roles, new("view")], groups, seats),
                new(roles, [.. groups, "Crew"], seats),
                new(roles, groups, [.. seats, "Reading desks"]),
            }
        )
        {
            var no = Bundle.Read(tooMany, World).Refusal!;
            Assert.Equal(("bundle.too-large", "roles"), (no.Code, no.Field));
        }
        Assert.True(BundleWish.None.IsNone);
        Assert.False((BundleWish.None with { Seats = seats }).IsNone);
        Assert.False((BundleWish.None with { Groups = groups }).IsNone);
        Assert.False((BundleWish.None with { Roles = roles }).IsNone);
    }

    [Fact]
    public void A_role_is_described_in_one_line_of_two_hundred_characters()
    {
        Assert.Equal(("Deck hand", "Scrub."), Role.ReadWords(" Deck hand ", " Scrub. ").Value);
        Says("role.name", "name", "", "Scrub.");
        Says("role.name", "name", null, "Scrub.");
        Says("role.sentence", "sentence", "Deck hand", "");
        Says("role.sentence", "sentence", "Deck hand", null);
        Says("role.sentence", "sentence", "Deck hand", "Scrub.\nRest.");
        Says("role.sentence", "sentence", "Deck hand", new string('x', Role.LongestSentence + 1));
        Assert.True(Role.ReadWords("Deck hand", new string('x', Role.LongestSentence)).Succeeded);
        Says("name.characters", "name", "Deck\u0000hand", "Scrub.");
        Says("message.link", "sentence", "Deck hand", "See https://elsewhere.example/x");

        static void Says(string code, string field, string? name, string? sentence)
        {
            var no = Role.ReadWords(name, sentence).Refusal!;
            Assert.Equal((code, field), (no.Code, no.Field));
        }
    }

    [Fact]
    public void Only_staff_are_administrators_by_a_role()
    {
        Assert.True(Role.Manage.IsBuiltIn && Role.Manage.MakesAdministrators);
        Assert.False(
            Ship.Warden.IsBuiltIn || Ship.Warden.MakesAdministrators || Role.Edit.MakesAdministrators
        );
        Assert.Equal(Role.Manage.Sentence, Role.Manage.SentenceFor(Kind.Partner));
        Assert.Equal(
            Role.Manage.Sentence + " As an administrator: invite people, end their access, read the record.",
            Role.Manage.SentenceFor(Kind.Staff)
        );
        Assert.Equal(Role.Edit.Sentence, Role.Edit.SentenceFor(Kind.Staff));
        Assert.Equal([1, 2, 3, 4], Role.AllBuiltIn.Select(role => (int)role.Everywhere));
        Assert.All(Role.AllBuiltIn, role => Assert.Equal(role.Everywhere.Word(), role.Name));
    }

    [Fact]
    public void An_organisation_is_asked_about_and_not_guessed()
    {
        Assert.Equal((null, ""), OrganisationRules.Find(World, "  ", false).Value);
        Assert.Equal((null, ""), OrganisationRules.Find(World, null, false).Value);
        Assert.Equal((Ship.Tide, "Tide Institute"), OrganisationRules.Find(World, "ti", false).Value);
        Assert.Equal((Ship.Tide, "Tide Institute"), OrganisationRules.Find(World, "ti", true).Value);
        Assert.Equal((null, "Quay"), OrganisationRules.Find(World, " Quay ", true).Value);
        var no = OrganisationRules.Find(World, "zzz", false).Refusal!;
        Assert.Equal(("organisation.unknown", RefusalSort.Invalid), (no.Code, no.Sort));
        Assert.StartsWith("Add it to the organisations first", no.Remedy, StringComparison.Ordinal);
        var kind = OrganisationRules.ForbidsKind(Ship.Tide, Kind.Guest)!;
        Assert.Equal((RefusalSort.Conflict, "organisation"), (kind.Sort, kind.Field));
        var full = OrganisationRules.ForbidsMore(Ship.Tide, 4)!;
        Assert.Equal((RefusalSort.Conflict, "organisation"), (full.Sort, full.Field));
    }
}
