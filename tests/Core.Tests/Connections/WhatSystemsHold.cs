using System.Collections.Immutable;
using ComeAboard.Core.Access;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Tests.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Connections;

/// <summary>What connected systems are to hold, and the way from what they hold to that.</summary>
public sealed class WhatSystemsHold
{
    private static readonly string[] Names = ["Readers", "Writers", "Divers"];

    private static readonly Gen<MappingLine> GenLine = Gen.Select(
        Gen.Enum<MappedSubject>(),
        Gen.Int[0, 8],
        Gen.Enum<Level>(),
        Gen.Int[0, 3],
        (of, which, least, to) =>
            new MappingLine(
                Guid.Empty,
                of,
                which < 6 ? Worlds.Ids[which] : Role.AllBuiltIn[which - 6].Id,
                least,
                to < 3 ? Names[to] : ""
            )
    );

    private static readonly Gen<ImmutableSortedSet<string>> GenGroups = Gen.Int[0, 15]
        .Select(bits =>
            new[] { "Readers", "Writers", "Divers", "Theirs" }
                .Where((_, at) => (bits >> at & 1) == 1)
                .ToImmutableSortedSet(StringComparer.Ordinal)
        );

    private static readonly Gen<HeldThere?> GenHeld = Gen.Select(
        Gen.Int[0, 4],
        Gen.Bool,
        GenGroups,
        (isThere, isOn, groups) =>
            isThere == 0
                ? null
                : new HeldThere("k", isOn, "a@tide.example", isThere == 1 ? "Else" : "A", groups)
    );

    private static readonly Gen<WantedThere> GenWanted = Gen.Select(
        Gen.Enum<AccountThere>(),
        GenGroups,
        (account, groups) =>
            account == AccountThere.On
                ? new WantedThere(account, groups.Remove("Theirs"))
                : WantedThere.Nothing with
                {
                    Account = account,
                }
    );

    private static readonly IReadOnlySet<string> Managed = new HashSet<string>(Names, StringComparer.Ordinal);
    private static readonly ProfileThere Profile = new("a@tide.example", "A");

    [Fact]
    public void Whoever_may_nothing_today_has_nothing_there_and_the_others_what_the_lines_say() =>
        Gen.Select(Worlds.Any, GenLine.Array[0, 5], Gen.Int[0, 11], Gen.Int[-4, 4])
            .Sample(
                (world, lines, who, off) =>
                {
                    var (id, day) = (Worlds.Ids[who], Worlds.Today.AddDays(off));
                    var wanted = Carrying.Of(world, lines, id, day);
                    var isHere = world.People.TryGetValue(id, out var person);
                    var cut = isHere ? world.CutOf(person!, day) : Cut.NotHere;
                    if (cut != Cut.None)
                    {
                        Assert.NotEqual(AccountThere.On, wanted.Account);
                        Assert.Empty(wanted.Groups);
                        Assert.Equal(
                            cut is Cut.NotHere or Cut.Over ? AccountThere.Gone : AccountThere.Off,
                            wanted.Account
                        );
                        return;
                    }
                    // Read line by line, by asking for what is given and what comes of it.
                    var said = lines
                        .Where(line =>
                            line.Of switch
                            {
                                MappedSubject.Group => person!.Groups.Contains(line.Subject),
                                MappedSubject.Role => person!
                                    .Grants.Concat(
                                        person.Groups.SelectMany(group =>
                                            world.Groups.TryGetValue(group, out var of) ? of.Grants : []
                                        )
                                    )
                                    .Concat(
                                        person.OrganisationId is { } own
                                        && world.Organisations.TryGetValue(own, out var firm)
                                            ? firm.Grants
                                            : []
                                    )
                                    .Any(grant =>
                                        grant.RoleId == line.Subject
                                        && !(grant.Window.FirstDay > day)
                                        && !(grant.Window.LastDay < day)
                                    ),
                                _ => line.Least > Level.None
                                    && world.Resources.TryGetValue(line.Subject, out var resource)
                                    && world.Explain(id, Place.At(resource), day).Level >= line.Least,
                            }
                        )
                        .ToList();
                    Assert.Equal(said.Count > 0 ? AccountThere.On : AccountThere.Gone, wanted.Account);
                    Assert.True(
                        wanted.Groups.SetEquals(
                            said.Select(line => line.GroupThere).Where(name => name.Length > 0)
                        )
                    );
                }
            );

