using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

/// <summary>Reading lists of addresses as people paste them.</summary>
public sealed class WhatPeoplePaste
{
    private static readonly DomainsInUse Known = new(
        new Dictionary<string, int>
        {
            ["lantern-tide.example"] = 9,
            ["copper-quay-museum.example"] = 4,
            ["tide.example"] = 1,
        }
    );

    // Text made of what breaks readers: separators, brackets, quotes, escapes, other scripts, halves of surrogates.
    private static readonly Gen<string> Hostile = Gen.OneOf(
        Gen.String,
        Gen.OneOf<string>(
                "a",
                "@",
                ".",
                ",",
                ";",
                "<",
                ">",
                "(",
                ")",
                "\"",
                "\\",
                " ",
                "\t",
                "\n",
                "|",
                "ines",
                "example",
                "mailto:",
                "ü",
                "\u0430",
                "\ud83d",
                "\u202e",
                "'",
                "[",
                "]",
                ":",
                "\u00a0",
                "@x.example",
                "a@b.example"
            )
            .Array[0, 40]
            .Select(parts => string.Concat(parts))
    );

    [Fact]
    public void Reading_never_throws_loses_no_address_and_says_the_same_of_its_own_words() =>
        Hostile.Sample(
            text =>
            {
                var entries = PastedList.Read(text).Value;
                foreach (var entry in entries)
                {
                    Assert.True(entry.Address is null != entry.Fault is null);
                    _ = Known.Suggest(entry.Written);
                    if (entry.Address is not { } address)
                        continue;
                    _ = Known.Notes(address);
                    // Written out and read again it is the same, and there is nothing more to leave out.
                    var again = Assert.Single(PastedList.Read(entry.ToString()).Value);
                    Assert.Equal((address, entry.Name), (again.Address, again.Name));
                    Assert.Empty(again.Notes);
                }
                var good = entries.Where(entry => entry.Address is not null).ToList();
                var all = PastedList.Read(string.Join("; ", good)).Value;
                Assert.Equal(good.Select(entry => entry.Address), all.Select(entry => entry.Address));
            },
            iter: Often.Times(20_000)
        );

    [Fact]
    public void However_a_list_is_separated_and_decorated_it_holds_the_same_people() =>
        Gen.Select(
                Gen.Select(
                        Gen.OneOf<string>("ines", "o.hara", "väinö", "a+b"),
                        Gen.OneOf<string>("tide.example", "münz.example")
                    )
                    .Select((local, domain) => $"{local}@{domain}")
                    .Array[1, 12],
                Gen.OneOf<string>(",", ";", "\t", "\n", "\r\n", " ; ", ",\n", " | "),
                Gen.OneOf<string>(
                    "{0}",
                    "<{0}>",
                    "Dr Ines <{0}>",
                    "\"Calloway, Ines\" <{0}>",
                    "{0} (Ines)",
                    "mailto:{0}",
                    "'{0}'"
                )
            )
            .Sample(
                (addresses, separator, decoration) =>
                    Assert.Equal(
                        addresses,
                        PastedList
                            .Read(
                                string.Join(
                                    separator,
                                    addresses.Select(a => string.Format(null, decoration, a))
                                )
                            )
                            .Value.Select(entry => entry.Address?.ToString())
                    )
            );

    [Theory]
    [InlineData("Calloway, Ines <ines@tide.example>", "Ines Calloway", "ines@tide.example")]
    [InlineData("\"Ines \\\"Tide\\\" C.\" <ines@tide.example>", "Ines \"Tide\" C.", "ines@tide.example")]
    [InlineData("Ines Calloway ines@tide.example.", "Ines Calloway", "ines@tide.example")]
    [InlineData("(ines@tide.example)", "", "ines@tide.example")]
    [InlineData("\"ines\"@tide.example", "", "ines@tide.example")]
    [InlineData("„ines@tide.example“,", "", "ines@tide.example")]
    [InlineData("1. ines@tide.example", "", "ines@tide.example")]
    [InlineData("12) Ines Calloway <ines@tide.example>", "Ines Calloway", "ines@tide.example")]
    [InlineData("  • Ines Calloway, ines@tide.example", "Ines Calloway", "ines@tide.example")]
    [InlineData("- [x] ines@tide.example", "", "ines@tide.example")]
    [InlineData("To: ines@tide.example", "", "ines@tide.example")]
    [InlineData("Cc: Calloway, Ines <ines@tide.example>", "Ines Calloway", "ines@tide.example")]
    [InlineData("BCC : ines@tide.example;", "", "ines@tide.example")]
    [InlineData("Ines Calloway\tines@tide.example", "Ines Calloway", "ines@tide.example")]
    [InlineData("Ines\tCalloway\tines@tide.example", "Ines Calloway", "ines@tide.example")]
    [InlineData("ines@tide.example;Ines Calloway", "Ines Calloway", "ines@tide.example")]
    [InlineData("17 | ines@tide.example | Calloway", "Calloway", "ines@tide.example")]
    [InlineData("\"ines c\"@tide.example", "", "\"ines c\"@tide.example")]
    public void One_entry_is_read_with_its_name(string text, string name, string address)
    {
        var entry = Assert.Single(PastedList.Read(text).Value);
        Assert.Equal((name, address), (entry.Name, entry.Address?.ToString()));
    }

