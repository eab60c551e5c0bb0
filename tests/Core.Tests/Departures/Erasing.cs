using ComeAboard.Core.Departures;
using Xunit;

namespace ComeAboard.Core.Tests.Departures;

/// <summary>Taking a person's data away once they have left.</summary>
public sealed class Erasing
{
    private static readonly string[] Addresses = ["mei.torres@guests.example", "mei@home.example"];

    [Theory]
    [InlineData(false, true, false, false, null)]
    [InlineData(true, true, false, false, "erase.here")]
    [InlineData(false, false, false, false, "erase.running")]
    [InlineData(false, true, true, false, "erase.merged")]
    [InlineData(false, true, false, true, "erase.done")]
    [InlineData(true, false, true, false, "erase.here")]
    [InlineData(true, false, true, true, "erase.done")]
    public void Only_whoever_has_left_everywhere_and_for_good_is_erased(
        bool isHere,
        bool isConfirmed,
        bool isMerged,
        bool isErased,
        string? code
    ) => Assert.Equal(code, Erasure.Forbids(isHere, isConfirmed, isMerged, isErased)?.Code);

    [Theory]
    [InlineData("Ada", false)]
    [InlineData("Mei Torres", true)]
    [InlineData("Mei Torres-Brandt", false)]
    [InlineData("mei torres", false)]
    [InlineData("MEI@home.example", true)]
    [InlineData("x@home.example, mei@home.example", true)]
    [InlineData("<mei@home.example>.", true)]
    [InlineData("Ask mei@home.example.", true)]
    [InlineData("mei@home.example.org", false)]
    [InlineData("mei@home.examples", false)]
    [InlineData("somei@home.example", false)]
    [InlineData("so.mei@home.example and mei@home.example", true)]
    [InlineData("x@home.example", false)]
    [InlineData("", false)]
    public void A_text_tells_of_somebody_by_an_address_of_its_own_or_by_being_the_name(
        string text,
        bool tells
    ) => Assert.Equal(tells, Erasure.IsToldBy(text, "Mei Torres", Addresses));

    [Fact]
    public void A_name_that_others_have_tells_nothing()
    {
        Assert.False(Erasure.IsToldBy("", "", Addresses));
        Assert.False(Erasure.IsToldBy("Mei Torres", "", Addresses));
    }

    [Fact]
    public void What_stands_for_an_address_is_nobodys_and_of_each_its_own()
    {
        var (one, other) = (Guid.NewGuid(), Guid.NewGuid());
        Assert.EndsWith("@erased.invalid", Erasure.AddressOf(one), StringComparison.Ordinal);
        Assert.NotEqual(Erasure.AddressOf(one), Erasure.AddressOf(other));
        Assert.Equal(Erasure.AddressOf(one), Erasure.AddressOf(one));
    }
}
