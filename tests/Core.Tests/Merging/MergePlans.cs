using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Merging;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Merging;

/// <summary>Plans of merges, case by case: fields, reasons, words.</summary>
public sealed class MergePlans
{
    private static readonly DateOnly Winter = new(2027, 2, 28);
    private static readonly Guid Group = new(40, 0, 0, new byte[8]);
    private static readonly Guid Brightmail = new(41, 0, 0, new byte[8]);

    private static readonly Person Ines = Somebody(30, Kind.Staff, Stay.Endless, Role.Contribute);
    private static readonly Person Guest = Somebody(31, Kind.Guest, new Stay(Winter), Role.Edit) with
    {
        Groups = [Group],
    };

    private static readonly AccessWorld World = (
        Ship.World with
        {
            Groups = Ship.World.Groups.Add(
                Group,
                new Group(Group, "Rope hands", [GrantOf(50, Role.Manage, Ship.Logbook.Id)])
            ),
            Organisations = Ship.World.Organisations.Add(
                Brightmail,
                new Organisation(Brightmail, "Brightmail", Kind.Guest, null, [], null, [])
            ),
        }
    )
        .With(Ines)
        .With(Guest);

    [Fact]
    public void A_grant_lasts_no_longer_than_it_did_for_the_other_and_a_group_that_would_is_left()
    {
        var plan = PlanOf(MergeWish.Nothing);
        var grant = Assert.Single(plan.Steps, step => step.Deed == MergeDeed.Grant);
        Assert.Equal((false, new Stay(Winter)), (grant.IsLeft, grant.Window));
        Assert.Equal("The role edit in the whole workspace, until 2027-02-28.", grant.Sentence());
        var group = Assert.Single(plan.Steps, step => step.Deed == MergeDeed.Group);
        Assert.True(group.IsLeft);
        Assert.Equal("In the group Rope hands.", group.Sentence());
        Assert.Equal(
            [
                "manage at Logbook from 2027-03-01, where neither had more than contribute",
                "arranging who may do what at Logbook, as staff",
            ],
            group.Gains
        );
        Assert.Equal(["manage at Logbook: edit is left"], plan.Losses);
        // Opted for by itself.
        var opted = PlanOf(MergeWish.Nothing with { Gains = new HashSet<string> { group.Key } });
        Assert.DoesNotContain(opted.Steps, step => step.IsLeft);
        Assert.Equal(Level.Manage, opted.After.LevelOf(Ines.Id, Place.At(Ship.Logbook), Winter.AddDays(10)));
    }

    [Fact]
    public void Duties_that_only_count_for_staff_are_not_gained_by_the_way()
    {
        var holder = Guest with { Grants = [GrantOf(51, Role.Manage, null)], Groups = [] };
        var plan = PlanOf(MergeWish.Nothing, World.With(holder));
        var grant = Assert.Single(plan.Steps, step => step.Deed == MergeDeed.Grant);
        Assert.True(grant.IsLeft);
        Assert.Contains(
            "the duties invite, approve, people, access, seats, claims, record and settings, which neither held",
            grant.Gains
        );
    }

    [Fact]
    public void What_a_paused_one_could_not_do_today_is_not_given()
    {
        var plan = PlanOf(MergeWish.Nothing, World.With(Guest with { IsPaused = true }));
        Assert.All(plan.Steps, step => Assert.True(step.IsLeft));
        Assert.Empty(plan.Losses);
    }