    [Fact]
    public void Cells_beside_an_address_that_are_not_read_are_named_and_refuse_nothing()
    {
        var entry = Assert.Single(
            PastedList.Read("Ines Calloway\tResearcher\tines@tide.example\tPier 4\twww.tide.example").Value
        );
        Assert.Equal(("Ines Calloway", "ines@tide.example"), (entry.Name, entry.Address?.ToString()));
        var note = Assert.Single(entry.Notes);
        Assert.Equal("row.not-read", note.Code);
        foreach (var cell in (string[])["Researcher", "Pier 4", "www.tide.example"])
            Assert.Contains(cell, note.Sentence, StringComparison.Ordinal);
        // What may be a slip in a list stays an entry of its own.
        Assert.Equal(2, PastedList.Read("ines@tide.example, kofi.tide.example").Value.Count);
        Assert.Equal(
            3,
            PastedList.Read("To: a@tide.example, b@tide.example; Cc: c@tide.example").Value.Count
        );
    }

    [Fact]
    public void A_dot_before_the_address_is_wrong_and_its_correction_is_suggested()
    {
        var entry = Assert.Single(PastedList.Read(".ines@tide.example").Value);
        Assert.Equal("address.malformed", entry.Fault?.Code);
        Assert.Equal("ines@tide.example", Known.Suggest(entry.Written));
    }

    [Fact]
    public void Addresses_with_nothing_but_spaces_between_are_several_and_what_is_none_is_kept()
    {
        var entries = PastedList
            .Read("a@tide.example b@tide.example\nIlse <c@tide.example> Kofi <d@tide.example>, nobody")
            .Value;
        Assert.Equal(4, entries.Count(entry => entry.Address is not null));
        Assert.Equal("nobody", Assert.Single(entries, entry => entry.Address is null).Written);
    }

    [Theory]
    [InlineData("ines@lantern-tdie.example", "ines@lantern-tide.example")] // swapped
    [InlineData("ines@lantern-tide.exmaple", "ines@lantern-tide.example")]
    [InlineData("ines@lantern-tide,example", "ines@lantern-tide.example")]
    [InlineData("ineslantern-tide.example", "ines@lantern-tide.example")]
    [InlineData("ines at copper-quay-museum.example", "ines@copper-quay-museum.example")]
    [InlineData("ines@@tide.example", "ines@tide.example")]
    [InlineData("ines@harbour.con", "ines@harbour.com")]
    [InlineData("ines@entirely-elsewhere.example", null)]
    [InlineData("ines@tide.example", null)]
    public void A_likely_correction_is_offered_and_never_made(string written, string? likely)
    {
        Assert.Equal(likely, Known.Suggest(written));
        if (EmailAddress.Read(written).Try(out var address, out _))
            Assert.Equal(written, address.ToString());
    }

    [Theory]
    [InlineData("ines@1antern-tide.example", "address.look-alike")] // a one for an l
    [InlineData("ines@lantern-tıde.example", "address.slip")] // an i without its dot
    [InlineData("ines@lаntern-tide.example", "address.mixed-script")] // a Cyrillic а
    public void A_domain_made_to_look_like_a_known_one_is_pointed_out(string written, string code) =>
        Assert.Contains(Known.Notes(EmailAddress.Read(written).Value), note => note.Code == code);
}
