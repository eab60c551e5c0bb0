using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using Xunit;

namespace ComeAboard.Core.Tests.Workspaces;

/// <summary>The rules of the house at their edges, and what their refusals say.</summary>
public sealed class RulesOfTheHouse
{
    private static readonly HouseRulesWish Nothing = new(null, null, false, null, null, null, null);

    [Fact]
    public void What_is_not_said_is_as_it_is_at_first()
    {
        var rules = HouseRules.Read(Nothing, Ship.World).Value;
        Assert.Equal(
            (365, false, false),
            (rules.LongestAnswerDays, rules.HostForOutsiders, rules.ApproveOtherAddress)
        );
        Assert.Equal([7, 21], rules.ReminderDays);
        Assert.Equal([Kind.Guest, Kind.Partner, Kind.Client], rules.UsualStayDays.Keys.Order());
        Assert.All(rules.UsualStayDays.Values, days => Assert.Equal(90, days));
        Assert.Empty(rules.LongestStayDays);
        Assert.Empty(rules.Approval);
        Assert.Empty(rules.Inviters);
        var said = HouseRules
            .Read(
                Nothing with
                {
                    UsualStayDays = new Dictionary<string, int> { ["guest"] = 3 },
                    ReminderDays = [5, 1, 5],
                    Approval = ["partner", "guest", "Partner"],
                    ApprovalRoles = ["Edit", "edit", "bosun"],
                    Inviters = new Dictionary<string, IReadOnlyList<string>>
                    {
                        ["guest"] = ["warden", "Warden"],
                        ["client"] = [],
                    },
                    ApproveOtherAddress = true,
                    HostForOutsiders = true,
                    AllowedDomains = ["@Tide.example", "orlo.example", "tide.example"],
                    LongestAnswerDays = 1,
                },
                Ship.World
            )
            .Value;
        Assert.Equal(3, Assert.Single(said.UsualStayDays).Value);
        Assert.Equal([1, 5], said.ReminderDays);
        Assert.Equal([Kind.Guest, Kind.Partner], said.Approval);
        Assert.Equal([Role.Edit.Id, Ship.Bosun.Id], said.ApprovalRoles);
        Assert.Equal([Ship.Warden.Id], Assert.Single(said.Inviters).Value);
        Assert.True(said.ApproveOtherAddress && said.HostForOutsiders);
        Assert.Equal(["orlo.example", "tide.example"], said.AllowedDomains);
        Assert.Equal(1, said.LongestAnswerDays);
    }

    [Fact]
    public void Each_rule_that_cannot_be_names_its_field()
    {
        Says("domain.malformed", "allowedDomains", Nothing with { AllowedDomains = ["no domain"] });
        Says("domain.malformed", "blockedDomains", Nothing with { BlockedDomains = ["no domain"] });
        Says("kind.unknown", "approval", Nothing with { Approval = ["guest", "pirate"] });
        Says("role.unknown", "approvalRoles", Nothing with { ApprovalRoles = ["captain"] });
        Says("kind.unknown", "inviters", Nothing with { Inviters = Who("pirate", "view") });
        Says("role.unknown", "inviters", Nothing with { Inviters = Who("guest", "captain") });
        Says("kind.unknown", "longestStayDays", Nothing with { LongestStayDays = Days("pirate", 5) });
        Says("rules.out-of-range", "longestStayDays", Nothing with { LongestStayDays = Days("guest", 0) });
        Says(
            "rules.out-of-range",
            "longestStayDays",
            Nothing with
            {
                LongestStayDays = Days("guest", 18_251),
            }
        );
        Says("kind.unknown", "usualStayDays", Nothing with { UsualStayDays = Days("pirate", 5) });
        Says("rules.out-of-range", "usualStayDays", Nothing with { UsualStayDays = Days("guest", 0) });
        Says("rules.out-of-range", "reminderDays", Nothing with { ReminderDays = [0] });
        Says("rules.out-of-range", "reminderDays", Nothing with { ReminderDays = [1, 366] });
        Says(
            "rules.out-of-range",
            "reminderDays",
            Nothing with
            {
                ReminderDays = [.. Enumerable.Range(1, 11)],
            }
        );
        Says("rules.out-of-range", "longestAnswerDays", Nothing with { LongestAnswerDays = 0 });
        Says("rules.out-of-range", "longestAnswerDays", Nothing with { LongestAnswerDays = 366 });
        var many = Enumerable.Repeat("tide.example", HouseRules.LongestList);
        Says(
            "domain.too-many",
            "allowedDomains",
            Nothing with
            {
                AllowedDomains = [.. many, "tide.example"],
            }
        );
        // The ends themselves are allowed.
        var edge = HouseRules
            .Read(
                Nothing with
                {
                    LongestStayDays = new Dictionary<string, int> { ["guest"] = 1, ["client"] = 18_250 },
                    ReminderDays = [.. Enumerable.Range(356, 9), 1],
                    LongestAnswerDays = 365,
                    AllowedDomains = [.. many],
                },
                Ship.World
            )
            .Value;
        Assert.Equal([1, 18_250], edge.LongestStayDays.Values.Order());
        Assert.True(HouseRules.Read(Nothing with { ReminderDays = [1, 365] }, Ship.World).Succeeded);

        static void Says(string code, string field, HouseRulesWish wish)
        {
            var no = HouseRules.Read(wish, Ship.World).Refusal!;
            Assert.Equal((code, field, RefusalSort.Invalid), (no.Code, no.Field, no.Sort));
        }
        static Dictionary<string, int> Days(string kind, int days) => new() { ["client"] = 5, [kind] = days };
        static Dictionary<string, IReadOnlyList<string>> Who(string kind, string role) =>
            new() { [kind] = [role] };
    }

