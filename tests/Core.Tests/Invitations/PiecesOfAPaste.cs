using ComeAboard.Core.Invitations;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>What breaks readers of pasted lists – quotes, brackets, comments, escapes, cells – one piece at a time.</summary>
public sealed class PiecesOfAPaste
{
    // A line, and what is read from it: each entry as name|address, a fault as its code, notes counted behind it.
    [Theory]
    // Quotes hold separators, brackets and escapes together.
    [InlineData("\"Orlo; Hamish\" <h@orlo.example>", "Orlo; Hamish|h@orlo.example")]
    [InlineData(
        "\"Orlo, H.\" <h@orlo.example>, \"Tan, B.\" <b@tan.example>",
        "Orlo, H.|h@orlo.example",
        "Tan, B.|b@tan.example"
    )]
    [InlineData("\"A \\\" B, C\" <h@orlo.example>", "A \" B, C|h@orlo.example")]
    [InlineData("\"A \\\\\" <h@orlo.example>", "A \\|h@orlo.example")]
    [InlineData("\"A <x>\" <h@orlo.example>", "A <x>|h@orlo.example")]
    [InlineData("\"A (x) B\" <h@orlo.example>", "A (x) B|h@orlo.example")]
    [InlineData("\"<\" Ines <h@orlo.example>", "<\" Ines|h@orlo.example")]
    // One that is never closed holds nothing together.
    [InlineData("\"Ines, h@orlo.example", "address.malformed", "|h@orlo.example")]
    [InlineData("\"A\" <a@orlo.example>, \"B <b@orlo.example>", "A|a@orlo.example", "B|b@orlo.example +1")]
    // Angle brackets hold separators; without an end they hold nothing.
    [InlineData("Ines <h@orlo.example", "Ines|h@orlo.example")]
    [InlineData("Ines <h@orlo.example, b@tan.example", "Ines|h@orlo.example", "|b@tan.example")]
    [InlineData("A <a@orlo.example> B <b@tan.example>", "A|a@orlo.example", "B|b@tan.example")]
    [InlineData(
        "A <a@orlo.example> B <b@tan.example> C <c@tan.example>",
        "A|a@orlo.example",
        "B|b@tan.example",
        "C|c@tan.example"
    )]
    [InlineData("<a@orlo.example><b@tan.example>", "|a@orlo.example", "|b@tan.example")]
    [InlineData("\"A > B\" <a@orlo.example> C <c@tan.example>", "A > B|a@orlo.example", "C|c@tan.example")]
    [InlineData(
        "\"A \\\" >\" <a@orlo.example> C <c@tan.example>",
        "A \" >|a@orlo.example",
        "C|c@tan.example"
    )]
    [InlineData("A <a@orlo.example> (gone)", "A|a@orlo.example")]
    [InlineData("A <a@orlo.example> gone", "A|a@orlo.example +1")]
    [InlineData("A <a@orlo.example>.", "A|a@orlo.example")]
    [InlineData("< a@orlo.example >", "|a@orlo.example")]
    [InlineData("A < <a@orlo.example>", "A <|a@orlo.example")]
    // Comments are taken out, they nest, and their separators separate nothing.
    [InlineData("a@orlo.example (Hamish)", "Hamish|a@orlo.example")]
    [InlineData("a@orlo.example (Orlo, Hamish; of the quay)", "Orlo, Hamish; of the quay|a@orlo.example")]
    [InlineData("a@orlo.example (Orlo (of the quay), H.)", "Orlo (of the quay), H.|a@orlo.example")]
    [InlineData("a@orlo.example (Orlo \\) H.)", "Orlo ) H.|a@orlo.example")]
    [InlineData("a@orlo.example (A) (B)", "A B|a@orlo.example")]
    [InlineData("Ines (of Tide) <a@orlo.example>", "Ines|a@orlo.example")]
    [InlineData("(a@orlo.example) Ines", "Ines|a@orlo.example")]
    [InlineData("a@orlo.example (Hamish", "Hamish|a@orlo.example")]
    [InlineData("a@orlo.example (Hamish, b@tan.example", "Hamish|a@orlo.example", "|b@tan.example")]
    [InlineData("a@orlo.example) b@tan.example", "|a@orlo.example +1", "|b@tan.example")]
    [InlineData("\"A (\" <a@orlo.example> (x, y)", "A (|a@orlo.example")]
    // Bare addresses with blanks between; one with a name before it.
    [InlineData("a@orlo.example b@tan.example", "|a@orlo.example", "|b@tan.example")]
    [InlineData("a@orlo.example - b@tan.example", "|a@orlo.example", "|b@tan.example")]
    [InlineData("Ines Orlo a@orlo.example", "Ines Orlo|a@orlo.example")]
    [InlineData("Ines\u00a0Orlo\u00a0a@orlo.example", "Ines\u00a0Orlo|a@orlo.example")]
    [InlineData("a@orlo.example and b@tan.example", "|a@orlo.example", "address.malformed", "|b@tan.example")]
    [InlineData("Ines @orlo.example", "address.malformed")]
    // What stands around an address by accident is left out, and that is said where something is lost.
    [InlineData("[a@orlo.example]", "|a@orlo.example +1")]
    [InlineData("mailto:a@orlo.example?subject=Hi", "|a@orlo.example +1")]
    [InlineData("MAILTO:a@orlo.example", "|a@orlo.example +1")]
    [InlineData("<mailto:a@orlo.example>", "|a@orlo.example +1")]
    [InlineData("«a@orlo.example»", "|a@orlo.example +1")]
    [InlineData("\"a b\"@orlo.example", "|\"a b\"@orlo.example")]
    [InlineData("\"a@b\"@orlo.example", "|\"a@b\"@orlo.example")]
    [InlineData("<'a@orlo.example>", "|'a@orlo.example")]
    [InlineData("'a@orlo.example'", "|a@orlo.example +1")]
    // The family name first.
    [InlineData("Orlo, Hamish <h@orlo.example>", "Hamish Orlo|h@orlo.example")]
    [InlineData("Orlo, <h@orlo.example>", "Orlo|h@orlo.example")]
    [InlineData(
        "Orlo, Hamish <h@orlo.example>, b@tan.example",
        "Hamish Orlo|h@orlo.example",
        "|b@tan.example"
    )]
    [InlineData(
        "Pier 4, Hamish <h@orlo.example>, b@tan.example",
        "address.malformed",
        "Hamish|h@orlo.example",
        "|b@tan.example"
    )]
    // A name that may not be kept, and one that is none.
    [InlineData("A\u0007B <h@orlo.example>", "|h@orlo.example +1")]
    [InlineData("12 <h@orlo.example>", "|h@orlo.example")]
    [InlineData("*Ines* <h@orlo.example>", "Ines|h@orlo.example")]
    [InlineData("\"\" <h@orlo.example>", "|h@orlo.example")]
    [InlineData("\" <h@orlo.example>", "|h@orlo.example +1")]
    // Cells beside.
    [InlineData("Hamish Orlo\th@orlo.example", "Hamish Orlo|h@orlo.example")]
    [InlineData("Hamish\tOrlo\th@orlo.example", "Hamish Orlo|h@orlo.example")]
    [InlineData("h@orlo.example\tHamish\tOrlo", "Hamish Orlo|h@orlo.example")]
    [InlineData("7\tHamish\tOrlo\th@orlo.example\tPier 4", "Hamish Orlo|h@orlo.example +1")]
    [InlineData("Hamish\t7\th@orlo.example", "Hamish|h@orlo.example +1")]
    [InlineData("Hamish Orlo\tKeeper of Nets\th@orlo.example", "Keeper of Nets|h@orlo.example +1")]
    [InlineData("Ada Bird\tx y\th@orlo.example\tBo Tan", "Bo Tan|h@orlo.example +1")]
    [InlineData("Bo Tan\th@orlo.example\tAda Bird", "Bo Tan|h@orlo.example +1")]
    [InlineData("Ines <h@orlo.example>\tHamish Orlo", "Ines|h@orlo.example +1")]
    [InlineData("One Two Three Four Five\th@orlo.example", "One Two Three Four Five|h@orlo.example")]
    [InlineData("One Two Three Four Five Six\th@orlo.example", "|h@orlo.example +1")]
    [InlineData("hamish orlo\th@orlo.example", "|h@orlo.example +1")]
    [InlineData("O'Hara-Brandt J.\th@orlo.example", "O'Hara-Brandt J.|h@orlo.example")]
    [InlineData("'Hamish Orlo'|h@orlo.example", "Hamish Orlo|h@orlo.example")]
    [InlineData("h@orlo.example|", "|h@orlo.example")]
    [InlineData("h@orlo.example, Hamish Orlo", "Hamish Orlo|h@orlo.example")]
    [InlineData("h@orlo.example; Hamish", "Hamish|h@orlo.example")]
    [InlineData("h@orlo.example, 44", "|h@orlo.example +1")]
    [InlineData("h@orlo.example, hamish", "|h@orlo.example", "address.malformed")]
    [InlineData("h@orlo.example, tan.example", "|h@orlo.example", "address.malformed")]
    [InlineData("h@orlo.example, bo at tan.example", "|h@orlo.example", "address.malformed")]
    [InlineData("h@orlo.example\tbo at tan.example", "|h@orlo.example +1")]
    [InlineData("h@orlo.example\tb@tan.example", "|h@orlo.example", "|b@tan.example")]
    [InlineData("a@@orlo.example\tIne", "address.malformed", "address.malformed")]
    public void A_line_is_read_piece_by_piece(string line, params string[] entries) =>
        Assert.Equal(
            entries,
            PastedList
                .Read(line)
                .Value.Select(entry =>
                    entry.Fault?.Code
                    ?? $"{entry.Name}|{entry.Address}{(entry.Notes.Count > 0 ? $" +{entry.Notes.Count}" : "")}"
                )
        );

