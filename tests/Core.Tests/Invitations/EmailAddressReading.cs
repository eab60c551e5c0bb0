using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class EmailAddressReading
{
    private const string Atoms =
        "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789!#$%&'*+-/=?^_`{|}~";
    private const string Letters = "abcdefghijklmnopqrstuvwxyz";

    private static readonly Gen<string> Local = Gen.String[Gen.Char[Atoms], 1, 20]
        .Array[1, 3]
        .Select(parts => string.Join('.', parts));
    private static readonly Gen<string> Domain = Gen.String[Gen.Char[Letters], 1, 20]
        .Array[1, 3]
        .Select(parts => string.Join('.', parts) + ".example");

    [Fact]
    public void Reading_never_throws_whatever_is_typed() =>
        Gen.Select(Gen.String, Gen.String[Gen.Char['\0', '\uffff'], 0, 20], (a, b) => a + "@" + b)
            .Sample(text => EmailAddress.Read(text).Try(out _, out _) || true);

    [Fact]
    public void A_good_address_reads_back_as_it_was_written() =>
        Gen.Select(Local, Domain)
            .Sample(
                (local, domain) =>
                {
                    var address = EmailAddress.Read($"  {local}@{domain}\t").Value;
                    Assert.Equal($"{local}@{domain}", address.ToString());
                    Assert.Equal(address, EmailAddress.Read(address.ToString()).Value);
                    Assert.Equal(address.Key, EmailAddress.Read(address.Key).Value.Key);
                }
            );

    [Theory]
    [InlineData("Mira@Lantern-Tide.EXAMPLE", "mira@lantern-tide.example")]
    [InlineData("søren@bücher.example", "søren@xn--bcher-kva.example")]
    [InlineData("søren@xn--bcher-kva.example", "søren@xn--bcher-kva.example")]
    [InlineData("o'hara+deck@a.b.c.example", "o'hara+deck@a.b.c.example")]
    [InlineData("\"Mi Ra\"@harbour.example", "\"mi ra\"@harbour.example")]
    [InlineData("\"mira\"@harbour.example", "mira@harbour.example")]
    [InlineData("\"mi\\ra\"@harbour.example", "mira@harbour.example")]
    [InlineData("\"a@b\\\"\"@harbour.example", "\"a@b\\\"\"@harbour.example")]
    public void Writings_of_one_mailbox_share_a_key(string written, string key) =>
        Assert.Equal(key, EmailAddress.Read(written).Value.Key);

    [Theory]
    [InlineData(null, "address.missing")]
    [InlineData("   ", "address.missing")]
    [InlineData("mira", "address.malformed")]
    [InlineData("@harbour.example", "address.malformed")]
    [InlineData("mira@", "address.malformed")]
    [InlineData(".mira@harbour.example", "address.malformed")]
    [InlineData("mi..ra@harbour.example", "address.malformed")]
    [InlineData("mi ra@harbour.example", "address.malformed")]
    [InlineData("\"mi\"ra\"@harbour.example", "address.malformed")]
    [InlineData("\"\"@harbour.example", "address.malformed")]
    [InlineData("\"mi ra\\\"@harbour.example", "address.malformed")]
    [InlineData("\"mi\r\nra\"@harbour.example", "address.malformed")]
    [InlineData("mira\r\nBcc: all@harbour.example", "address.malformed")]
    [InlineData("mira@harbour", "address.domain-malformed")]
    [InlineData("mira@har bour.example", "address.domain-malformed")]
    [InlineData("mira@-harbour.example", "address.domain-malformed")]
    [InlineData("mira@[192.0.2.1]", "address.domain-malformed")]
    [InlineData("mira@192.0.2.1", "address.domain-malformed")]
    [InlineData("mira@harbour..example", "address.domain-malformed")]
    public void Wrong_addresses_say_what_is_wrong(string? written, string code) =>
        Assert.Equal(code, EmailAddress.Read(written).Refusal!.Code);

    [Fact]
    public void The_longest_address_is_taken_and_one_octet_more_is_not()
    {
        var domain = string.Join('.', Enumerable.Repeat(new string('a', 60), 3)) + ".ab";
        var longest = new string('x', EmailAddress.LongestLocalPart) + "@" + domain + "cdef";
        Assert.Equal(EmailAddress.LongestAddress, longest.Length);
        Assert.True(EmailAddress.Read(longest).Succeeded);
        Assert.Equal("address.too-long", EmailAddress.Read(longest + "g").Refusal!.Code);
        Assert.Equal(
            "address.malformed",
            EmailAddress.Read(new string('x', 65) + "@harbour.example").Refusal!.Code
        );
    }
}
