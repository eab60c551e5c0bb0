using System.Text;
using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class TellingParts
{
    private static readonly string[] Guests =
    [
        .. Enumerable.Range(1, 32).Select(n => $"guest {n} lor{n * 131}@harbour.example"),
    ];

    [Theory]
    [InlineData("lor4217@", "or4217@")]
    [InlineData("lor", "lor")]
    [InlineData("guest lor", "guest lor")]
    [InlineData("calloway", "calloway")]
    [InlineData("calloway lor77", "calloway l")]
    [InlineData("harbour.example", "harbour.example")]
    [InlineData("ab@harbour", "ab@harbour")]
    [InlineData("", "")]
    [InlineData("ü", "ü")]
    public void What_nearly_everybody_has_is_not_asked_for(string text, string telling) =>
        Assert.Equal(telling, TellingPart.Of(text, Guests));

    [Fact]
    public void With_nothing_to_compare_with_it_is_the_whole_text() =>
        Assert.Equal("lor4217@", TellingPart.Of("lor4217@", []));

    [Fact]
    public void It_is_the_longest_run_that_no_common_piece_is_in()
    {
        string[] letters = ["a", "b", "1", "@", " ", "ü", "\U0001d4d0"];
        var texts = Gen.Int[0, letters.Length - 1]
            .Select(at => letters[at])
            .Array[0, 9]
            .Select(string.Concat);
        Gen.Select(texts, texts.Array[0, 12])
            .Sample(
                (text, alike) => Assert.Equal(Longest(text, alike), TellingPart.Of(text, alike)),
                iter: Often.Times(3_000)
            );
    }

    /// <summary>The same by looking at every run there is.</summary>
    private static string Longest(string text, string[] alike)
    {
        var runes = text.EnumerateRunes().Select(rune => rune.ToString()).ToList();
        var runs =
            from first in Enumerable.Range(0, runes.Count)
            from length in Enumerable.Range(3, Math.Max(0, runes.Count - first - 2))
            let run = runes.GetRange(first, length)
            where
                !Enumerable
                    .Range(0, length - 2)
                    .Select(at => string.Concat(run.GetRange(at, 3)))
                    .Any(piece => alike.Count(other => other.Contains(piece)) > alike.Length / 16.0)
            orderby length descending
            select string.Concat(run);
        var longest = runs.FirstOrDefault() ?? text;
        var words = string.Concat(
                longest.EnumerateRunes().Select(rune => Rune.IsLetterOrDigit(rune) ? rune.ToString() : "\n")
            )
            .Split('\n');
        return words.Any(word => word.EnumerateRunes().Count() >= 3) ? longest : text;
    }
}