    [Fact]
    public void A_stay_is_as_long_as_its_kind_may_stay_both_days_counted()
    {
        var rules = new HouseRules { LongestStayDays = new Dictionary<Kind, int> { [Kind.Guest] = 10 } };
        Assert.Null(rules.ForbidsStay(Kind.Guest, new Stay(Ship.Today.AddDays(9)), Ship.Today));
        var no = rules.ForbidsStay(Kind.Guest, new Stay(Ship.Today.AddDays(10)), Ship.Today)!;
        Assert.Equal(("rule.stay-too-long", "until", RefusalSort.Conflict), (no.Code, no.Field, no.Sort));
        Assert.Contains("2026-12-02", no.Remedy, StringComparison.Ordinal);
        Assert.NotNull(rules.ForbidsStay(Kind.Guest, Stay.Endless, Ship.Today));
        Assert.Null(rules.ForbidsStay(Kind.Partner, Stay.Endless, Ship.Today));
        // One that begins later ends later.
        var first = Ship.Today.AddDays(5);
        Assert.Null(rules.ForbidsStay(Kind.Guest, new Stay(first.AddDays(9), first), Ship.Today));
        Assert.NotNull(rules.ForbidsStay(Kind.Guest, new Stay(first.AddDays(10), first), Ship.Today));
    }

    [Fact]
    public void A_usual_stay_counts_both_days_and_is_never_longer_than_allowed()
    {
        var rules = new HouseRules
        {
            UsualStayDays = new Dictionary<Kind, int> { [Kind.Guest] = 10, [Kind.Client] = 30 },
            LongestStayDays = new Dictionary<Kind, int> { [Kind.Client] = 5, [Kind.Partner] = 5 },
        };
        Assert.Equal(
            (10, 5, null),
            (rules.UsualDays(Kind.Guest), rules.UsualDays(Kind.Client), rules.UsualDays(Kind.Partner))
        );
        Assert.Equal(Ship.Today.AddDays(9), rules.UsualLastDay(Kind.Guest, Ship.Today));
        Assert.Null(rules.UsualLastDay(Kind.Partner, Ship.Today));
        Assert.Null(rules.UsualLastDay(Kind.Guest, DateOnly.MaxValue));
        Assert.Null(rules.UsualLastDay(Kind.Guest, DateOnly.MaxValue.AddDays(-9)));
        Assert.Equal(
            DateOnly.MaxValue.AddDays(-1),
            rules.UsualLastDay(Kind.Guest, DateOnly.MaxValue.AddDays(-10))
        );
    }

