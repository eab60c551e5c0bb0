using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Tests.Access;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>Lists of people, the rules of the house, join links, reminders and figures.</summary>
public sealed class ListsAndRules
{
    private static readonly DateOnly Today = new(2026, 11, 23);
    private static readonly DateTimeOffset Now = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);

    [Fact]
    public void Columns_are_known_in_any_order_and_in_both_languages() =>
        Gen.Select(
                Gen.Shuffle(SheetHeadings.All.Keys.Where(c => c != SheetColumn.Name).ToArray()),
                Gen.Bool,
                Gen.Bool
            )
            .Sample(
                (order, inGerman, shouting) =>
                {
                    var headings = order
                        .Select(column =>
                            inGerman ? SheetHeadings.All[column].German : SheetHeadings.All[column].English
                        )
                        .Select(heading => shouting ? " " + heading.ToUpperInvariant() + "* " : heading);
                    Assert.Equal(order, Sheet.Read([.. headings]).Value.Columns);
                }
            );

    [Fact]
    public void Unknown_columns_are_named_and_a_missing_or_doubled_one_refused()
    {
        Assert.Equal(["Shoe size"], Sheet.Read(["E-Mail", "Shoe size", ""]).Value.Unknown);
        Assert.Equal("sheet.no-address", Sheet.Read(["Name", "Kind"]).Refusal!.Code);
        Assert.Equal("sheet.heading-twice", Sheet.Read(["Mail", "Address"]).Refusal!.Code);
    }

    [Theory]
    [InlineData("2027-01-31")]
    [InlineData("31.1.2027")]
    [InlineData("31 January 2027")]
    [InlineData("31 Januar 2027")]
    [InlineData("2027-01-31 00:00:00")]
    public void A_day_is_read_as_people_and_spreadsheets_write_it(string written)
    {
        var sheet = Sheet.Read(["Adresse", "Ende", "Art", "Sprache", "Vorname", "Nachname"]).Value;
        var (wish, fault, _) = sheet.ReadRow([
            "Ines <ines@tide.example>",
            written,
            "Gast",
            "Deutsch",
            "Ines",
            "Calloway",
        ]);
        Assert.Null(fault);
        Assert.Equal((new DateOnly(2027, 1, 31), "guest", "de"), (wish.Until, wish.Kind, wish.Language));
        Assert.Equal(
            "Ines",
            InvitationOffer
                .Read(
                    wish,
                    new UsualOffer(Today, "en", TimeSpan.FromDays(30), new HouseRules()),
                    AccessWorld.Empty
                )
                .Value.Name
        );
        var (kept, why, _) = sheet.ReadRow(["ines@tide.example", "soon", "Gast"]);
        Assert.Equal(("row.day", "guest"), (why!.Code, kept.Kind));
    }

    [Fact]
    public void A_group_or_resource_that_is_not_there_is_not_silently_left_out()
    {
        var wish = new InvitationWish("ines@tide.example", "guest") { Group = "Deck" };
        Assert.Equal(
            "group.unknown",
            InvitationOffer
                .Read(
                    wish,
                    new UsualOffer(Today, "en", TimeSpan.FromDays(30), new HouseRules()),
                    AccessWorld.Empty
                )
                .Refusal!.Code
        );
    }

    [Fact]
    public void A_stay_that_begins_later_has_not_begun_before_its_first_day_and_reversed_days_are_refused()
    {
        var stay = Stay.Between(Today.AddDays(2), Today.AddDays(4), Today).Value;
        Assert.False(stay.IsBegun(Now, TimeZoneInfo.Utc));
        Assert.True(stay.IsBegun(Now.AddHours(36), TimeZoneInfo.Utc));
        Assert.Equal("stay.reversed", Stay.Between(Today.AddDays(4), Today.AddDays(2), Today).Refusal!.Code);
        Assert.Null(Stay.Between(Today, null, Today).Value.FirstDay);
    }

    [Theory]
    [InlineData("ines@blocked.example", "2026-12-01", true, 30, "rule.domain-blocked")]
    [InlineData("ines@sub.blocked.example", "2026-12-01", true, 30, "rule.domain-blocked")]
    [InlineData("ines@tide.example", "2026-12-01", false, 30, "rule.host-needed")]
    [InlineData("ines@tide.example", null, true, 30, "rule.stay-too-long")]
    [InlineData("ines@tide.example", "2026-12-23", true, 30, "rule.stay-too-long")]
    [InlineData("ines@tide.example", "2026-12-22", true, 30, null)]
    [InlineData("ines@tide.example", "2026-12-22", true, 61, "rule.answer-time")]
    public void The_rules_of_the_house_say_what_they_forbid(
        string address,
        string? until,
        bool hasHost,
        int days,
        string? code
    )
    {
        var rules = HouseRules
            .Read(
                new HouseRulesWish(
                    60,
                    new Dictionary<string, int> { ["guest"] = 30 },
                    true,
                    ["guest"],
                    null,
                    ["@Blocked.example"],
                    null
                ),
                AccessWorld.Empty
            )
            .Value;
        var wish = new InvitationWish(
            address,
            "guest",
            "view",
            Until: until is null ? null : DateOnly.Parse(until)
        );
        var offer = InvitationOffer
            .Read(
                wish,
                new UsualOffer(Today, "en", TimeSpan.FromDays(30), new HouseRules()),
                AccessWorld.Empty
            )
            .Value;
        var inviter = Guid.NewGuid();
        var facts = new InvitingFacts(
            Worlds.WithAdministrator(AccessWorld.Empty, inviter),
            rules,
            inviter,
            offer.Kind,
            offer.Gives,
            null,
            offer.Stay,
            days,
            Today
        )
        {
            Address = offer.Address,
            NamesHost = hasHost,
            HasHost = hasHost,
        };
        Assert.Equal(code, Readiness.Blockers(facts).FirstOrDefault()?.Code);
        Assert.True(
            rules.NeedsApproval(Kind.Guest, offer.Gives) && !rules.NeedsApproval(Kind.Staff, offer.Gives)
        );
    }

    [Fact]
    public void A_preset_says_only_what_a_wish_does_not()
    {
        var preset = Preset
            .Read(
                "Researcher",
                "guest",
                new BundleWish([new RoleWish("edit")], [], []),
                10,
                "Tide",
                "Welcome.",
                "de",
                false,
                AccessWorld.Empty
            )
            .Value;
        var filled = preset.Fill(new InvitationWish("a@tide.example", null, "view"), Today);
        Assert.Equal(("guest", Today.AddDays(9)), (filled.Kind, filled.Until));
        // What is chosen singly comes on top of what the preset gives.
        Assert.Equal(
            [Role.View.Id, Role.Edit.Id],
            Bundle.Read(filled.Gives, AccessWorld.Empty).Value.Roles.Select(given => given.Role)
        );
        Assert.True(
            preset.Fill(new InvitationWish("a@tide.example", null) { NoEnd = true }, Today)
                is { Until: null, NoEnd: true }
        );
        // A preset of no end is one on purpose.
        Assert.True(
            (preset with { StayDays = null }).Fill(new InvitationWish("a@tide.example", null), Today).NoEnd
        );
        Assert.Equal(("Tide", "Welcome.", "de"), (filled.Organisation, filled.Message, filled.Language));
    }

    [Fact]
    public void A_reminder_is_never_in_the_past_and_never_too_near_the_deadline() =>
        Gen.Select(Gen.Int[1, 40].Array[0, 5], Gen.Int[1, 40], Gen.Int[0, 40])
            .Sample(
                (days, answerDays, passed) =>
                {
                    var deadline = Now.AddDays(answerDays);
                    int[] schedule = [.. days.Distinct().Order()];
                    var next = Reminders.Next(Now, schedule, deadline, Now.AddDays(passed));
                    if (next is { } at)
                    {
                        Assert.True(at > Now.AddDays(passed) && at + Reminders.LastCall <= deadline);
                        Assert.Contains((at - Now).Days, schedule);
                    }
                    else
                    {
                        var first = schedule.FirstOrDefault(day => day > passed);
                        Assert.True(first == 0 || Now.AddDays(first) + Reminders.LastCall > deadline);
                    }
                }
            );

    [Fact]
    public void Figures_add_up_and_their_median_is_the_middle_one() =>
        Gen.Select(Gen.Enum<InvitationState>(), Gen.Int[0, 5000])
            .Array[0, 60]
            .Sample(invitations =>
            {
                var tally = new AnswerTally();
                foreach (var (state, minutes) in invitations)
                    tally.Count(
                        state,
                        Now,
                        state is InvitationState.Accepted or InvitationState.Declined
                            ? Now.AddMinutes(minutes)
                            : null
                    );
                var figures = tally.Figures();
                var times = invitations
                    .Where(i => i.Item1 is InvitationState.Accepted or InvitationState.Declined)
                    .Select(i => i.Item2)
                    .Order()
                    .ToList();
                Assert.Equal(invitations.Length, figures.Sent);
                Assert.True(figures.Accepted + figures.Declined <= figures.Sent);
                Assert.Equal(times.Count == 0, figures.MedianAnswerTime is null);
                if (figures.MedianAnswerTime is { } median)
                    Assert.InRange(median.TotalMinutes, times[(times.Count - 1) / 2], times[times.Count / 2]);
            });

    [Theory]
    [InlineData("550 5.1.1 <a@b>: no such user", "the mailbox does not exist")]
    [InlineData("552 5.2.2 over quota", "the mailbox is full")]
    [InlineData("550 go away", "550 go away")]
    [InlineData(null, "no reason was given")]
    public void What_a_mail_server_says_is_put_in_plain_words(string? answer, string words) =>
        Assert.Equal(words, EnhancedStatus.Explain(answer));

    [Theory]
    [InlineData("#0B5563", null)]
    [InlineData("#6cc3d0", "colour.too-light")]
    [InlineData("red", "colour.malformed")]
    public void A_colour_must_bear_white_letters(string text, string? code) =>
        Assert.Equal(code, Colour.Read(text).Refusal?.Code);
}
