using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Departures;

/// <summary>The steps of a departure one by one, who takes over, and who the last administrator is.</summary>
public sealed class WhatADepartureDoes
{
    private static readonly DateOnly Today = Ship.Today;

    private static readonly AccessWorld World = Ship.World with
    {
        Resources = Ship.World.Resources.SetItems(
            new[] { Ship.Logbook, Ship.Wheelhouse }.Select(resource =>
                KeyValuePair.Create(resource.Id, resource with { Owner = Ship.Ada.Id })
            )
        ),
    };

    private static Named Thing(int number, string name) => new(Ship.Id(number), name);

    private static LeaverFacts Leaver(Person person) =>
        new(person.Id, person.Name, person.Kind, person.Stay, false, World.With(person));

    private static readonly LeaverFacts Ada = Leaver(Ship.Ada with { Groups = [Ship.Readers.Id] }) with
    {
        Sessions = [Ship.Id(201)],
        Tokens = [Thing(202, "laptop")],
        Links = [Thing(203, "Harbour day")],
        Lists = [Thing(204, "crew.csv")],
        Invitations = [Thing(205, "a@orlo.example")],
        HostedInvitations = [Thing(206, "b@orlo.example")],
        Guests = [Thing(207, "Hamish Orlo")],
        Seats = [new SeatHeld(Ship.Id(208), "Reading desks", default, false)],
        EndedBy = Ship.Yara.Id,
    };

    [Fact]
    public void Access_stops_first_and_everything_else_follows_in_its_order()
    {
        var plan = DeparturePlan.For(Ada, null, Today).Value;
        Assert.Equal(
            [
                DepartureDeed.StopAccess,
                DepartureDeed.StopAccess,
                DepartureDeed.CloseSession,
                DepartureDeed.RevokeToken,
                DepartureDeed.CloseLink,
                DepartureDeed.StopList,
                DepartureDeed.PassOnInvitation,
                DepartureDeed.PassOnHosting,
                DepartureDeed.PassOnGuest,
                DepartureDeed.HandOver,
                DepartureDeed.HandOver,
                DepartureDeed.FreeSeat,
            ],
            plan.Steps.Select(step => step.Deed)
        );
        Assert.Equal(
            Enumerable
                .Range(201, 7)
                .Select(Ship.Id)
                .Append(Ship.Logbook.Id)
                .Append(Ship.Wheelhouse.Id)
                .Append(Ship.Id(208)),
            plan.Steps.Skip(2).Select(step => step.Subject)
        );
        Assert.All(
            plan.Steps,
            step =>
                Assert.Equal(
                    step.Deed
                        is DepartureDeed.PassOnInvitation
                            or DepartureDeed.PassOnHosting
                            or DepartureDeed.PassOnGuest
                            or DepartureDeed.HandOver
                        ? (Ship.Yara.Id, "Yara Lindqvist")
                        : ((Guid?)null, ""),
                    (step.Heir, step.HeirName)
                )
        );
        Assert.Null(plan.LastDay);
        Assert.Equal(Today.AddDays(3), DeparturePlan.For(Ada, Today.AddDays(3), Today).Value.LastDay);
        Assert.Single(plan.Stays);
    }

    [Fact]
    public void What_is_lost_is_said_with_where_and_by_which_way()
    {
        var one = Ship.Ines with
        {
            Grants =
            [
                Ship.Given(Ship.Bosun, Ship.Wheelhouse),
                Ship.Given(Role.View) with
                {
                    RoleId = Guid.NewGuid(),
                },
            ],
            Groups = [Ship.Crew.Id],
        };
        Assert.Equal(
            [
                "The role bosun at Wheelhouse: edit.",
                "The role bosun in the whole workspace, through the group Crew: work as bosun.",
                "The role view at Logbook, through Tide Institute: view.",
            ],
            DeparturePlan
                .Carrying(Leaver(one), null, Today)
                .Steps.Where(step => step.Deed == DepartureDeed.StopAccess)
                .Select(step => step.Sentence())
        );
        // A member without anything loses their place.
        var nothing = DeparturePlan.Carrying(Leaver(Ship.Kofi with { Grants = [] }), null, Today).Steps[0];
        Assert.Equal((DepartureDeed.StopAccess, Ship.Kofi.Id), (nothing.Deed, nothing.Subject));
        var unknown = DeparturePlan.Carrying(
            new LeaverFacts(Ship.Id(99), "Nobody", Kind.Guest, Stay.Endless, false, World),
            null,
            Today
        );
        Assert.Equal(Ship.Id(99), Assert.Single(unknown.Steps).Subject);
    }

