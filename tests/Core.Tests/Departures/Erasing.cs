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
    [InlineData("""{"by":"Ada"}""", false)]
    [InlineData("""{"by":"Mei Torres"}""", true)]
    [InlineData("""{"by":"Mei Torres-Brandt"}""", true)]
    [InlineData("""{"by":"mei torres"}""", false)]
    [InlineData("""{"why":"Mei Torres, in whose name it was sent, has left."}""", true)]
    [InlineData("""{"address":"MEI@home.example"}""", true)]
    [InlineData("""{"to":["x@home.example",{"cc":"mei@home.example"}]}""", true)]
    [InlineData("""{"to":["x@home.example"],"count":3,"is":true,"none":null}""", false)]
    [InlineData("""{"Mei Torres":"x"}""", false)]
    [InlineData("{}", false)]
    public void An_entry_tells_of_somebody_by_an_address_or_by_the_name(string details, bool tells) =>
        Assert.Equal(tells, Erasure.IsToldBy(details, "Mei Torres", Addresses));

    [Theory]
    [InlineData("""{"name":"Rose"}""", true)]
    [InlineData("""{"name":"Rosenfeld"}""", false)]
    [InlineData("""{"name":"The Rose garden"}""", false)]
    public void A_name_of_one_word_is_looked_for_as_a_whole_value_only(string details, bool tells) =>
        Assert.Equal(tells, Erasure.IsToldBy(details, "Rose", []));

    [Fact]
    public void What_stands_for_an_address_is_nobodys_and_of_each_its_own()
    {
        var (one, other) = (Guid.NewGuid(), Guid.NewGuid());
        Assert.EndsWith("@erased.invalid", Erasure.AddressOf(one), StringComparison.Ordinal);
        Assert.NotEqual(Erasure.AddressOf(one), Erasure.AddressOf(other));
        Assert.Equal(Erasure.AddressOf(one), Erasure.AddressOf(one));
    }
}
