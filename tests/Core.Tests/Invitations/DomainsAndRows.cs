using ComeAboard.Core.Invitations;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>What a mistyped address was probably meant to be, and rows of lists with what is odd about them.</summary>
public sealed class DomainsAndRows
{
    private static DomainsInUse Known(params (string Domain, int People)[] domains) =>
        new(domains.Select(domain => KeyValuePair.Create(domain.Domain, domain.People)));

    private static readonly DomainsInUse Domains = Known(
        ("lantern-tide.example", 9),
        ("orlo.example", 1),
        ("pier.net", 3),
        ("quays.net", 2)
    );

    [Theory]
    // Signs that no address can hold.
    [InlineData("ines@@orlo.example", "ines@orlo.example")]
    [InlineData("ines@orlo..example", "ines@orlo.example")]
    [InlineData("ines.@orlo.example", "ines@orlo.example")]
    [InlineData("ines@.orlo.example", "ines@orlo.example")]
    [InlineData(".ines@orlo.example.", "ines@orlo.example")]
    [InlineData("ines@orlo,example", "ines@orlo.example")]
    [InlineData("ines at orlo dot example", "ines@orlo.example")]
    [InlineData("ines(at)orlo(dot)example", "ines@orlo.example")]
    [InlineData("ines[at]orlo[dot]example", "ines@orlo.example")]
    [InlineData("ines＠orlo.example", "ines@orlo.example")]
    [InlineData("in es@orlo.example", "ines@orlo.example")]
    // The @ before a known domain left out, and a dot within one.
    [InlineData("inesorlo.example", "ines@orlo.example")]
    [InlineData("orlo.example", null)]
    [InlineData("ines@orloexample", "ines@orlo.example")]
    [InlineData("ines@or.loexample", "ines@orlo.example")]
    // One slip in a short domain, two in a long one.
    [InlineData("ines@orl.example", "ines@orlo.example")]
    [InlineData("ines@pir.net", "ines@pier.net")]
    [InlineData("ines@pr.net", null)]
    [InlineData("ines@pie.nett", "ines@pie.net")]
    [InlineData("ines@or.example", "ines@orlo.example")]
    [InlineData("ines@o.example", null)]
    [InlineData("ines@lantrn-tid.example", "ines@lantern-tide.example")]
    [InlineData("ines@lantrn-td.example", null)]
    // The end of a domain.
    [InlineData("ines@elsewhere.con", "ines@elsewhere.com")]
    [InlineData("ines@elsewhere.exmaple", "ines@elsewhere.example")]
    [InlineData("ines@elsewhere.example", null)]
    // Nothing to say.
    [InlineData("ines@orlo.example", null)]
    [InlineData("ines", null)]
    [InlineData("@orlo.example", null)]
    [InlineData("ines@", null)]
    [InlineData("", null)]
    [InlineData(null, null)]
    public void What_was_meant_is_guessed_from_what_is_known(string? written, string? meant) =>
        Assert.Equal(meant, Domains.Suggest(written));

    [Fact]
    public void Of_two_as_near_the_one_with_more_people_is_meant()
    {
        Assert.Equal("a@piers.net", Known(("pierx.net", 1), ("piers.net", 2)).Suggest("a@pierz.net"));
        Assert.Equal("a@piers.net", Known(("piers.net", 2), ("pierx.net", 1)).Suggest("a@pierz.net"));
        // A nearer one is meant, however few are at it.
        Assert.Equal(
            "a@lantern-tides.net",
            Known(("lantern-taxxs.net", 9), ("lantern-tides.net", 1)).Suggest("a@lantern-tidxs.net")
        );
        Assert.Equal("a@piers.net", Known(("piers.net", 1), ("pier.net", 1)).Suggest("a@piersnet"));
    }

    [Fact]
    public void What_is_longer_than_any_address_is_not_guessed_at()
    {
        var local = new string('x', 60);
        var domain = string.Join('.', Enumerable.Repeat(new string('y', 60), 3)) + ".con";
        Assert.NotNull(Domains.Suggest($"{local}@{domain}"));
        Assert.Null(Domains.Suggest($"{new string('x', 255)}@elsewhere.con"));
    }