    [Fact]
    public void Sign_ins_stay_open_while_the_account_is_elsewhere_too()
    {
        var one = DeparturePlan.Carrying(Ada with { OtherWorkspaces = 1 }, null, Today);
        Assert.DoesNotContain(one.Steps, step => step.Deed == DepartureDeed.CloseSession);
        Assert.Equal(
            ["Their account itself: they can still sign in to it.", "1 other workspace they belong to."],
            one.Stays
        );
    }

    [Fact]
    public void Who_ends_somebody_takes_over_where_they_can_and_else_an_administrator()
    {
        Assert.Equal(Ship.Yara.Id, HeirOf(Ada));
        Assert.Equal(Ship.Mira.Id, HeirOf(Ada with { EndedBy = null }));
        Assert.Equal(Ship.Mira.Id, HeirOf(Ada with { EndedBy = Ada.Id }));
        Assert.Equal(Ship.Mira.Id, HeirOf(Ada with { EndedBy = Ship.Kofi.Id }));
        Assert.Equal(Ship.Mira.Id, HeirOf(Ada with { EndedBy = Guid.NewGuid() }));
        var paused = Ada.World.With(Ship.Yara with { IsPaused = true });
        Assert.Equal(Ship.Mira.Id, HeirOf(Ada with { World = paused }));
        // Of several administrators the one with the least id, whatever order they are kept in.
        var second = Ship.PersonOf(60, "Zoe", Kind.Staff) with
        {
            Grants = [Ship.Given(Role.Manage)],
        };
        Assert.Equal(second.Id, HeirOf(Ada with { EndedBy = null, World = Ada.World.With(second) }));
        // Where nobody is left, nothing passes on.
        var alone = DeparturePlan.Carrying(
            Ada with
            {
                EndedBy = null,
                World = Ada.World.Without(Ship.Mira.Id),
            },
            null,
            Today
        );
        Assert.All(alone.Steps, step => Assert.Null(step.Heir));
        Assert.DoesNotContain(alone.Steps, step => step.Deed == DepartureDeed.PassOnInvitation);
        Assert.Contains(alone.Steps, step => step.Deed == DepartureDeed.FreeSeat);
        // The one who leaves takes nothing over from themselves.
        var mira = Leaver(Ship.Mira) with
        {
            Guests = Ada.Guests,
            World = World.With(second),
            EndedBy = Ship.Mira.Id,
        };
        Assert.Equal(second.Id, HeirOf(mira));

        static Guid? HeirOf(LeaverFacts leaver) =>
            DeparturePlan.Carrying(leaver, null, Today).Steps.First(step => step.Heir is not null).Heir;
    }

    [Fact]
    public void An_end_is_never_later_than_agreed_and_what_was_planned_may_be_moved_as_far()
    {
        var ines = Leaver(Ship.Ines);
        var agreed = Ship.Ines.Stay.LastDay!.Value;
        Assert.True(DeparturePlan.For(ines, agreed, Today).Succeeded);
        var later = DeparturePlan.For(ines, agreed.AddDays(1), Today).Refusal!;
        Assert.Equal(("departure.later", "on", RefusalSort.Conflict), (later.Code, later.Field, later.Sort));
        var planned = ines with { Planned = new PlannedEnd(agreed.AddDays(20)) };
        Assert.True(DeparturePlan.For(planned, agreed.AddDays(20), Today).Succeeded);
        Assert.Equal("departure.later", DeparturePlan.For(planned, agreed.AddDays(21), Today).Refusal!.Code);
        Assert.True(
            DeparturePlan
                .For(ines with { Planned = new PlannedEnd(null) }, agreed.AddDays(900), Today)
                .Succeeded
        );
        var past = DeparturePlan.For(ines, Today.AddDays(-1), Today).Refusal!;
        Assert.Equal(("stay.past", "on"), (past.Code, past.Field));
        var already = DeparturePlan.For(ines with { IsEnded = true }, null, Today).Refusal!;
        Assert.Equal(("departure.already", RefusalSort.Conflict), (already.Code, already.Sort));
    }

