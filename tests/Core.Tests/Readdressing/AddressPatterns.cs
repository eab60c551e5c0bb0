using ComeAboard.Core.Invitations;
using ComeAboard.Core.Readdressing;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Readdressing;

/// <summary>Addresses made of names, and many of them so that no two become one.</summary>
public sealed class AddressPatterns
{
    [Theory]
    [InlineData("{given}.{family}@new.example", "Ines Calloway", "ines.calloway@new.example")]
    [InlineData("{given}.{family}@new.example", "Dr. Inês  Calloway", "ines.calloway@new.example")]
    [InlineData("{given}.{family}@new.example", "Calloway, Ines", "ines.calloway@new.example")]
    [InlineData("{initial}{family}@new.example", "Kofi A. Darkwater", "kdarkwater@new.example")]
    [InlineData("{family}.{initial}@NEW.example", "Anne-Marie van der Berg", "vanderberg.a@new.example")]
    [InlineData("{given}-crew@new.example", "Žofie Świętek", "zofie-crew@new.example")]
    [InlineData("{local}@new.example", "Anybody", "old.local@new.example")]
    [InlineData("{given}.{family}@new.example", "Jürgen Groß", "jurgen.gross@new.example")]
    public void An_address_is_made_of_the_parts_of_a_name(string pattern, string name, string made) =>
        Assert.Equal(made, AddressPattern.Read(pattern).Value.For(name, Now).Value.ToString());

    [Theory]
    [InlineData("")]
    [InlineData("@new.example")]
    [InlineData("{given}")]
    [InlineData("{given}@")]
    [InlineData("{given}@nowhere")]
    [InlineData("{surname}@new.example")]
    [InlineData("{given@new.example")]
    [InlineData("crew@new.example")]
    [InlineData("{given} {family}@new.example")]
    [InlineData("{given}..{family}@@new.example")]
    public void What_is_no_pattern_is_refused_with_how_to_write_one(string text)
    {
        var no = AddressPattern.Read(text).Refusal!;
        Assert.Equal(("pattern.malformed", "pattern"), (no.Code, no.Field));
        Assert.Contains("{given}.{family}@new.example", no.Remedy, StringComparison.Ordinal);
    }

    [Fact]
    public void A_name_that_lacks_what_it_takes_is_said()
    {
        var no = AddressPattern.Read("{given}.{family}@new.example").Value.For("Cher", Now).Refusal!;
        Assert.Equal("pattern.no-name", no.Code);
        Assert.Contains("{family}", no.Sentence, StringComparison.Ordinal);
        Assert.Equal(
            "pattern.no-name",
            AddressPattern.Read("{given}@new.example").Value.For("Dr", Now).Refusal!.Code
        );
    }

    [Fact]
    public void No_two_come_to_have_one_address_and_nobody_takes_anybodys() =>
        Gen.Select(
                Gen.Select(Gen.Int[0, 9], Gen.Bool).Array[1, 12],
                Gen.Int[0, 9].Array[12],
                Gen.Int[0, 9].Array[0, 4]
            )
            .Sample(
                (people, wanted, others) =>
                {
                    // Each has an address of their own; some want another's, some one that a stranger has.
                    var all = people
                        .DistinctBy(one => one.Item1)
                        .Select(one => new Addressee(Id(one.Item1), $"{one.Item1}", At(one.Item1), one.Item2))
                        .ToList();
                    var borne = all.ToDictionary(one => one.Now.Key, one => one.Id);
                    foreach (var other in others)
                        borne.TryAdd(At(other).Key, Id(100 + other));
                    var index = all.Select((one, at) => (one.Id, at))
                        .ToDictionary(one => one.Id, one => one.at);
                    var plan = Core.Readdressing.Readdressing.Plan(
                        all,
                        who => At(wanted[index[who.Id]]),
                        borne
                    );
                    Assert.Equal(all, plan.Select(one => one.Who));
                    var after = plan.Select(one =>
                            one.Verdict is ReaddressVerdict.Correct or ReaddressVerdict.Propose
                                ? one.To!.Key
                                : one.Who.Now.Key
                        )
                        .ToList();
                    // Whatever order they are done in: nobody stands where somebody else stood or stands.
                    for (var n = 0; n < plan.Count; n++)
                    {
                        if (plan[n].Verdict is not (ReaddressVerdict.Correct or ReaddressVerdict.Propose))
                            continue;
                        Assert.Equal(1, after.Count(key => key == after[n]));
                        Assert.True(!borne.TryGetValue(after[n], out var owner) || owner == plan[n].Who.Id);
                        Assert.Equal(plan[n].Who.IsHeld, plan[n].Verdict == ReaddressVerdict.Correct);
                    }
                    Assert.All(
                        plan,
                        one =>
                            Assert.Equal(one.To!.Key == one.Who.Now.Key, one.Verdict == ReaddressVerdict.Same)
                    );
                },
                iter: Often.Times(2000)
            );

    private static EmailAddress Now => EmailAddress.Read("old.local@old.example").Value;

    private static Guid Id(int n) => new(n + 1, 0, 0, new byte[8]);

    private static EmailAddress At(int n) => EmailAddress.Read($"sailor{n}@ship.example").Value;
}
