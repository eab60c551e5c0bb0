using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>Who gets in at all, with which level and duties, to the day; and which pages open to them.</summary>
public sealed class WhoGetsIn
{
    [Fact]
    public void Each_reason_to_be_kept_out_has_its_own_words()
    {
        var day = Ship.Today;
        Assert.Null(Why(Ship.Kofi));
        Assert.Same(EntryRules.NotBegun, Why(Ship.Kofi with { Stay = new Stay(null, day.AddDays(1)) }));
        Assert.Null(Why(Ship.Kofi with { Stay = new Stay(day, day) }));
        Assert.Same(EntryRules.Ended, Why(Ship.Kofi with { Stay = new Stay(day.AddDays(-1)) }));
        Assert.Same(EntryRules.Paused, Why(Ship.Kofi with { IsPaused = true }));
        Assert.Null(Why(Ship.Ines));
        Assert.Null(EntryRules.Forbids(Ending(day), Ship.Ines.Id, day));
        Assert.Same(EntryRules.AgreementOver, EntryRules.Forbids(Ending(day.AddDays(-1)), Ship.Ines.Id, day));
        Assert.Same(EntryRules.Ended, EntryRules.Forbids(Ship.World, Guid.NewGuid(), day));
        // Whoever is of an organisation that is not there any more is not kept out for it.
        Assert.Null(Why(Ship.Kofi with { OrganisationId = Guid.NewGuid() }));
        Assert.Equal(
            ["access.agreement-over", "access.ended", "access.not-begun", "access.paused"],
            new[]
            {
                EntryRules.AgreementOver,
                EntryRules.Ended,
                EntryRules.NotBegun,
                EntryRules.Paused,
            }.Select(no =>
            {
                Assert.Equal(RefusalSort.NotAllowed, no.Sort);
                return no.Code;
            })
        );

        static Refusal? Why(Person person) =>
            EntryRules.Forbids(Ship.World.With(person), person.Id, Ship.Today);
        static AccessWorld Ending(DateOnly on) =>
            Ship.World with
            {
                Organisations = Ship.World.Organisations.SetItem(
                    Ship.Tide.Id,
                    Ship.Tide with
                    {
                        AgreementEnds = on,
                    }
                ),
            };
    }

