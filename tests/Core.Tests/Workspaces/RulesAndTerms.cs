using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Workspaces;

/// <summary>What somebody writes down once and others are held to: the rules of the house, and the terms of a join link.</summary>
public sealed class RulesAndTerms
{
    private static readonly DateTimeOffset Now = new(2026, 11, 23, 12, 0, 0, TimeSpan.Zero);
    private static readonly DateOnly Today = new(2026, 11, 23);
    private static readonly AccessWorld World = AccessWorld.Empty;

    private static readonly Gen<string> KindWord = Gen.OneOf<string>(
        "staff",
        "GUEST",
        " partner",
        "client",
        "captain",
        ""
    );
    private static readonly Gen<string> Domain = Gen.OneOf<string>(
        "pier.example",
        "@Pier.Example",
        "MÜNZ.example",
        "quay.example",
        "no domain",
        ""
    );
    private static readonly Gen<string> RoleName = Gen.OneOf<string>("view", "Manage", "edit", "bosun");

    private static readonly Gen<HouseRulesWish> Wish = Gen.Select(
            Gen.Int[-2, 400].Array[0, 2],
            Gen.Select(KindWord, Gen.Int[-5, 20_000]).Array[0, 4],
            Gen.Bool,
            KindWord.Array[0, 4],
            Domain.Array[0, 4],
            Gen.Int[-1, 370].Array[0, 12],
            RoleName.Array[0, 3],
            Gen.Select(KindWord, RoleName.Array[0, 2]).Array[0, 3]
        )
        .Select(
            (longest, stays, host, approval, domains, reminders, roles, inviters) =>
                new HouseRulesWish(
                    longest.Length > 0 ? longest[0] : null,
                    stays.DistinctBy(s => s.Item1).ToDictionary(s => s.Item1, s => s.Item2),
                    host,
                    approval,
                    domains,
                    [.. domains.Reverse()],
                    reminders,
                    roles,
                    inviters
                        .DistinctBy(i => i.Item1)
                        .ToDictionary(i => i.Item1, i => (IReadOnlyList<string>)i.Item2),
                    !host
                )
        );

    [Fact]
    public void Rules_are_read_whole_or_refused_with_the_field_at_fault_and_nothing_is_left_out() =>
        Wish.Sample(wish =>
        {
            if (!HouseRules.Read(wish, World).Try(out var rules, out var refusal))
            {
                Assert.Equal(RefusalSort.Invalid, refusal.Sort);
                Assert.NotNull(refusal.Field);
                return;
            }
            Assert.InRange(rules.LongestAnswerDays, 1, 365);
            Assert.Equal(
                wish.Approval!.Select(KeyOf).Distinct().Order(),
                rules.Approval.Select(k => k.Word()).Order()
            );
            Assert.Equal(wish.ReminderDays!.Distinct().Order(), rules.ReminderDays);
            Assert.All(rules.LongestStayDays.Values, days => Assert.InRange(days, 1, 18_250));
            // Domains are what they mean, each once, however they were written.
            Assert.Equal(
                wish.AllowedDomains!.Select(d =>
                        EmailAddress.Read("a@" + d.Trim().TrimStart('@')).Value.Domain
                    )
                    .Distinct()
                    .Order(StringComparer.Ordinal),
                rules.AllowedDomains
            );
            Assert.Equal(rules.AllowedDomains, rules.BlockedDomains);
            // Nobody named means anybody: a kind without names is not kept as one that nobody may invite.
            Assert.All(rules.Inviters.Values, roles => Assert.NotEmpty(roles));
        });

    [Fact]
    public void Rules_that_were_read_read_back_the_same() =>
        Wish.Sample(wish =>
        {
            if (!HouseRules.Read(wish, World).Try(out var rules, out _))
                return;
            var again = HouseRules
                .Read(
                    new HouseRulesWish(
                        rules.LongestAnswerDays,
                        rules.LongestStayDays.ToDictionary(stay => stay.Key.Word(), stay => stay.Value),
                        rules.HostForOutsiders,
                        [.. rules.Approval.Select(kind => kind.Word())],
                        rules.AllowedDomains,
                        rules.BlockedDomains,
                        rules.ReminderDays,
                        [.. rules.ApprovalRoles.Select(id => World.Roles[id].Name)],
                        rules.Inviters.ToDictionary(
                            who => who.Key.Word(),
                            who => (IReadOnlyList<string>)[.. who.Value.Select(id => World.Roles[id].Name)]
                        ),
                        rules.ApproveOtherAddress
                    ),
                    World
                )
                .Value;
            Assert.Equal(
                rules.LongestStayDays.OrderBy(stay => stay.Key),
                again.LongestStayDays.OrderBy(stay => stay.Key)
            );
            Assert.Equal(rules.Approval, again.Approval);
            Assert.Equal(rules.AllowedDomains, again.AllowedDomains);
            Assert.Equal(rules.ReminderDays, again.ReminderDays);
            Assert.Equal(rules.ApprovalRoles, again.ApprovalRoles);
            Assert.Equal(rules.Inviters.Keys.Order(), again.Inviters.Keys.Order());
            Assert.Equal(
                (rules.LongestAnswerDays, rules.HostForOutsiders, rules.ApproveOtherAddress),
                (again.LongestAnswerDays, again.HostForOutsiders, again.ApproveOtherAddress)
            );
        });

    [Fact]
    public void Terms_of_a_link_are_bounded_and_say_what_they_were_asked_to() =>
        Gen.Select(
                Gen.OneOf<string>("Open evening", "  ", "<a@b.example>"),
                KindWord,
                RoleName.Array[0, 2],
                Gen.Int[-3, 30],
                Gen.Int[-1, 20_000].Array[0, 1],
                Gen.Int[-1, 12_000],
                Gen.Int[-1, 400].Array[0, 1],
                Domain.Array[0, 2]
            )
            .Sample(
                (label, kind, roles, until, stay, cap, days, domains) =>
                {
                    var wish = new JoinLinkWish(
                        label,
                        kind,
                        new BundleWish([.. roles.Distinct().Select(role => new RoleWish(role))], [], []),
                        until < 0 ? null : Today.AddDays(until),
                        stay.Length > 0 ? stay[0] : null,
                        cap,
                        domains,
                        true,
                        days.Length > 0 ? days[0] : null,
                        null,
                        null
                    );
                    if (
                        !JoinLinkTerms
                            .Read(wish, Now, Today, "de", new HouseRules(), World)
                            .Try(out var terms, out var refusal)
                    )
                    {
                        Assert.False(string.IsNullOrEmpty(refusal.Remedy));
                        return;
                    }
                    Assert.Equal(label.Trim(), terms.Label);
                    Assert.InRange(terms.Cap, 1, JoinLinkTerms.LargestCap);
                    Assert.Equal(cap, terms.Cap);
                    Assert.InRange(terms.ExpiresAt, Now.AddDays(1), Now.AddDays(JoinLinkTerms.LongestDays));
                    Assert.Equal(Now.AddDays(days.Length > 0 ? days[0] : 14), terms.ExpiresAt);
                    Assert.False(terms.Gives.IsEmpty);
                    Assert.Equal("de", terms.Language);
                    Assert.True(terms.Stay.LastDay is null || terms.Stay.LastDay >= Today);
                    Assert.True(terms.StayDays is null or >= 1 and <= 18_250);
                    Assert.True(domains.Length == 0 == (terms.Domains.Count == 0));
                }
            );

    private static string KeyOf(string word) => word.Trim().ToLowerInvariant();
}
