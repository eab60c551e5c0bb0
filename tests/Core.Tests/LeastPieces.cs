using ComeAboard.Core.Invitations;
using Xunit;

namespace ComeAboard.Core.Tests;

/// <summary>The least pieces of Core at their edges: secrets, words, alphabets, waits, longest texts.</summary>
public sealed class LeastPieces
{
    [Fact]
    public void A_secret_is_thirty_two_bytes_and_reads_back_from_its_text_alone()
    {
        var secret = Secret.Of([.. Enumerable.Range(0, 32).Select(n => (byte)n)]);
        Assert.Equal(secret.Hash(), Secret.Read(secret.Reveal())!.Hash());
        Assert.True(secret.Hash().Matches(Secret.Read(secret.Reveal())!.Hash()));
        Assert.False(secret.Hash().Matches(Secret.Of(new byte[32]).Hash()));
        Assert.Throws<ArgumentException>(() => Secret.Of(new byte[31]));
        Assert.Throws<ArgumentException>(() => Secret.Of(new byte[33]));
        Assert.Null(Secret.Read(null));
        Assert.Null(Secret.Read(secret.Reveal()[..42]));
        Assert.Null(Secret.Read(secret.Reveal() + "A"));
        Assert.Null(Secret.Read(new string('!', 43)));
        Assert.DoesNotContain(secret.Reveal(), $"{secret}", StringComparison.Ordinal);
    }

    [Theory]
    [InlineData("orlo", false)]
    [InlineData("órlo", false)]
    [InlineData("орло", false)]
    [InlineData("оrlo", true)] // a Cyrillic o
    [InlineData("orlο", true)] // a Greek omicron
    [InlineData("ορλο", false)]
    [InlineData("օrlo", true)] // Armenian
    [InlineData("אrlo", true)]
    [InlineData("اrlo", true)]
    [InlineData("ოrlo", true)] // Georgian
    [InlineData("Ꭰrlo", true)] // Cherokee
    [InlineData("ἀrlo", true)]
    [InlineData("ạrlo", false)]
    [InlineData("Ѐrlo", true)] // the first of its block
    [InlineData("ԯrlo", true)] // the last
    [InlineData("水rlo", false)]
    [InlineData("or-lo7", false)]
    public void Letters_of_two_alphabets_in_one_part_of_a_domain_are_noticed(string part, bool mixed)
    {
        var notes = new DomainsInUse([]).Notes(EmailAddress.Read($"ines@{part}.example").Value);
        Assert.Equal(mixed, notes.Any(note => note.Code == "address.mixed-script"));
    }

    [Theory]
    [InlineData("lantérn.example", "lantern.example")]
    [InlineData("1antern.example", "lantern.example")]
    [InlineData("lаntern.example", "lantern.example")]
    [InlineData("lantem.example", "lantern.example")]
    [InlineData("vvharf.example", "wharf.example")]
    [InlineData("clock.example", "dock.example")]
    public void What_looks_like_a_known_domain_is_noticed(string domain, string known)
    {
        var domains = new DomainsInUse([KeyValuePair.Create(known, 3)]);
        var notes = domains.Notes(EmailAddress.Read($"ines@{domain}").Value);
        Assert.Equal($"ines@{known}", notes.Single(note => note.Code == "address.look-alike").Suggestion);
    }

    [Fact]
    public void A_sentence_goes_on_small_and_a_foreign_word_is_cut()
    {
        Assert.Equal("", Words.Continued(""));
        Assert.Equal("see it.", Words.Continued("See it."));
        Assert.Equal(new string('x', 40), Words.Short(new string('x', 40)));
        Assert.Equal(new string('x', 40) + "…", Words.Short(new string('x', 41)));
        Assert.Equal("ab", Words.Short("a\nb"));
        Assert.Equal("", Words.Short(null));
    }

    [Fact]
    public void A_message_and_a_name_are_as_long_as_they_may_be()
    {
        Assert.True(PlainText.ReadMessage(new string('x', PlainText.LongestMessage)).Succeeded);
        Assert.Equal(
            "message.too-long",
            PlainText.ReadMessage(new string('x', PlainText.LongestMessage + 1)).Refusal!.Code
        );
        Assert.True(PlainText.ReadName(new string('x', PlainText.LongestName)).Succeeded);
        Assert.Equal(
            "name.too-long",
            PlainText.ReadName(new string('x', PlainText.LongestName + 1)).Refusal!.Code
        );
    }

    [Theory]
    [InlineData(1, 0.5, 10)]
    [InlineData(2, 0.5, 20)]
    [InlineData(3, 0.0, 20)]
    [InlineData(1000, 0.5, 900)]
    public void A_wait_doubles_up_to_a_quarter_of_an_hour(int tries, double chance, double seconds) =>
        Assert.Equal(seconds, RetryTimes.Wait(tries, TimeSpan.FromSeconds(10), chance).TotalSeconds, 3);

    [Theory]
    [InlineData("wardon", "warden")]
    [InlineData("wrdan", null)]
    [InlineData("bosn", "bosun")]
    [InlineData("bsn", null)]
    [InlineData("keepers", "keeper of nets")]
    [InlineData("keeper", "keeper of nets")]
    [InlineData("keeper of", "keeper of nets")]
    [InlineData("logbooxx", "logbooks")]
    [InlineData("", null)]
    public void What_was_probably_meant_is_near(string written, string? meant) =>
        Assert.Equal(meant, Likeness.Nearest(written, ["warden", "bosun", "keeper of nets", "logbooks"]));
}
