using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class PlainTextReading
{
    private static readonly string[] _pieces = ["www.", "mailto:", "ftp://", "a.bb", ".cc", "b1."];

    [Theory]
    [InlineData("Mira\r\nBcc: all@harbour.example")]
    [InlineData("Mira\nTollander")]
    [InlineData("Mira\0")]
    [InlineData("Mira \u202Erednallot")]
    [InlineData("Mira\u2028Tollander")]
    [InlineData("Mi\u200Bra")]
    public void A_name_carries_no_headers_and_no_hidden_directions(string name) =>
        Assert.Equal("name.characters", PlainText.ReadName(name).Refusal!.Code);

    [Theory]
    [InlineData("Look at https://harbour.example", "message.link")]
    [InlineData("Look at WWW.harbour.example", "message.link")]
    [InlineData("Write to mailto:mira@harbour.example", "message.link")]
    [InlineData("Look at harbour.example", "message.link")]
    [InlineData("bit.ly/x", "message.link")]
    [InlineData("ask mira@harbour.example", "message.link")]
    [InlineData("(hafenbücherei.example)", "message.link")]
    [InlineData("harbour。example", "message.link")]
    [InlineData("Come\u202E aboard", "message.characters")]
    public void A_message_carries_plain_words_only(string message, string code) =>
        Assert.Equal(code, PlainText.ReadMessage(message).Refusal!.Code);

    [Fact]
    public void Ordinary_words_of_many_scripts_are_taken()
    {
        Assert.Equal("نور الدين", PlainText.ReadName(" نور الدين ").Value);
        Assert.Equal(
            "Bring boots.\nAnd a coat: 12/3, at 3 p.m.",
            PlainText.ReadMessage("Bring boots.\r\nAnd a coat: 12/3, at 3 p.m.").Value
        );
        Assert.Equal("", PlainText.ReadMessage(null).Value);
        Assert.Equal("message.too-long", PlainText.ReadMessage(new string('x', 2001)).Refusal!.Code);
        Assert.Equal("name.too-long", PlainText.ReadName(new string('x', 101)).Refusal!.Code);
    }

    [Theory]
    [InlineData("J. R. Halloran")]
    [InlineData("J.R. Halloran")]
    [InlineData("at 3 p.m., i.e. after lunch (z.B. um 15.30)")]
    [InlineData("12.5 knots. And then?")]
    public void Dots_of_ordinary_writing_are_no_links(string text)
    {
        Assert.Null(PlainText.FindLink(text));
        Assert.Equal(text, PlainText.Defused(text));
    }

    [Fact]
    public void A_text_that_was_defused_holds_no_link_and_reads_the_same() =>
        Gen.OneOf(
                Gen.Char["ab.:/@ w1。"].Select(c => c.ToString()),
                Gen.Int[0, _pieces.Length - 1].Select(i => _pieces[i])
            )
            .Array[0, 30]
            .Select(string.Concat)
            .Sample(text =>
            {
                var defused = PlainText.Defused(text);
                Assert.Equal(text, defused.Replace("\u2060", "", StringComparison.Ordinal));
                Assert.Null(PlainText.FindLink(defused));
            });

    [Fact]
    public void What_is_taken_once_is_taken_again_unchanged() =>
        Gen.OneOf(Gen.String, Gen.String[Gen.Char['\0', '\uffff'], 0, 20])
            .Sample(text =>
            {
                _ = PlainText.ReadName(text);
                if (PlainText.ReadMessage(text).Try(out var once, out _))
                    Assert.Equal(once, PlainText.ReadMessage(once).Value);
            });
}