    [Fact]
    public void A_planned_end_is_taken_back_to_what_was_agreed()
    {
        var ines = Leaver(Ship.Ines);
        Assert.Equal("departure.not-planned", DeparturePlan.Withdraw(ines, Today).Refusal!.Code);
        Assert.Equal(RefusalSort.Conflict, DeparturePlan.Withdraw(ines, Today).Refusal!.Sort);
        Assert.Equal(
            Ship.Ines.Stay with
            {
                LastDay = null,
            },
            DeparturePlan.Withdraw(ines with { Planned = new PlannedEnd(null) }, Today).Value
        );
        Assert.Equal(
            Today,
            DeparturePlan.Withdraw(ines with { Planned = new PlannedEnd(Today) }, Today).Value.LastDay
        );
        var over = ines with { Planned = new PlannedEnd(Today.AddDays(-1)) };
        Assert.Equal("departure.already", DeparturePlan.Withdraw(over, Today).Refusal!.Code);
        Assert.Contains(
            "2026-11-22",
            DeparturePlan.Withdraw(over, Today).Refusal!.Sentence,
            StringComparison.Ordinal
        );
        var ended = ines with { IsEnded = true, Planned = new PlannedEnd(null) };
        Assert.Equal("departure.already", DeparturePlan.Withdraw(ended, Today).Refusal!.Code);
    }

    [Fact]
    public void A_lasting_administrator_is_staff_here_without_an_end_to_anything()
    {
        Assert.True(Lasts(Ship.Mira));
        Assert.True(Lasts(Ship.Mira with { Grants = [Ship.Given(Role.Manage), Ship.Given(Role.Manage)] }));
        Assert.False(Lasts(Ship.Mira with { Kind = Kind.Partner }));
        Assert.False(Lasts(Ship.Mira with { IsPaused = true }));
        Assert.False(Lasts(Ship.Mira with { Stay = new Stay(Today.AddYears(9)) }));
        Assert.False(Lasts(Ship.Mira with { Stay = new Stay(null, Today.AddDays(1)) }));
        Assert.False(Lasts(Ship.Mira with { OrganisationId = Ship.Tide.Id }));
        Assert.True(Lasts(Ship.Mira with { OrganisationId = Ship.Pier.Id }));
        Assert.False(Lasts(Ship.Mira with { Grants = [Ship.Given(Role.Manage, Ship.Logbook)] }));
        Assert.False(
            Lasts(
                Ship.Mira with
                {
                    Grants = [Ship.Given(Role.Manage) with { Window = new Stay(Today.AddDays(9)) }],
                }
            )
        );
        Assert.False(
            Lasts(
                Ship.Mira with
                {
                    Grants = [Ship.Given(Role.Manage) with { Window = new Stay(null, Today.AddDays(9)) }],
                }
            )
        );
        Assert.False(Lasts(Ship.Mira with { Grants = [Ship.Given(Role.Edit)] }));
        Assert.False(Lasts(Ship.Mira with { Grants = [] }));
        Assert.False(AdministratorRule.IsLasting(World, Guid.NewGuid(), Today));
        // What one role lacks another may give.
        var half = Ship.RoleOf(25, "half", Level.View) with
        {
            Duties = Duties.Invite | Duties.People,
        };
        var other = Ship.RoleOf(26, "other", Level.View) with { Duties = Duties.Access };
        var both = Ship.Bo with
        {
            Grants = [Ship.Given(half), Ship.Given(other), Ship.Given(half) with { RoleId = Guid.NewGuid() }],
        };
        var world = World.With(both) with
        {
            Roles = World.Roles.AddRange([new(half.Id, half), new(other.Id, other)]),
        };
        Assert.True(AdministratorRule.IsLasting(world, both.Id, Today));
        Assert.Equal([Ship.Mira.Id, both.Id], AdministratorRule.Lasting(world, Today).Order());
        Assert.Equal(
            "administrator.last",
            AdministratorRule.Forbids(World, World.Without(Ship.Mira.Id), Today)!.Code
        );
        Assert.Null(AdministratorRule.Forbids(world, world.Without(Ship.Mira.Id), Today));
        // Where there was none, nothing is lost.
        Assert.Null(
            AdministratorRule.Forbids(World.Without(Ship.Mira.Id), World.Without(Ship.Mira.Id), Today)
        );
        Assert.Null(AdministratorRule.Forbids(World.Without(Ship.Mira.Id), World, Today));
        // Somebody beside the last administrator can go.
        Assert.True(DeparturePlan.For(Leaver(Ship.Kofi), null, Today).Succeeded);
        Assert.Equal("administrator.last", DeparturePlan.For(Leaver(Ship.Mira), null, Today).Refusal!.Code);

        static bool Lasts(Person person) => AdministratorRule.IsLasting(World.With(person), person.Id, Today);
    }