    [Fact]
    public void Whoever_alone_was_switched_off_stays_so_and_keeps_the_rest()
    {
        var world = World with { SwitchedOff = [(Guest.Id, Ship.Logbook.Id)] };
        // Who stays has nothing there.
        var plan = PlanOf(
            MergeWish.Nothing,
            world.With(Ines with { Grants = [] }).With(Guest with { Groups = [] })
        );
        Assert.Equal([MergeDeed.SwitchOff, MergeDeed.Grant], plan.Steps.Select(step => step.Deed));
        Assert.DoesNotContain(plan.Steps, step => step.IsLeft);
        Assert.Equal(Level.None, plan.After.LevelOf(Ines.Id, Place.At(Ship.Logbook), Ship.Today));
        Assert.Equal(Level.Edit, plan.After.LevelOf(Ines.Id, Place.At(Ship.Wheelhouse), Ship.Today));
        // Who stays has: being switched off would take it from them.
        Assert.DoesNotContain(
            PlanOf(MergeWish.Nothing, world).Steps,
            step => step.Deed == MergeDeed.SwitchOff
        );
    }

    [Fact]
    public void Fields_are_proposed_with_a_reason_and_can_be_chosen()
    {
        var kept = SideOf(Ines, (MergeField.Title, "Shipwright"), (MergeField.Name, "Ines Calloway"));
        var other = SideOf(
            Guest,
            (MergeField.Title, "Rigger"),
            (MergeField.Country, "Portugal"),
            (MergeField.Name, "Inês Calloway")
        );
        var plan = PlanOf(MergeWish.Nothing, World, kept, other);
        Assert.Equal(("Shipwright", "of the account that stays"), Of(plan, MergeField.Title));
        Assert.Equal(("Portugal", "only the other has one"), Of(plan, MergeField.Country));
        Assert.Equal(("Ines Calloway", "the name of the account that stays"), Of(plan, MergeField.Name));
        Assert.Equal(("staff", "as the account that stays is here"), Of(plan, MergeField.Kind));
        Assert.Equal(("", "the same on both sides"), Of(plan, MergeField.Note));
        Assert.Equal(
            "The country becomes \"Portugal\".",
            plan.Steps.Single(step => step.Deed == MergeDeed.Field).Sentence()
        );
        // Whether somebody leads is no text of theirs.
        var leads = new MergeStep(MergeDeed.Field, Guid.Empty, "lead")
        {
            Before = FieldValue.Empty,
            After = new FieldValue("yes"),
        };
        Assert.Equal("Lead of the organisation, as the other is.", leads.Sentence());
        Assert.Equal(
            "Not the lead of an organisation any more.",
            (leads with { Before = leads.After, After = leads.Before }).Sentence()
        );
        var take = MergeFields.Read([" Title ", "name"]).Value;
        plan = PlanOf(new MergeWish(take), World, kept, other);
        Assert.Equal(("Rigger", "chosen"), Of(plan, MergeField.Title));
        Assert.Equal(("Inês Calloway", "chosen"), Of(plan, MergeField.Name));
        Assert.Equal("merge.field-unknown", MergeFields.Read(["pause"]).Refusal!.Code);
        Assert.Equal("merge.field-unknown", MergeFields.Read([null]).Refusal!.Code);
        Assert.Contains(
            "\"title\"",
            MergeFields.Read(["\"title\""]).Refusal!.Sentence,
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Nobody_becomes_their_own_host_and_no_staff_come_to_an_organisation()
    {
        var kept = SideOf(Ines) with
        {
            Fields = Fields(Ines).SetItem(MergeField.Host, new FieldValue("Guest", Guest.Id)),
        };
        var other = SideOf(Guest) with
        {
            Fields = Fields(Guest)
                .SetItem(MergeField.Host, new FieldValue("Mira", Ship.Mira.Id))
                .SetItem(MergeField.Organisation, new FieldValue("Brightmail", Brightmail)),
        };
        var plan = PlanOf(MergeWish.Nothing, World, kept, other);
        Assert.Equal(("Mira", "only the other has one"), Of(plan, MergeField.Host));
        Assert.Equal(("", "it is for guests"), Of(plan, MergeField.Organisation));
        plan = PlanOf(MergeWish.Nothing, World, kept, SideOf(Guest));
        Assert.Equal("", Of(plan, MergeField.Host).Text);
        Assert.Contains(
            "The host \"Guest\" is left out.",
            plan.Steps.Where(step => step.Deed == MergeDeed.Field).Select(step => step.Sentence())
        );
    }

    [Fact]
    public void A_longer_stay_that_would_stretch_what_one_had_is_a_gain()
    {
        // The guest stays, and would take the endless stay of the staff.
        var facts = new MergeFacts(World, Ship.Today, SideOf(Guest), SideOf(Ines));
        var plan = MergePlan.For(
            facts,
            new MergeWish(new HashSet<MergeField> { MergeField.Stay }),
            Guid.NewGuid
        );
        var stay = Assert.Single(plan.Steps, step => step.Deed == MergeDeed.Field);
        Assert.True(stay.IsLeft);
        Assert.Equal("field:stay", stay.Key);
        Assert.Equal(
            ("until 2027-02-28", "the other's would give what neither could do"),
            Of(plan, MergeField.Stay)
        );
        // Contribute for good is lost with the staff's stay.
        Assert.Contains(
            plan.Losses,
            loss => loss.Contains("from 2027-03-01: nothing is left", StringComparison.Ordinal)
        );
    }

    [Fact]
    public void The_longer_stay_is_proposed_where_it_stretches_nothing()
    {
        var shorter = Guest with { Grants = [], Groups = [] };
        var longer = Ines with { Kind = Kind.Guest };
        var plan = MergePlan.For(
            new MergeFacts(World.With(shorter).With(longer), Ship.Today, SideOf(shorter), SideOf(longer)),
            MergeWish.Nothing,
            Guid.NewGuid
        );
        Assert.Equal(("no end", "the longer stay"), Of(plan, MergeField.Stay));
        Assert.Empty(plan.Losses);
        Assert.DoesNotContain(plan.Steps, step => step.IsLeft);
    }

    [Fact]
    public void A_seat_both_hold_is_freed_once_and_one_of_one_passes()
    {
        var since = new DateTimeOffset(2026, 3, 1, 0, 0, 0, TimeSpan.Zero);
        var kept = SideOf(Ines) with { Seats = [new SeatHeld(Group, "Radio", since, false)] };
        var other = SideOf(Guest) with
        {
            Seats =
            [
                new SeatHeld(Group, "Radio", since, true),
                new SeatHeld(Brightmail, "Charts", since, false),
            ],
        };
        var plan = PlanOf(MergeWish.Nothing, World, kept, other);
        Assert.Equal(
            ["Both hold a seat of Radio: one of them is free.", "The other's seat of Charts."],
            plan.Steps.Where(step => step.Deed is MergeDeed.Seat or MergeDeed.FreeSeat)
                .Select(step => step.Sentence())
        );
        Assert.True(plan.Steps.Single(step => step.Deed == MergeDeed.FreeSeat).ForCustody);
    }

    [Fact]
    public void Staff_stay_else_whoever_was_here_last_else_whoever_came_first()
    {
        var early = new DateTimeOffset(2026, 1, 1, 0, 0, 0, TimeSpan.Zero);
        var late = early.AddDays(90);
        Assert.Equal(
            (true, "staff here"),
            MergePlan.WhoStays((Kind.Staff, null, late), (Kind.Client, late, early))
        );
        Assert.Equal(
            (false, "staff here"),
            MergePlan.WhoStays((Kind.Guest, late, early), (Kind.Staff, null, late))
        );
        Assert.Equal(
            (false, "used last"),
            MergePlan.WhoStays((Kind.Guest, null, early), (Kind.Client, early, late))
        );
        Assert.Equal(
            (true, "here longest"),
            MergePlan.WhoStays((Kind.Guest, late, early), (Kind.Client, late, late))
        );
        Assert.Null(MergePlan.TwoCapacities(SideOf(Ines), SideOf(Ines)));
        Assert.Contains(
            "as staff and as guest: one person may have two capacities on purpose",
            MergePlan.TwoCapacities(SideOf(Ines), SideOf(Guest)),
            StringComparison.Ordinal
        );
    }

    [Fact]
    public void Accounts_that_cannot_be_one_are_refused_and_parting_is_possible_for_thirty_days()
    {
        var (ours, theirs) = (Guid.NewGuid(), Guid.NewGuid());
        var (kept, goes) = (Account("a@ship.example", ours), Account("b@ship.example", ours));
        var now = new DateTimeOffset(2026, 11, 27, 12, 0, 0, TimeSpan.Zero);
        Assert.Null(MergeRules.Forbids(kept, goes));
        Assert.Null(MergeRules.Forbids(kept, goes with { Custody = null }));
        Assert.Equal("merge.one", MergeRules.Forbids(kept, kept)!.Code);
        Assert.Equal("merge.held", MergeRules.Forbids(kept with { Custody = null }, goes)!.Code);
        Assert.Contains(
            "Keep that account",
            MergeRules.Forbids(kept with { Custody = null }, goes)!.Remedy,
            StringComparison.Ordinal
        );
        Assert.Contains(
            "release",
            MergeRules.Forbids(kept with { Custody = theirs }, goes)!.Remedy,
            StringComparison.Ordinal
        );
        foreach (
            var (code, standing) in new[]
            {
                ("merge.closed", new AccountStanding(null, now)),
                ("merge.paused", new AccountStanding(now, null)),
            }
        )
        {
            Assert.Equal(code, MergeRules.Forbids(kept with { Standing = standing }, goes)!.Code);
            var no = MergeRules.Forbids(kept, goes with { Standing = standing })!;
            Assert.Equal(code, no.Code);
            Assert.Contains("b@ship.example", no.Sentence, StringComparison.Ordinal);
        }
        var merge = new AccountMerge(now);
        Assert.Null(merge.ForbidsUndoing(now.AddDays(30).AddTicks(-1), default));
        Assert.Equal("merge.over", merge.ForbidsUndoing(now.AddDays(30), default)!.Code);
        Assert.Equal("merge.over", (merge with { UndoneAt = now }).ForbidsUndoing(now, default)!.Code);
        Assert.Equal("merge.gone", merge.ForbidsUndoing(now, new AccountStanding(null, now))!.Code);
    }

    private static MergedAccount Account(string address, Guid custody) =>
        new(Guid.NewGuid(), address, default, custody);

    private static (string Text, string Why) Of(MergePlan plan, MergeField field)
    {
        var choice = plan.Choices.Single(one => one.Field == field);
        return (choice.Chosen.Text, choice.Why);
    }

    private static MergePlan PlanOf(
        MergeWish wish,
        AccessWorld? world = null,
        MergeSide? kept = null,
        MergeSide? other = null
    ) =>
        MergePlan.For(
            new MergeFacts(world ?? World, Ship.Today, kept ?? SideOf(Ines), other ?? SideOf(Guest)),
            wish,
            Guid.NewGuid
        );

    private static Person Somebody(int id, Kind kind, Stay stay, Role role) =>
        new(new Guid(id, 0, 0, new byte[8]), kind, stay, false, null, false, [GrantOf(id, role, null)], [])
        {
            AddressKey = $"{id}@ship.example",
        };

    private static Grant GrantOf(int id, Role role, Guid? resource) =>
        new(new Guid(id, 1, 0, new byte[8]), role.Id, resource, Stay.Endless);

    private static ImmutableDictionary<MergeField, FieldValue> Fields(Person person) =>
        ImmutableDictionary<MergeField, FieldValue>
            .Empty.Add(MergeField.Kind, new(person.Kind.Word()))
            .Add(MergeField.Stay, FieldValue.Of(person.Stay));

    private static MergeSide SideOf(Person person, params (MergeField Field, string Text)[] more) =>
        new(
            person.Id,
            "Ines",
            Fields(person)
                .SetItems(more.Select(one => KeyValuePair.Create(one.Field, new FieldValue(one.Text))))
        );
}
