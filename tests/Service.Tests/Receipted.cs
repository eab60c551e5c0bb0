using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Departures;
using Xunit;

namespace ComeAboard.Service.Tests;

/// <summary>Receipts are verified by themselves, and nothing that was altered is.</summary>
public sealed class Receipted
{
    private static readonly DateTimeOffset At = new(2026, 11, 26, 12, 0, 0, TimeSpan.Zero);

    private static readonly Receipt Says = new(
        "https://aboard.example/w/lantern-tide",
        "The Lantern Tide",
        Guid.NewGuid(),
        new LeaverView(Guid.NewGuid(), "Viggo Stern", "viggo@stern-events.example"),
        "client",
        "Mira Tollander",
        At,
        null,
        At,
        At,
        [new ReceiptStep(1, "close-account", "Chart table", "It is closed.", "confirmed", At, "Gone.", "")],
        new ReceiptHead(42, new string('a', 64))
    );

    private readonly ECDsa _key = ECDsa.Create(ECCurve.NamedCurves.nistP256);

    private ReceiptKey Shown => ReceiptSeal.ShownOf(_key);

    private string Signed => ReceiptSeal.Sign(Says, _key, Shown.Kid);

    private static string KeysOf(params ReceiptKey[] keys) =>
        JsonSerializer.Serialize(new ReceiptKeys(keys), WireJson.Default.ReceiptKeys);

    [Fact]
    public void As_it_was_signed_it_is_believed_with_old_keys_among_newer_ones()
    {
        using var newer = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var (says, problem) = ReceiptSeal.Verify(
            "\n" + Signed + "\n",
            KeysOf(ReceiptSeal.ShownOf(newer), Shown)
        );
        Assert.Null(problem);
        Assert.Equal((Says.Person, Says.Steps[0]), (says!.Person, says.Steps[0]));
        Assert.Equal(
            "receipt.key-unknown",
            ReceiptSeal.Verify(Signed, KeysOf(ReceiptSeal.ShownOf(newer))).Problem!.Code
        );
    }

    [Fact]
    public void Altered_by_one_byte_anywhere_it_is_not()
    {
        var (signed, keys) = (Signed, KeysOf(Shown));
        const string letters = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_";
        for (var at = 0; at < signed.Length; at++)
        {
            foreach (var other in new[] { letters[(letters.IndexOf(signed[at]) + 1) % 64], '.', '=', '+' })
            {
                if (other == signed[at])
                    continue;
                var altered = signed[..at] + other + signed[(at + 1)..];
                Assert.True(ReceiptSeal.Verify(altered, keys).Problem is not null, $"{at}: {other}");
            }
            Assert.NotNull(ReceiptSeal.Verify(signed.Remove(at, 1), keys).Problem);
        }
        Assert.NotNull(ReceiptSeal.Verify(signed + "A", keys).Problem);
    }

    [Fact]
    public void Another_way_of_signing_or_a_key_that_is_not_what_its_name_says_is_refused()
    {
        Assert.Equal("receipt.algorithm", CodeOf("""{"alg":"none","kid":"KID"}"""));
        Assert.Equal("receipt.algorithm", CodeOf("""{"alg":"HS256","kid":"KID"}"""));
        Assert.Equal("receipt.algorithm", CodeOf("""{"alg":"ES256","kid":"KID","crit":["exp"]}"""));
        Assert.Equal("receipt.key-unknown", CodeOf("""{"alg":"ES256"}"""));
        Assert.Equal("receipt.malformed", CodeOf("""{"alg":"none","alg":"ES256","kid":"KID"}"""));
        Assert.Equal("receipt.malformed", ReceiptSeal.Verify("hello", KeysOf(Shown)).Problem!.Code);
        Assert.Equal("receipt.keys-malformed", ReceiptSeal.Verify(Signed, "{}").Problem!.Code);
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var swapped = ReceiptSeal.ShownOf(other) with { Kid = Shown.Kid };
        var forged = ReceiptSeal.Sign(Says with { DecidedBy = "Somebody else" }, other, Shown.Kid);
        Assert.Equal("receipt.key-unknown", ReceiptSeal.Verify(forged, KeysOf(swapped)).Problem!.Code);
        Assert.Equal("receipt.altered", ReceiptSeal.Verify(forged, KeysOf(Shown)).Problem!.Code);

        string CodeOf(string header)
        {
            var parts = Signed.Split('.');
            var text = header.Replace("KID", Shown.Kid, StringComparison.Ordinal);
            parts[0] = System.Buffers.Text.Base64Url.EncodeToString(Encoding.UTF8.GetBytes(text));
            return ReceiptSeal.Verify(string.Join('.', parts), KeysOf(Shown)).Problem!.Code;
        }
    }
}
