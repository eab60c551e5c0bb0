using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class IdsSpread
{
    [Fact]
    public void They_begin_with_the_first_come_in_order_and_stay_before_the_last() =>
        Gen.Select(Gen.Guid, Gen.Guid, Gen.Int[1, 40])
            .Sample(
                (one, other, count) =>
                {
                    // As text of small letters, as one database sorts them; by their bytes the other does.
                    var (first, last) =
                        string.CompareOrdinal($"{one}", $"{other}") < 0 ? (one, other) : (other, one);
                    var ids = SpreadIds.Between(first, last, count).Select(id => $"{id}").ToList();
                    Assert.Equal(count, ids.Count);
                    Assert.Equal($"{first}", ids[0]);
                    Assert.Equal(ids.Order(StringComparer.Ordinal).Distinct(), ids);
                    Assert.True(string.CompareOrdinal(ids[^1], $"{last}") < 0);
                },
                iter: Often.Times(2_000)
            );

    [Fact]
    public void They_are_as_far_from_each_other()
    {
        var ids = SpreadIds.Between(
            Guid.Parse("10000000-0000-0000-0000-000000000000"),
            Guid.Parse("50000000-0000-0000-0000-000000000003"),
            4
        );
        Assert.Equal(["1", "2", "3", "4"], ids.Select(id => $"{id}"[..1]));
    }

    [Theory]
    [InlineData("00000000-0000-0000-0000-000000000000", "00000000-0000-0000-0000-000000000000")]
    [InlineData("50000000-0000-0000-0000-000000000000", "10000000-0000-0000-0000-000000000000")]
    [InlineData("10000000-0000-0000-0000-000000000000", "10000000-0000-0000-0000-000000000003")]
    public void Between_those_that_are_not_apart_there_is_only_the_first(string first, string last) =>
        Assert.Equal([Guid.Parse(first)], SpreadIds.Between(Guid.Parse(first), Guid.Parse(last), 4));
}