    [Fact]
    public void What_is_odd_about_a_domain_is_noted_with_what_was_meant()
    {
        Assert.Empty(Domains.Notes(Ship.At("ines@orlo.example")));
        Assert.Empty(Domains.Notes(Ship.At("ines@elsewhere.example")));
        var slip = Assert.Single(Domains.Notes(Ship.At("ines@orl.example")));
        Assert.Equal(
            ("address.slip", "Was orlo.example meant in place of orl.example?", "ines@orlo.example"),
            (slip.Code, slip.Sentence, slip.Suggestion)
        );
        // Many at the same domain are told the same, each with their own local part.
        Assert.Equal("bo@orlo.example", Assert.Single(Domains.Notes(Ship.At("bo@orl.example"))).Suggestion);
        var like = Assert.Single(Domains.Notes(Ship.At("ines@lantemtide.example")));
        Assert.Equal(("address.look-alike", "ines@lantern-tide.example"), (like.Code, like.Suggestion));
        Assert.StartsWith(
            "lantemtide.example looks like lantern-tide.example",
            like.Sentence,
            StringComparison.Ordinal
        );
        // Alphabets mixed within a part: both are said, and there is nothing to suggest for the one.
        var mixed = Domains.Notes(Ship.At("ines@quays.оrlo.example"));
        Assert.Contains(mixed, note => note is { Code: "address.mixed-script", Suggestion: null });
        var cyrillic = Domains.Notes(Ship.At("ines@оrlo.example"));
        Assert.Equal(["address.mixed-script", "address.look-alike"], cyrillic.Select(note => note.Code));
        Assert.Equal("ines@orlo.example", cyrillic[1].Suggestion);
    }

    [Fact]
    public void Of_two_that_look_the_same_the_one_with_more_people_is_meant()
    {
        var both = Known(("modern.example", 5), ("modem.example", 1));
        Assert.Equal("a@modern.example", Assert.Single(both.Notes(Ship.At("a@mo-dern.example"))).Suggestion);
        var turned = Known(("modern.example", 1), ("modem.example", 5));
        Assert.Equal("a@modem.example", Assert.Single(turned.Notes(Ship.At("a@mo-dern.example"))).Suggestion);
    }

    [Fact]
    public void A_domain_that_many_of_a_list_are_at_is_learnt()
    {
        var domains = Known(("orlo.example", 5));
        Assert.NotEmpty(domains.Notes(Ship.At("a@orl.example")));
        domains.Learn("orl.example");
        Assert.Empty(domains.Notes(Ship.At("a@orl.example")));
        // What was said of others is thought over.
        Assert.Equal("a@orlo.example", Assert.Single(domains.Notes(Ship.At("a@orlx.example"))).Suggestion);
        Assert.Empty(domains.Notes(Ship.At("a@quays.example")));
        domains.Learn("quay.example");
        Assert.Equal("a@quay.example", Assert.Single(domains.Notes(Ship.At("a@quays.example"))).Suggestion);
        domains.Learn("modern.example");
        Assert.Equal("address.look-alike", Assert.Single(domains.Notes(Ship.At("a@modem.example"))).Code);
        // What is known already keeps its number of people.
        domains.Learn("orlo.example");
        Assert.Equal("a@orlo.example", domains.Suggest("a@orlx.example"));
    }

    [Fact]
    public void A_row_says_everything_its_headings_know()
    {
        var sheet = Sheet.Read([.. SheetHeadings.All.Values.Select(heading => heading.English)]).Value;
        string[] cells =
        [
            "Other <ines@orlo.example>",
            "Ines Calloway",
            "Ines",
            "Calloway",
            "Kundin",
            "Tide",
            "Keeper",
            "Nets",
            "Bo",
            "PT",
            "de-AT",
            "mira@ship.example",
            "VIEW",
            "Crew",
            "Logbook",
            "1.2.2027",
            "2027/03/31",
            "Welcome.",
            "Tall",
        ];
        var (wish, fault, notes) = sheet.ReadRow(cells);
        Assert.Null(fault);
        Assert.Empty(notes);
        Assert.Equal(
            new InvitationWish(
                "ines@orlo.example",
                "client",
                "view",
                "Ines Calloway",
                "Welcome.",
                new DateOnly(2027, 3, 31),
                "de"
            )
            {
                From = new DateOnly(2027, 2, 1),
                GivenName = "Ines",
                FamilyName = "Calloway",
                Organisation = "Tide",
                Title = "Keeper",
                Department = "Nets",
                Manager = "Bo",
                Country = "PT",
                Note = "Tall",
                Host = "mira@ship.example",
                Group = "Crew",
                Resource = "Logbook",
            },
            wish
        );
        // Empty cells say nothing.
        var (empty, _, _) = sheet.ReadRow([
            .. cells.Select((cell, n) => n == 0 ? "ines@orlo.example" : "  "),
        ]);
        Assert.Equal(new InvitationWish("ines@orlo.example", null), empty);
        Assert.Equal("Other", sheet.ReadRow(["Other <ines@orlo.example>"]).Wish.Name);
        Assert.Equal("no address", sheet.ReadRow(["no address"]).Wish.Address);
    }