    // One of a sort is said by itself, as are three; four are one sentence, but sign-ins and seats.
    [Theory]
    [InlineData(DepartureDeed.StopAccess, 4, "stop-access", "thing", 4)]
    [InlineData(DepartureDeed.CloseSession, 2, "close-sign-in", "2 open sign-ins are closed.", 1)]
    [InlineData(DepartureDeed.CloseSession, 1, "close-sign-in", "1 open sign-in is closed.", 1)]
    [InlineData(
        DepartureDeed.RevokeToken,
        4,
        "revoke-token",
        "4 API tokens of this workspace are revoked.",
        1
    )]
    [InlineData(
        DepartureDeed.RevokeToken,
        3,
        "revoke-token",
        "Their API token \"thing\" of this workspace is revoked.",
        3
    )]
    [InlineData(DepartureDeed.CloseLink, 4, "close-join-link", "4 join links in their name are closed.", 1)]
    [InlineData(DepartureDeed.CloseLink, 1, "close-join-link", "Their join link \"thing\" is closed.", 1)]
    [InlineData(
        DepartureDeed.PassOnInvitation,
        5,
        "pass-on-invitation",
        "5 open invitations they made pass to Yara.",
        1
    )]
    [InlineData(
        DepartureDeed.PassOnInvitation,
        1,
        "pass-on-invitation",
        "The open invitation to thing passes to Yara.",
        1
    )]
    [InlineData(
        DepartureDeed.PassOnHosting,
        4,
        "pass-on-hosting",
        "Yara becomes the host of 4 people who are invited.",
        1
    )]
    [InlineData(
        DepartureDeed.PassOnHosting,
        1,
        "pass-on-hosting",
        "Yara becomes the host of thing, who is invited.",
        1
    )]
    [InlineData(DepartureDeed.PassOnGuest, 4, "pass-on-guest", "Yara becomes the host of 4 people.", 1)]
    [InlineData(DepartureDeed.PassOnGuest, 1, "pass-on-guest", "Yara becomes the host of thing.", 1)]
    [InlineData(DepartureDeed.HandOver, 4, "hand-over", "4 resources they own pass to Yara.", 1)]
    [InlineData(DepartureDeed.HandOver, 1, "hand-over", "They own thing: it passes to Yara.", 1)]
    [InlineData(DepartureDeed.StopList, 4, "stop-list", "4 lists in their name are sent no further.", 1)]
    [InlineData(DepartureDeed.StopList, 1, "stop-list", "Their list \"thing\" is sent no further.", 1)]
    [InlineData(DepartureDeed.FreeSeat, 4, "free-seat", "A seat of thing is freed.", 4)]
    public void Many_steps_of_a_sort_are_one_sentence(
        DepartureDeed deed,
        int many,
        string word,
        string sentence,
        int sentences
    )
    {
        Assert.Equal(word, deed.Word());
        var steps = Enumerable
            .Range(0, many)
            .Select(n => new DepartureStep(deed, Ship.Id(n), "thing", Ship.Yara.Id, "Yara"));
        Assert.Equal(Enumerable.Repeat(sentence, sentences), DepartureWords.Sentences([.. steps]));
    }
}
