using System.Text;
using ComeAboard.Core.Connections;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Connections;

/// <summary>People read from files: LDIF and tables.</summary>
public sealed class FilesOfDirectories
{
    private static readonly Gen<string> Text = Gen.OneOf(
        Gen.Char['a', 'z'].Array[1, 90].Select(letters => new string(letters)),
        Gen.OneOf<string>(
            "Zoë Ødegård",
            ": begins oddly",
            "<also",
            " blank first",
            "last ",
            "日本 太郎",
            "a#b"
        )
    );

    private static readonly Gen<(string Name, (string Attribute, string Value)[] Values)[]> Directory =
        Gen.Select(Text, Gen.Select(Gen.OneOf<string>("cn", "sn", "mail", "title"), Text).Array[1, 4]).Array[
            1,
            4
        ];

    /// <summary>Whatever an export writes – folded anywhere, in base64 or plain, with comments – is read as it was.</summary>
    [Fact]
    public void What_is_written_as_LDIF_is_read_as_it_was() =>
        Gen.Select(Directory, Gen.Int[5, 80], Gen.Bool)
            .Sample(
                (directory, width, windows) =>
                {
                    var file = new StringBuilder("version: 1\n# an export\n\n");
                    foreach (var (name, values) in directory)
                    {
                        Write(file, "dn", name, width);
                        foreach (var (attribute, value) in values)
                            Write(file, attribute, value, width);
                        file.Append('\n');
                    }
                    var text = windows ? file.Replace("\n", "\r\n").ToString() : file.ToString();
                    Assert.True(Ldif.IsLikely(Encoding.UTF8.GetBytes(text)));
                    var read = Ldif.Read(text).Value;
                    Assert.Equal(directory.Select(one => one.Name), read.Select(one => one.Name));
                    foreach (var (written, entry) in directory.Zip(read))
                    foreach (var attribute in (string[])["cn", "sn", "mail", "title"])
                        Assert.Equal(
                            written
                                .Values.Where(one => one.Attribute == attribute)
                                .Select(one => one.Value.Trim()),
                            entry.All(attribute.ToUpperInvariant())
                        );
                }
            );

    private static void Write(StringBuilder file, string attribute, string value, int width)
    {
        var isSafe =
            value[0] is not (' ' or ':' or '<')
            && value[^1] != ' '
            && value.All(letter => letter is > '\u001f' and < '\u007f');
        var line = isSafe
            ? $"{attribute}: {value}"
            : $"{attribute}:: {Convert.ToBase64String(Encoding.UTF8.GetBytes(value))}";
        for (var at = 0; at < line.Length; at += width)
            file.Append(at == 0 ? "" : " ")
                .Append(line.AsSpan(at, Math.Min(width, line.Length - at)))
                .Append('\n');
    }

    [Theory]
    [InlineData("dn: cn=a\njpegPhoto:< file:///etc/passwd\n", "ldif.malformed", "Line 2")]
    [InlineData("dn: cn=a\nmail:: no*base64\n", "ldif.malformed", "Line 2")]
    [InlineData("dn: cn=a\nchangetype: delete\n", "ldif.changes", "Line 2")]
    [InlineData("cn: a\n", "ldif.malformed", "Line 1")]
    [InlineData("dn: cn=a\n\ncn: a\n", "ldif.malformed", "Line 3")]
    [InlineData("dn: cn=a\ncn: a\ndn: cn=b\n", "ldif.malformed", "Line 3")]
    [InlineData("dn: cn=a\nwithout\n", "ldif.malformed", "Line 2")]
    [InlineData("version: 1\n", "ldif.malformed", "no entry")]
    public void What_is_no_LDIF_is_refused_with_its_line(string text, string code, string said)
    {
        var no = Ldif.Read(text).Refusal!;
        Assert.Equal(code, no.Code);
        Assert.Contains(said, no.Sentence, StringComparison.Ordinal);
    }