    [Fact]
    public void A_row_with_a_day_that_is_none_names_the_column()
    {
        var sheet = Sheet.Read(["Mail", "From", "Until"]).Value;
        Assert.Equal("from", sheet.ReadRow(["a@orlo.example", "soon", "2027-01-31"]).Fault!.Field);
        Assert.Equal("until", sheet.ReadRow(["a@orlo.example", "2027-01-01", "late"]).Fault!.Field);
        Assert.Equal("from", sheet.ReadRow(["a@orlo.example", "soon", "late"]).Fault!.Field);
        // A time of midnight is no time; another is none of a day.
        Assert.Null(sheet.ReadRow(["a@orlo.example", "2027-01-01T00:00:00", ""]).Fault);
        Assert.NotNull(sheet.ReadRow(["a@orlo.example", "2027-01-01 12:00:00", ""]).Fault);
        Assert.NotNull(sheet.ReadRow(["a@orlo.example", "00:00:00", ""]).Fault);
        Assert.NotNull(sheet.ReadRow(["a@orlo.example", "  00:00:00", ""]).Fault);
    }

    [Fact]
    public void A_quotation_mark_that_is_never_closed_names_its_row_before_anything_else()
    {
        var sheet = Sheet.Read(["Mail", "Until", "Note"]).Value;
        var no = sheet.ReadRow(["a@orlo.example", "late", "\"tall"]).Fault!;
        Assert.Equal(("row.quote", "file"), (no.Code, no.Field));
        Assert.Null(sheet.ReadRow(["a@orlo.example", "", "\"tall\""]).Fault);
        Assert.Null(sheet.ReadRow(["a@orlo.example", "", "6\" tall"]).Fault);
        Assert.NotNull(sheet.ReadRow(["a@orlo.example", "", " \"a\" \"b"]).Fault);
    }

    [Fact]
    public void Cells_beyond_the_headings_and_earlier_remarks_are_named()
    {
        var sheet = Sheet.Read(["Mail", "Remark on reading"]).Value;
        Assert.Equal(
            "The row has more cells than there are headings: \"x\" was not read.",
            Assert.Single(sheet.ReadRow(["a@orlo.example", "", " x ", " "]).Notes).Sentence
        );
        Assert.Equal(
            "The row has more cells than there are headings: \"x\", \"y\" were not read.",
            Assert.Single(sheet.ReadRow(["a@orlo.example", "", "x", "y"]).Notes).Sentence
        );
        Assert.Equal(
            [("row.not-read", "one"), ("row.not-read", "two")],
            sheet.ReadRow(["a@orlo.example", "one\ntwo"]).Notes.Select(note => (note.Code, note.Sentence))
        );
        Assert.Empty(sheet.ReadRow(["a@orlo.example"]).Notes);
        Assert.Equal("address.trimmed", Assert.Single(sheet.ReadRow(["[a@orlo.example]"]).Notes).Code);
    }

    [Theory]
    [InlineData("English", "en")]
    [InlineData("englisch", "en")]
    [InlineData("German", "de")]
    [InlineData("DEUTSCH", "de")]
    [InlineData("de-CH", "de")]
    [InlineData("pt", "pt")]
    public void A_language_is_written_in_words_or_by_its_tag(string written, string tag) =>
        Assert.Equal(
            tag,
            Sheet.Read(["Mail", "Sprache"]).Value.ReadRow(["a@orlo.example", written]).Wish.Language
        );
}