    [Fact]
    public void Hosts_answer_times_and_domains_are_held_to_the_rules()
    {
        var rules = new HouseRules
        {
            HostForOutsiders = true,
            LongestAnswerDays = 30,
            AllowedDomains = ["tide.example"],
            BlockedDomains = ["old.tide.example"],
        };
        var host = rules.ForbidsHostless(Kind.Guest, false)!;
        Assert.Equal(("rule.host-needed", "host", RefusalSort.Conflict), (host.Code, host.Field, host.Sort));
        Assert.Null(rules.ForbidsHostless(Kind.Guest, true));
        Assert.Null(rules.ForbidsHostless(Kind.Staff, false));
        Assert.Null(new HouseRules().ForbidsHostless(Kind.Guest, false));

        Assert.Null(rules.ForbidsAnswerTime(30));
        var answer = rules.ForbidsAnswerTime(31)!;
        Assert.Equal(("rule.answer-time", "answerDays"), (answer.Code, answer.Field));

        Assert.Null(rules.ForbidsDomain(Ship.At("a@tide.example")));
        Assert.Null(rules.ForbidsDomain(Ship.At("a@lab.tide.example")));
        Assert.Null(
            (rules with { AllowedDomains = ["orlo.example", "tide.example"] }).ForbidsDomain(
                Ship.At("a@tide.example")
            )
        );
        var blocked = rules.ForbidsDomain(Ship.At("a@old.tide.example"))!;
        Assert.Equal(("rule.domain-blocked", "address"), (blocked.Code, blocked.Field));
        var other = rules.ForbidsDomain(Ship.At("a@orlo.example"))!;
        Assert.Equal(("rule.domain-not-allowed", "address"), (other.Code, other.Field));
        Assert.Null(new HouseRules().ForbidsDomain(Ship.At("a@orlo.example")));
    }

    [Fact]
    public void Only_holders_of_a_role_that_counts_today_invite_a_kind()
    {
        var rules = new HouseRules
        {
            Inviters = new Dictionary<Kind, IReadOnlyList<Guid>>
            {
                [Kind.Guest] = [Ship.Warden.Id, Ship.Id(99)],
                [Kind.Client] = [],
            },
        };
        Assert.Null(Who(Ship.Yara, Kind.Guest));
        Assert.Null(Who(Ship.Mira, Kind.Partner));
        Assert.Null(Who(Ship.Mira, Kind.Client));
        var no = Who(Ship.Mira, Kind.Guest)!;
        Assert.Equal(("rule.inviter", "kind", RefusalSort.NotAllowed), (no.Code, no.Field, no.Sort));
        Assert.StartsWith(
            "Only holders of warden or a removed role may invite a guest",
            no.Sentence,
            StringComparison.Ordinal
        );
        Assert.NotNull(rules.ForbidsInviter(Ship.World, Guid.NewGuid(), Kind.Guest, Ship.Today));
        Assert.Null(
            Who(Ship.Yara with { Grants = [Ship.Given(Role.View), Ship.Given(Ship.Warden)] }, Kind.Guest)
        );
        var over = Ship.Given(Ship.Warden) with { Window = new Stay(Ship.Today.AddDays(-1)) };
        Assert.NotNull(Who(Ship.Yara with { Grants = [over] }, Kind.Guest));

        Refusal? Who(Person inviter, Kind kind) =>
            rules.ForbidsInviter(Ship.World.With(inviter), inviter.Id, kind, Ship.Today);
    }

    [Fact]
    public void Approval_is_wanted_for_kinds_for_roles_and_for_another_address()
    {
        var rules = new HouseRules { Approval = [Kind.Client], ApprovalRoles = [Role.Edit.Id] };
        Assert.True(rules.NeedsApproval(Kind.Client, Bundle.Nothing));
        Assert.False(rules.NeedsApproval(Kind.Guest, Ship.Gives(Role.View)));
        Assert.True(rules.NeedsApproval(Kind.Guest, Ship.Gives(Role.View, Role.Edit)));
        Assert.False(rules.NeedsApproval(Kind.Guest, Bundle.Nothing, withOtherAddress: true));
        var strict = rules with { ApproveOtherAddress = true };
        Assert.True(strict.NeedsApproval(Kind.Guest, Bundle.Nothing, withOtherAddress: true));
        Assert.False(strict.NeedsApproval(Kind.Guest, Bundle.Nothing));
    }