    [Fact]
    public void Carried_out_the_steps_come_to_what_was_wanted_and_nothing_else_is_touched() =>
        Gen.Select(GenWanted, GenHeld, Gen.Bool, Gen.Bool)
            .Sample(
                (wanted, held, isOurs, isTriedAgain) =>
                {
                    var steps = ThereDifference.Between(wanted, Profile, held, Managed, isOurs, isTriedAgain);
                    // What closes comes first.
                    Assert.Equal(steps.Select(step => step.Deed).Order(), steps.Select(step => step.Deed));
                    var after = held;
                    foreach (var step in steps)
                        after = Do(after, step);
                    Assert.Empty(
                        ThereDifference.Between(wanted, Profile, after, Managed, isOurs || held is null)
                    );
                    if (wanted.Account == AccountThere.On)
                    {
                        Assert.True(after!.IsOn);
                        Assert.Equal<string>([.. wanted.Groups], [.. after.Groups.Where(Managed.Contains)]);
                    }
                    else
                        Assert.True(ThereDifference.IsClosed(after, Managed));
                    // What is not ours is neither removed nor written anew, and no group that we do not give is left.
                    if (held is not null && !isOurs)
                        Assert.Equal((held.Name, held.SignInName), (after!.Name, after.SignInName));
                    if (after is not null && held is not null)
                        Assert.Equal(held.Groups.Contains("Theirs"), after.Groups.Contains("Theirs"));
                }
            );

    [Fact]
    public void An_account_is_somebodys_by_our_mark_or_else_by_their_address()
    {
        var member = Guid.NewGuid();
        var held = new HeldThere("k", true, "A@Tide.example", "A", []);
        Assert.True(Pairing.IsOf(held, member, Profile));
        Assert.True(Pairing.IsOf(held with { OurMark = "payroll-7" }, member, Profile));
        Assert.False(Pairing.IsOf(held with { OurMark = Guid.NewGuid().ToString() }, member, Profile));
        Assert.True(
            Pairing.IsOf(held with { OurMark = member.ToString(), SignInName = "b" }, member, Profile)
        );
        Assert.True(
            Pairing.IsOf(held with { SignInName = "a", Addresses = ["a@tide.example"] }, member, Profile)
        );
    }

    [Fact]
    public void Looked_at_whole_everybody_is_paired_and_what_is_nobodys_is_left_over()
    {
        var (ada, bo, gone) = (Guid.NewGuid(), Guid.NewGuid(), Guid.NewGuid());
        var on = new WantedThere(AccountThere.On, []);
        HeldThere[] held =
        [
            new("1", true, "ada@tide.example", "Ada", []),
            new("2", true, "x", "Gone", ["Readers"]) { OurMark = gone.ToString() },
            new("3", true, "stranger@elsewhere.example", "Stranger", []),
        ];
        var survey = Survey.Of(
            [
                new KnownThere(ada, new ProfileThere("ADA@tide.example", "Ada"), on, "", false),
                new KnownThere(bo, new ProfileThere("bo@tide.example", "Bo"), on, "", false),
                new KnownThere(gone, new ProfileThere("g@tide.example", "G"), WantedThere.Nothing, "", true),
            ],
            held,
            Managed
        );
        Assert.Equal(
            [(bo, "make"), (gone, "leave-group,remove")],
            survey.Changes.Select(change =>
                (change.Known.Member, string.Join(',', change.Steps.Select(step => step.Deed.Word())))
            )
        );
        Assert.Equal("3", survey.LeftOver.Single().Key);
    }

    [Theory]
    [InlineData("accounts", "")]
    [InlineData(" Group: Night shoots ", "Night shoots")]
    [InlineData("group:", null)]
    [InlineData("everything", null)]
    [InlineData("group:a\nb", null)]
    public void What_a_line_leads_to_is_read(string written, string? read) =>
        Assert.Equal(read, MappingLine.ReadTo(written).Try(out var to, out _) ? to : null);

    private static HeldThere? Do(HeldThere? held, ThereStep step) =>
        step.Deed switch
        {
            ThereDeed.Make => new HeldThere("new", true, Profile.Address, Profile.Name, []),
            ThereDeed.Remove => null,
            ThereDeed.SwitchOff => held! with { IsOn = false },
            ThereDeed.SwitchOn => held! with { IsOn = true },
            ThereDeed.Rewrite => held! with { Name = Profile.Name, SignInName = Profile.Address },
            ThereDeed.JoinGroup => held! with { Groups = held.Groups.Add(step.Group) },
            _ => held! with { Groups = held.Groups.Remove(step.Group) },
        };
}
