using ComeAboard.Core.Access;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Access;

public sealed class DutiesInWords
{
    [Fact]
    public void Duties_are_read_back_from_their_words_however_they_are_written() =>
        Gen.Int[0, (int)Duties.All]
            .Sample(
                all =>
                {
                    var duties = (Duties)all;
                    Assert.Equal(duties, DutyWords.Read(duties.List()).Value);
                    Assert.Equal(
                        duties,
                        DutyWords.Read(duties.List().Select(word => $" {word.ToUpperInvariant()} ")).Value
                    );
                    // Said twice is said once.
                    Assert.Equal(duties, DutyWords.Read([.. duties.List(), .. duties.List()]).Value);
                },
                iter: Often.Times(256)
            );

    [Theory]
    [InlineData("none")]
    [InlineData("all")]
    [InlineData("")]
    [InlineData("1")]
    [InlineData("invite,people")]
    public void A_word_that_is_no_duty_is_refused(string word) =>
        Assert.Equal("duty.unknown", DutyWords.Read(["record", word]).Refusal!.Code);

    [Fact]
    public void Nothing_said_is_no_duty() => Assert.Equal(Duties.None, DutyWords.Read(null).Value);
}
