using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>What stands in the way of an invitation is said all at once, and outsiders have an end.</summary>
public sealed class ReadAllAtOnce
{
    private static readonly DateOnly Today = new(2026, 11, 23);
    private static readonly Guid Quay = Guid.Parse("01a00000-0000-7000-8000-0000000000c1");

    private static readonly AccessWorld World = AccessWorld.Empty with
    {
        Organisations = AccessWorld.Empty.Organisations.Add(
            Quay,
            new Organisation(Quay, "Copper Quay Museum", Kind.Partner, null, [], null, []) { Code = "CQM" }
        ),
    };

    private static UsualOffer Usual(HouseRules? rules = null) =>
        new(Today, "en", TimeSpan.FromDays(30), rules ?? new HouseRules());

    // Each part of a wish is right or wrong by itself.
    private static readonly (string Code, Func<InvitationWish, InvitationWish> Spoil)[] Wrong =
    [
        ("address.malformed", wish => wish with { Address = "ines" }),
        ("kind.unknown", wish => wish with { Kind = "pirate" }),
        ("role.unknown", wish => wish with { Role = "captain" }),
        ("stay.past", wish => wish with { Until = Today.AddDays(-1) }),
        ("organisation.unknown", wish => wish with { Organisation = "Copper Quai Museum" }),
        ("language.unknown", wish => wish with { Language = "tlh" }),
        ("answer-time.out-of-range", wish => wish with { AnswerDays = 0 }),
        ("message.link", wish => wish with { Message = "see https://elsewhere.example/x" }),
        ("name.characters", wish => wish with { Title = "a\u0000b" }),
    ];

    private static readonly InvitationWish Whole = new("ines@tide.example", "guest", "view");

    [Fact]
    public void One_fault_hides_no_other()
    {
        // All wrong parts are named, and only those.
        Assert.Empty(InvitationOffer.ReadThrough(Whole, Usual(), World).Faults);
        Gen.Bool.Array[Wrong.Length]
            .Sample(spoilt =>
            {
                var wish = Spoilt(Whole, spoilt);
                var faults = InvitationOffer
                    .ReadThrough(wish, Usual(), World)
                    .Faults.Select(fault => fault.Code);
                Assert.Equal(
                    Wrong.Zip(spoilt).Where(one => one.Second).Select(one => one.First.Code).Order(),
                    faults.Order()
                );
                Assert.Equal(!spoilt.Any(one => one), InvitationOffer.Read(wish, Usual(), World).Succeeded);
            });
    }

    [Fact]
    public void Wrong_for_everybody_is_what_is_said_and_not_what_is_left_to_the_list()
    {
        Gen.Select(Gen.Bool.Array[Wrong.Length], Gen.Bool)
            .Sample(
                (spoilt, saysKind) =>
                {
                    // Who is asked is never said for all.
                    spoilt[0] = false;
                    var whole = Whole with { Address = null, Kind = saysKind ? "guest" : null };
                    var wrong = InvitationOffer.WrongForAll(Spoilt(whole, spoilt), Usual(), World);
                    var expected = Wrong.Zip(spoilt).Where(one => one.Second).Select(one => one.First.Code);
                    Assert.Equal(expected.Any(), wrong is not null);
                    if (wrong is not null)
                        Assert.Contains(wrong.Code, expected);
                }
            );
    }

    private static InvitationWish Spoilt(InvitationWish wish, bool[] spoilt)
    {
        foreach (var (one, isSpoilt) in Wrong.Zip(spoilt))
            wish = isSpoilt ? one.Spoil(wish) : wish;
        return wish;
    }

    [Theory]
    [InlineData("copper quay museum", "Copper Quay Museum")]
    [InlineData("cqm", "Copper Quay Museum")]
    [InlineData("", "")]
    public void An_organisation_is_found_by_name_or_code(string written, string name) =>
        Assert.Equal(name, OrganisationRules.Find(World, written, false).Value.Written);

    [Theory]
    [InlineData("Coper Quay Museum")]
    [InlineData("Copper Quay")]
    [InlineData("Copperr")]
    [InlineData("Copper Quay Museum Ltd")]
    public void One_that_nobody_knows_is_asked_about_and_kept_only_on_purpose(string written)
    {
        var asked = OrganisationRules.Find(World, written, false).Refusal!;
        Assert.Equal(("organisation.unknown", "organisation"), (asked.Code, asked.Field));
        Assert.Contains("Did you mean \"Copper Quay Museum\"?", asked.Remedy, StringComparison.Ordinal);
        Assert.Equal((null, written), OrganisationRules.Find(World, written, true).Value);
        // Where none is known, it stands beside none.
        Assert.True(OrganisationRules.Find(AccessWorld.Empty, written, false).Succeeded);
    }

    [Theory]
    [InlineData("guest", null, false, 90)]
    [InlineData("guest", 5, false, 5)]
    [InlineData("guest", null, true, null)]
    [InlineData("staff", null, false, null)]
    [InlineData("client", null, false, 30)] // its longest stay is shorter
    public void An_outsider_has_an_end_unless_none_is_meant(string kind, int? days, bool noEnd, int? expected)
    {
        var rules = new HouseRules { LongestStayDays = new Dictionary<Kind, int> { [Kind.Client] = 30 } };
        var wish = new InvitationWish(
            "ines@tide.example",
            kind,
            "view",
            Until: days is { } given ? Today.AddDays(given - 1) : null
        )
        {
            NoEnd = noEnd,
        };
        Assert.Equal(
            expected is { } stays ? Today.AddDays(stays - 1) : null,
            InvitationOffer.Read(wish, Usual(rules), World).Value.Stay.LastDay
        );
        // A stay that begins later is as long.
        if (days is null && expected is { } usual)
            Assert.Equal(
                Today.AddDays(10 + usual - 1),
                InvitationOffer
                    .Read(wish with { From = Today.AddDays(10) }, Usual(rules), World)
                    .Value.Stay.LastDay
            );
    }

    [Fact]
    public void A_last_day_and_no_end_are_not_both_meant() =>
        Assert.Equal(
            "stay.both",
            InvitationOffer
                .Read(
                    new InvitationWish("ines@tide.example", "guest", "view", Until: Today) { NoEnd = true },
                    Usual(),
                    World
                )
                .Refusal!.Code
        );
}