    [Fact]
    public void A_table_is_not_taken_for_LDIF()
    {
        Assert.False(Ldif.IsLikely("Name,Address\nCasper,casper@harbour.example\n"u8));
        Assert.False(Ldif.IsLikely(""u8));
        Assert.True(Ldif.IsLikely("\n# a comment\r\ndn: o=harbour\n"u8));
    }

    [Fact]
    public void A_person_of_a_directory_says_who_they_are()
    {
        var entries = Ldif.Read(
            """
            dn: ou=people,o=harbour
            objectClass: organizationalUnit
            ou: people

            dn: uid=idun,ou=people,o=harbour
            objectClass: inetOrgPerson
            entryUUID: 0F3A-Idun
            cn;lang-no: Idun Havn
            cn: Idun Havnesdatter
            sn: Havnesdatter
            givenName: Idun
            mail: idun@harbour.example
            mail: i.havnesdatter@harbour.example
            o: Harbour authority
            ou: Berths
            title: Berthing officer
            manager: cn=Odd\, the Elder,ou=people,o=harbour
            telephoneNumber: +47 22 11 00

            dn: uid=off,ou=people,o=harbour
            objectClass: person
            cn: Somebody Off
            sn: Off
            pwdAccountLockedTime: 000001010000Z

            dn: cn=press$,o=harbour
            objectClass: user
            objectClass: computer
            cn: press
            """
        ).Value;
        var people = entries.Select(DirectoryPeople.Read).OfType<SourceRecord>().ToList();
        Assert.Equal(
            new SourceRecord("0f3a-idun")
            {
                Name = "Idun Havnesdatter",
                GivenName = "Idun",
                FamilyName = "Havnesdatter",
                Address = "idun@harbour.example",
                OtherAddresses = "i.havnesdatter@harbour.example",
                Organisation = "Harbour authority",
                Department = "Berths",
                Title = "Berthing officer",
                Manager = "Odd, the Elder",
                Phone = "+47 22 11 00",
            },
            people[0]
        );
        Assert.Equal(("uid=off,ou=people,o=harbour", true), (people[1].Key, people[1].IsOff));
        Assert.Equal(2, people.Count);
    }

    [Fact]
    public void Rows_of_a_table_are_told_apart_by_id_else_by_address()
    {
        var sheet = SourceSheet.Read(["E-Mail", "Name", "Department", "id"]).Value;
        var records = sheet
            .Rows([
                ["Idun@Harbour.example", "Idun Havn", "Berths", "7"],
                ["odd@harbour.example", "Odd Brygge", "", ""],
                ["odd@HARBOUR.example", "Oda Brygge"],
                ["", "Zoë Ødegård"],
            ])
            .Value;
        Assert.Equal(
            ["id:7", "address:odd@harbour.example", "address:odd@harbour.example#2", "name:zoodegard"],
            records.Select(one => one.Key)
        );
        Assert.Equal(("Berths", "Idun Havn"), (records[0].Department, records[0].Name));
        Assert.Equal(
            "source.key-twice",
            sheet
                .Rows([
                    ["a@b.example", "A", "", "7"],
                    ["b@b.example", "B", "", "7"],
                ])
                .Refusal?.Code
        );
        Assert.Equal("match.no-columns", SourceSheet.Read(["Colour"]).Refusal?.Code);
    }

    /// <summary>Whatever a system says, what is kept is one line that can be shown, and tidying it again changes nothing.</summary>
    [Fact]
    public void Texts_are_tidied_once_and_for_all() =>
        Gen.String.Sample(text =>
        {
            var once = new SourceRecord("k") { Name = text, Title = "\u202eevil\n\t title\u0000" }.Tidied();
            Assert.Equal("evil title", once.Title);
            Assert.Equal(once, once.Tidied());
            Assert.InRange(once.Name.Length, 0, SourceRecord.LongestText);
            Assert.DoesNotContain(once.Name, char.IsControl);
            Assert.Equal(once.Name.Trim(), once.Name);
        });
}