    [Fact]
    public void Somebody_whose_stay_has_not_begun_is_told_the_day()
    {
        Assert.Same(EntryRules.Ended, EntryRules.Inactive(new Stay(null, Ship.Today), isHere: false));
        Assert.Same(EntryRules.NotBegun, EntryRules.Inactive(Stay.Endless, isHere: true));
        var later = EntryRules.Inactive(new Stay(null, new DateOnly(2027, 2, 1)), isHere: true);
        Assert.Equal("access.not-begun", later.Code);
        Assert.EndsWith("begins on 2027-02-01.", later.Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_switch_stops_one_resource_for_a_person_or_an_organisation_and_says_so()
    {
        var off = Ship.World with
        {
            SwitchedOff = [(Ship.Kofi.Id, Ship.Logbook.Id), (Ship.Tide.Id, Ship.Logbook.Id)],
        };
        Assert.Equal(Cut.SwitchedOff, Explain(off, Ship.Kofi, Ship.Logbook).Cut);
        Assert.Equal(Cut.OrganisationSwitchedOff, Explain(off, Ship.Ines, Ship.Logbook).Cut);
        Assert.Equal(Cut.None, Explain(off, Ship.Kofi, Ship.Wheelhouse).Cut);
        Assert.Equal(Level.View, Explain(off, Ship.Kofi, Ship.Wheelhouse).Level);
        Assert.Equal(Cut.None, off.Explain(Ship.Kofi.Id, Place.In(Ship.Archive), Ship.Today).Cut);
        Assert.Equal(Cut.None, Explain(off, Ship.Ada, Ship.Logbook).Cut);
        Assert.Equal(Cut.NotHere, off.Explain(Guid.NewGuid(), Place.Elsewhere, Ship.Today).Cut);
        Assert.Equal(Level.None, off.Explain(Guid.NewGuid(), Place.Elsewhere, Ship.Today).Level);
        // Where somebody is kept out altogether, that is the reason.
        Assert.Equal(
            Cut.Paused,
            Explain(off.With(Ship.Kofi with { IsPaused = true }), Ship.Kofi, Ship.Logbook).Cut
        );
        Assert.Equal(Cut.None, Explain(Ship.World, Ship.Bo, Ship.Logbook).Cut);
        Assert.Empty(Explain(Ship.World, Ship.Bo, Ship.Logbook).Because);

        static Answer Explain(AccessWorld world, Person person, Resource at) =>
            world.Explain(person.Id, Place.At(at), Ship.Today);
    }

    [Fact]
    public void Where_a_level_comes_from_is_named_with_its_holder()
    {
        var world = Ship.World.With(
            Ship.Ines with
            {
                Groups = [Ship.Readers.Id, Guid.NewGuid()],
                Grants = [Ship.Given(Role.View, Ship.Logbook)],
            }
        );
        var answer = world.Explain(Ship.Ines.Id, Place.At(Ship.Logbook), Ship.Today);
        Assert.Equal(
            [
                (HolderKind.Member, Ship.Ines.Id),
                (HolderKind.Group, Ship.Readers.Id),
                (HolderKind.Organisation, Ship.Tide.Id),
            ],
            answer.Because.Select(path => (path.Through, path.HolderId))
        );
        // A grant whose time is not now gives nothing, and is no reason.
        var early = Ship.Given(Role.Manage) with
        {
            Window = new Stay(null, Ship.Today.AddDays(1)),
        };
        var later = Ship.World.With(Ship.Kofi with { Grants = [early, Ship.Given(Role.View)] });
        Assert.Equal(Level.View, later.LevelOf(Ship.Kofi.Id, Place.Elsewhere, Ship.Today));
        Assert.Single(later.Explain(Ship.Kofi.Id, Place.Elsewhere, Ship.Today).Because);
        Assert.Equal(Level.Manage, later.LevelOf(Ship.Kofi.Id, Place.Elsewhere, Ship.Today.AddDays(1)));
    }

    [Fact]
    public void Duties_count_in_the_whole_workspace_for_staff_within_their_time()
    {
        Assert.Equal(Duties.Invite | Duties.Record, Held(Ship.Yara));
        Assert.Equal(Duties.None, Held(Ship.Yara with { Kind = Kind.Partner }));
        Assert.Equal(Duties.None, Held(Ship.Yara with { IsPaused = true }));
        Assert.Equal(Duties.None, Held(Ship.Yara with { Grants = [Ship.Given(Ship.Warden, Ship.Logbook)] }));
        Assert.Equal(
            Duties.None,
            Held(
                Ship.Yara with
                {
                    Grants = [Ship.Given(Ship.Warden) with { Window = new Stay(Ship.Today.AddDays(-1)) }],
                }
            )
        );
        Assert.Equal(
            [Duties.Invite, Duties.Record],
            Ship.World.ExplainDuties(Ship.Yara.Id, Ship.Today).Select(answer => answer.Duty)
        );
        var twice = Ship.World.With(
            Ship.Yara with
            {
                Grants = [.. Ship.Yara.Grants, Ship.Given(Role.View), Ship.Given(Role.Manage, Ship.Logbook)],
            }
        );
        Assert.All(twice.ExplainDuties(Ship.Yara.Id, Ship.Today), answer => Assert.Single(answer.Because));
        Assert.Empty(Ship.World.ExplainDuties(Ship.Kofi.Id, Ship.Today));
        Assert.Equal(Duties.None, Ship.World.DutiesOf(Guid.NewGuid(), Ship.Today));

        static Duties Held(Person person) => Ship.World.With(person).DutiesOf(person.Id, Ship.Today);
    }

    [Theory]
    [InlineData(Duties.None, "My places")]
    [InlineData(Duties.Invite, "Overview, Invite, My places")]
    [InlineData(Duties.Approve, "Overview, Invite, My places")]
    [InlineData(Duties.People, "Overview, People, Endings, My places")]
    [InlineData(Duties.Access, "Overview, People, Access, My places")]
    [InlineData(Duties.Seats, "Overview, Access, My places")]
    [InlineData(Duties.Record, "Overview, Record, My places")]
    [InlineData(Duties.Settings, "Overview, Workspace, My places")]
    [InlineData(Duties.Claims, "Overview, Accounts, My places")]
    [InlineData(
        Duties.All,
        "Overview, Invite, People, Access, Accounts, Endings, Record, Workspace, My places"
    )]
    public void Pages_open_to_the_duties_that_need_them(Duties duties, string pages) =>
        Assert.Equal(pages, string.Join(", ", ConsolePages.For(duties).Select(page => page.Title())));

    // What each level allows: of the resource itself, of one's own entries, of others', of others' in a private area.
    [Theory]
    [InlineData(Level.None, "", "", "", "")]
    [InlineData(Level.View, "view", "view", "view", "")]
    [InlineData(Level.Contribute, "view contribute", "view contribute edit", "view", "")]
    [InlineData(
        Level.Edit,
        "view contribute edit",
        "view contribute edit",
        "view contribute edit",
        "view contribute edit"
    )]
    [InlineData(
        Level.Manage,
        "view contribute edit manage",
        "view contribute edit manage",
        "view contribute edit manage",
        "view contribute edit manage"
    )]
    public void A_level_allows_what_its_word_says(
        Level held,
        string all,
        string own,
        string others,
        string hidden
    )
    {
        Assert.Equal(all, Allowed(null, false));
        Assert.Equal(all, Allowed(null, true));
        Assert.Equal(own, Allowed(true, false));
        Assert.Equal(own, Allowed(true, true));
        Assert.Equal(others, Allowed(false, false));
        Assert.Equal(hidden, Allowed(false, true));

        string Allowed(bool? mine, bool isPrivate) =>
            string.Join(
                ' ',
                Enum.GetValues<Level>()
                    .Where(asked => asked != Level.None && Decision.Allows(held, asked, mine, isPrivate))
                    .Select(asked => asked.Word())
            );
    }

    [Theory]
    [InlineData("", "kind.unknown")]
    [InlineData("pirate", "kind.unknown")]
    [InlineData("1", "kind.unknown")]
    public void Words_that_are_none_are_refused(string word, string code)
    {
        var kind = Kinds.Read(word).Refusal!;
        Assert.Equal((code, "kind"), (kind.Code, kind.Field));
        var level = Levels.Read(word).Refusal!;
        Assert.Equal(("level.unknown", "level"), (level.Code, level.Field));
    }

    [Fact]
    public void Everybody_but_the_staff_is_from_outside() =>
        Assert.Equal(
            [(Kind.Staff, false), (Kind.Guest, true), (Kind.Partner, true), (Kind.Client, true)],
            Kinds.All.Select(kind => (kind, kind.IsOutsider()))
        );
}