    [Fact]
    public void Nothing_is_no_entry()
    {
        Assert.Empty(PastedList.Read(null).Value);
        Assert.Empty(PastedList.Read(" \n , ; \t\n").Value);
        Assert.Empty(PastedList.Read("Cc: , To:").Value);
        Assert.True(PastedList.Read(new string(' ', PastedList.LongestText)).Succeeded);
        var no = PastedList.Read(new string(' ', PastedList.LongestText + 1)).Refusal!;
        Assert.Equal(("list.too-long", "text"), (no.Code, no.Field));
    }

    [Fact]
    public void What_was_left_out_is_said_in_words()
    {
        Assert.Equal(
            ("address.trimmed", "\"gone\" after the address was left out."),
            Note("A <a@orlo.example> gone")
        );
        Assert.Equal(
            ("address.trimmed", "Read as \"a@orlo.example\"; the signs around it were left out."),
            Note("[a@orlo.example]")
        );
        Assert.Equal("name.left-out", Note("A\u0007B <a@orlo.example>").Code);
        Assert.Equal(
            ("row.not-read", "Beside the address, \"Pier 4\" was not read."),
            Note("Hamish Orlo\ta@orlo.example\tPier 4")
        );
        Assert.Equal(
            ("row.not-read", "Beside the address, \"7\", \"Pier 4\" were not read."),
            Note("7\tHamish Orlo\ta@orlo.example\tPier 4")
        );
        Assert.Equal(
            "7\tHamish Orlo\ta@orlo.example",
            Assert.Single(PastedList.Read(" 7\tHamish Orlo\ta@orlo.example ").Value).Written
        );
        Assert.Equal(
            "Orlo, Hamish <a@orlo.example>",
            Assert.Single(PastedList.Read("Orlo, Hamish <a@orlo.example>").Value).Written
        );

        static (string Code, string Sentence) Note(string line)
        {
            var note = Assert.Single(Assert.Single(PastedList.Read(line).Value).Notes);
            return (note.Code, note.Sentence);
        }
    }

    [Theory]
    [InlineData("a@orlo.example", "a@orlo.example")]
    [InlineData("Hamish Orlo <a@orlo.example>", "\"Hamish Orlo\" <a@orlo.example>")]
    [InlineData("\"A \\\"B\\\" \\\\\" <a@orlo.example>", "\"A \\\"B\\\" \\\\\" <a@orlo.example>")]
    [InlineData("<*a@orlo.example>", "<*a@orlo.example>")]
    [InlineData("<a|b@orlo.example>", "<a|b@orlo.example>")]
    [InlineData("<mailtoo@orlo.example>", "<mailtoo@orlo.example>")]
    [InlineData("nobody", "nobody")]
    public void An_entry_is_written_as_it_would_be_read_again(string written, string again) =>
        Assert.Equal(again, MailboxText.Read(written).ToString());
}
