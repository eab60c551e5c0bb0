using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

public sealed class Likenesses
{
    // Few letters, so that words meet often.
    private static readonly Gen<string> Word = Gen.Char["abc"]
        .Array[0, 6]
        .Select(letters => new string(letters));

    [Fact]
    public void The_distance_is_that_of_the_definition_read_word_for_word() =>
        Gen.Select(Word, Word, Gen.Int[0, 6])
            .Sample(
                (one, other, most) =>
                {
                    var distance = Naive(one, other);
                    var expected = distance <= most ? distance : int.MaxValue;
                    Assert.Equal(expected, Likeness.Distance(one, other, most));
                    Assert.Equal(expected, Likeness.Distance(other, one, most));
                },
                iter: Often.Times(2_000)
            );

    [Theory]
    // One slip in a short word, two in a long one.
    [InlineData("vuew", "view")]
    [InlineData("veiw", "view")]
    [InlineData("vi", null)]
    [InlineData("voew", "view")]
    [InlineData("voow", null)]
    [InlineData("Saltmarch Universty", "Saltmarsh University")]
    [InlineData("saltmarsh university", "Saltmarsh University")]
    [InlineData("Hafenfreune", "Hafenfreunde")]
    // A part of a name, or a name with something behind it.
    [InlineData("Saltmarsh", "Saltmarsh University")]
    [InlineData("Saltmrash", "Saltmarsh University")]
    [InlineData("Hafenfreunde e.V.", "Hafenfreunde")]
    [InlineData("Haf", null)]
    [InlineData("Haff", null)]
    [InlineData("Hafe", "Hafenfreunde")]
    [InlineData("view only", "view")]
    [InlineData("Gull", null)]
    [InlineData("", null)]
    [InlineData("  ", null)]
    public void The_name_that_was_probably_meant_is_found(string written, string? meant) =>
        Assert.Equal(
            meant,
            Likeness.Nearest(written, ["Copper Quay Museum", "Saltmarsh University", "Hafenfreunde", "view"])
        );

    [Fact]
    public void Of_two_the_nearer_one_is_meant_and_of_equals_the_first()
    {
        Assert.Equal("rigger", Likeness.Nearest("riger", ["rigging", "rigger"]));
        Assert.Equal("deck one", Likeness.Nearest("deck ine", ["deck one", "deck ane"]));
        Assert.Equal("deck ane", Likeness.Nearest("deck ine", ["deck ane", "deck one"]));
        // A slip is likelier than a part.
        Assert.Equal("sails", Likeness.Nearest("sail", ["sail loft", "sails"]));
        Assert.Null(Likeness.Nearest("sail", []));
    }

    /// <summary>Optimal string alignment, by its recursion.</summary>
    private static int Naive(string one, string other)
    {
        if (one.Length == 0 || other.Length == 0)
            return one.Length + other.Length;
        var least = Math.Min(
            Math.Min(Naive(one[..^1], other), Naive(one, other[..^1])) + 1,
            Naive(one[..^1], other[..^1]) + (one[^1] == other[^1] ? 0 : 1)
        );
        return one.Length > 1 && other.Length > 1 && one[^1] == other[^2] && one[^2] == other[^1]
            ? Math.Min(least, Naive(one[..^2], other[..^2]) + 1)
            : least;
    }
}
