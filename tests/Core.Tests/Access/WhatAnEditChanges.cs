using ComeAboard.Core.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

/// <summary>What an edit changes, case by case, and who is counted as gaining and losing.</summary>
public sealed class WhatAnEditChanges
{
    private static readonly Place[] Everywhere = [.. Ship.World.Places()];

    [Fact]
    public void Nothing_edited_changes_nothing() =>
        Assert.Equal((0, 0, 0, 0), Counted(AccessDifference.Between(Ship.World, Ship.World, Ship.Today)));

    [Fact]
    public void Somebody_who_is_given_more_gains_and_loses_nothing()
    {
        var edit = Between(Ship.World.With(Ship.Kofi with { Grants = [Ship.Given(Role.Edit)] }));
        Assert.Equal(
            Everywhere
                .Select(place => new LevelChange(Ship.Kofi.Id, place, Level.View, Level.Edit))
                .ToHashSet(),
            [.. edit.Levels]
        );
        Assert.Equal((Everywhere.Length, 0, 1, 0), Counted(edit));
        // The other way round somebody loses.
        var back = AccessDifference.Between(
            Ship.World.With(Ship.Kofi with { Grants = [Ship.Given(Role.Edit)] }),
            Ship.World,
            Ship.Today
        );
        Assert.Equal((Everywhere.Length, 0, 0, 1), Counted(back));
    }

    [Fact]
    public void Duties_alone_are_gained_and_lost_too()
    {
        var warden = Ship.Warden with { Duties = Duties.Invite | Duties.Seats };
        var edit = Between(Ship.World with { Roles = Ship.World.Roles.SetItem(warden.Id, warden) });
        Assert.Equal(
            [new DutyChange(Ship.Yara.Id, Duties.Invite | Duties.Record, warden.Duties)],
            edit.Duties
        );
        Assert.Equal((0, 1, 1, 1), Counted(edit));
        var more = Ship.Warden with { Duties = Duties.Invite | Duties.Record | Duties.Seats };
        Assert.Equal(
            (0, 1, 1, 0),
            Counted(Between(Ship.World with { Roles = Ship.World.Roles.SetItem(more.Id, more) }))
        );
        var fewer = Ship.Warden with { Duties = Duties.Invite };
        Assert.Equal(
            (0, 1, 0, 1),
            Counted(Between(Ship.World with { Roles = Ship.World.Roles.SetItem(fewer.Id, fewer) }))
        );
    }

    [Fact]
    public void Everybody_in_a_group_or_an_organisation_is_reached()
    {
        var crew = Ship.Crew with { Grants = [] };
        Assert.Equal(
            [Ship.Bo.Id],
            Between(Ship.World with { Groups = Ship.World.Groups.SetItem(crew.Id, crew) })
                .Levels.Select(change => change.Person)
                .Distinct()
        );
        var tide = Ship.Tide with { Grants = [] };
        var ended = Between(
            Ship.World with
            {
                Organisations = Ship.World.Organisations.SetItem(tide.Id, tide),
            }
        );
        Assert.Equal(
            [new LevelChange(Ship.Ines.Id, Place.At(Ship.Logbook), Level.View, Level.None)],
            ended.Levels
        );
    }

    [Fact]
    public void What_is_removed_nobody_reaches_and_what_is_added_nobody_gains()
    {
        var without = Between(Ship.World with { Resources = Ship.World.Resources.Remove(Ship.Logbook.Id) });
        Assert.All(without.Levels, change => Assert.Equal(Level.None, change.After));
        Assert.Equal(
            [Ship.Mira.Id, Ship.Yara.Id, Ship.Ada.Id, Ship.Ines.Id, Ship.Kofi.Id],
            without.Levels.Select(change => change.Person).Order()
        );
        Assert.Equal((5, 0, 0, 5), Counted(without));
        var chart = new Resource(Ship.Id(13), Ship.Deck.Id, "Chart");
        var added = Between(Ship.World with { Resources = Ship.World.Resources.Add(chart.Id, chart) });
        Assert.Equal((0, 0, 0, 0), Counted(added));
        var galley = new Area(Ship.Id(3), "Galley");
        Assert.Equal(
            (0, 0, 0, 0),
            Counted(Between(Ship.World with { Areas = Ship.World.Areas.Add(galley.Id, galley) }))
        );
        var noDeck = Between(Ship.World with { Areas = Ship.World.Areas.Remove(Ship.Deck.Id) });
        Assert.Contains(
            new LevelChange(Ship.Bo.Id, Place.In(Ship.Deck), Level.Edit, Level.None),
            noDeck.Levels
        );
        // Put into another area, a resource is the same, and is named where it is by then.
        var moved = Ship.Wheelhouse with
        {
            AreaId = Ship.Archive.Id,
        };
        var move = Between(Ship.World with { Resources = Ship.World.Resources.SetItem(moved.Id, moved) });
        Assert.Equal(
            new HashSet<LevelChange>
            {
                new(Ship.Bo.Id, Place.At(moved), Level.Edit, Level.None),
                new(Ship.Ada.Id, Place.At(moved), Level.View, Level.Manage),
            },
            [.. move.Levels]
        );
    }

    [Fact]
    public void A_switch_and_somebody_who_comes_or_goes_are_seen()
    {
        var off = Between(Ship.World with { SwitchedOff = [(Ship.Kofi.Id, Ship.Logbook.Id)] });
        Assert.Equal(
            [new LevelChange(Ship.Kofi.Id, Place.At(Ship.Logbook), Level.View, Level.None)],
            off.Levels
        );
        Assert.Equal((Everywhere.Length, 0, 0, 1), Counted(Between(Ship.World.Without(Ship.Kofi.Id))));
        Assert.Equal(
            (Everywhere.Length, 1, 1, 0),
            Counted(AccessDifference.Between(Ship.World.Without(Ship.Mira.Id), Ship.World, Ship.Today))
        );
    }

    [Fact]
    public void Whoever_is_counted_as_gaining_or_losing_does() =>
        Gen.Select(Worlds.Any, Worlds.GenEdit)
            .Sample(
                (before, edit) =>
                {
                    var after = edit(before);
                    var difference = AccessDifference.Between(before, after, Worlds.Today);
                    var people = difference
                        .Levels.Select(change => change.Person)
                        .Concat(difference.Duties.Select(change => change.Person))
                        .Distinct()
                        .ToList();
                    Assert.Equal(
                        people.Count(person =>
                            difference.Levels.Any(c => c.Person == person && c.After > c.Before)
                            || difference.Duties.Any(c =>
                                c.Person == person && (c.After | c.Before) != c.Before
                            )
                        ),
                        difference.Gaining
                    );
                    Assert.Equal(
                        people.Count(person =>
                            difference.Levels.Any(c => c.Person == person && c.After < c.Before)
                            || difference.Duties.Any(c =>
                                c.Person == person && (c.After | c.Before) != c.After
                            )
                        ),
                        difference.Losing
                    );
                }
            );

    private static AccessDifference Between(AccessWorld after) =>
        AccessDifference.Between(Ship.World, after, Ship.Today);

    private static (int Levels, int Duties, int Gaining, int Losing) Counted(AccessDifference edit) =>
        (edit.Levels.Count, edit.Duties.Count, edit.Gaining, edit.Losing);
}