    [Theory]
    [InlineData("#0b5563", null)]
    [InlineData(" #0B5563 ", null)]
    [InlineData("#000000", null)]
    [InlineData("#767676", null)] // 4.54 to 1
    [InlineData("#777777", "colour.too-light")] // 4.48 to 1
    [InlineData("#ff0000", "colour.too-light")] // 4.0 to 1
    [InlineData("#008000", null)] // 5.1 to 1
    [InlineData("#009000", "colour.too-light")] // 4.1 to 1
    [InlineData("#0000ff", null)] // 8.6 to 1
    [InlineData("#ffffff", "colour.too-light")]
    [InlineData("#0a0a0a", null)]
    [InlineData("#0000fe", null)]
    [InlineData("#0b556", "colour.malformed")]
    [InlineData("#0b55633", "colour.malformed")]
    [InlineData("00b5563", "colour.malformed")]
    [InlineData("#0b556g", "colour.malformed")]
    [InlineData("", "colour.malformed")]
    [InlineData(null, "colour.malformed")]
    public void A_colour_bears_white_letters_from_four_and_a_half_to_one(string? text, string? code)
    {
        var read = Colour.Read(text);
        Assert.Equal(code, read.Refusal?.Code);
        if (code is null)
            Assert.Equal(text!.Trim().ToLowerInvariant(), read.Value.Text);
        else
            Assert.Equal("colour", read.Refusal!.Field);
    }

    [Theory]
    [InlineData("#777777", "4.5")]
    [InlineData("#6cc3d0", "2.0")]
    [InlineData("#ffffff", "1.0")]
    [InlineData("#ff0000", "4.0")]
    [InlineData("#00ff00", "1.4")]
    [InlineData("#ff00ff", "3.1")]
    public void The_contrast_is_said(string text, string contrast) =>
        Assert.Contains(
            $"is {contrast} to 1.",
            Colour.Read(text).Refusal!.Sentence,
            StringComparison.Ordinal
        );

    [Theory]
    [InlineData("ab", "Etc/UTC", null, null)]
    [InlineData("a", "Etc/UTC", null, "workspace.short-name")]
    [InlineData("a1234567890123456789012345678901234567-9", "Etc/UTC", null, null)]
    [InlineData("a1234567890123456789012345678901234567-90", "Etc/UTC", null, "workspace.short-name")]
    [InlineData("1ab", "Etc/UTC", null, "workspace.short-name")]
    [InlineData("ab-", "Etc/UTC", null, "workspace.short-name")]
    [InlineData("Ab", "Etc/UTC", null, "workspace.short-name")]
    [InlineData("ab", "Nowhere/Deep", null, "workspace.time-zone")]
    [InlineData("ab", "Etc/UTC", "tlh", "language.unknown")]
    [InlineData("ab", null, " DE ", null)]
    public void A_workspace_has_a_short_name_a_zone_and_a_language(
        string shortName,
        string? zone,
        string? language,
        string? code
    )
    {
        var read = WorkspaceSettings.Read("Lantern Tide", shortName, zone, language);
        Assert.Equal(code, read.Refusal?.Code);
        if (code is not null)
        {
            Assert.NotNull(read.Refusal!.Field);
            return;
        }
        Assert.Equal((shortName, "Etc/UTC"), (read.Value.ShortName, read.Value.Zone.Id));
        Assert.Equal(language is null ? "en" : "de", read.Value.Language);
    }

    [Fact]
    public void A_short_name_made_from_a_long_name_fits()
    {
        var made = WorkspaceSettings.Read(new string('x', 39) + " yard", null, null, null).Value.ShortName;
        Assert.Equal(new string('x', 39), made);
        Assert.Equal(
            40,
            WorkspaceSettings.Read(new string('x', 60), null, null, null).Value.ShortName.Length
        );
        Assert.Equal("name", WorkspaceSettings.Read("  ", null, null, null).Refusal!.Field);
        Assert.Equal(
            "name.too-long",
            WorkspaceSettings.Read(new string('x', 101), null, null, null).Refusal!.Code
        );
    }
}
