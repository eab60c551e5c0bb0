using System.Buffers.Text;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;

namespace ComeAboard.Client.Departures;

/// <summary>
/// Receipts are signed as JSON Web Signatures (RFC 7515, compact, ES256 alone) and verified without asking anybody: the receipt
/// and the keys are all it takes. Everything that is not as it was signed, to the last byte, is refused.
/// </summary>
public static class ReceiptSeal
{
    private const int Coordinate = 32;
    private const int LargestReceipt = 4 * 1024 * 1024;

    // What two readers could understand differently is no receipt.
    private static readonly JsonDocumentOptions Strict = new() { AllowDuplicateProperties = false };

    /// <summary>Signs a receipt.</summary>
    /// <param name="receipt">What it says.</param>
    /// <param name="key">The private key, on P-256.</param>
    /// <param name="kid">Its name: see <see cref="ThumbprintOf"/>.</param>
    public static string Sign(Receipt receipt, ECDsa key, string kid)
    {
        var header = $$"""{"alg":"ES256","kid":"{{kid}}","typ":"receipt+json"}""";
        var text =
            Base64Url.EncodeToString(Encoding.UTF8.GetBytes(header))
            + "."
            + Base64Url.EncodeToString(
                JsonSerializer.SerializeToUtf8Bytes(receipt, WireJson.Default.Receipt)
            );
        return text
            + "."
            + Base64Url.EncodeToString(key.SignData(Encoding.ASCII.GetBytes(text), HashAlgorithmName.SHA256));
    }

    /// <summary>The public half of a key.</summary>
    public static ReceiptKey ShownOf(ECDsa key)
    {
        var at = key.ExportParameters(false).Q;
        var (x, y) = (Base64Url.EncodeToString(at.X), Base64Url.EncodeToString(at.Y));
        return new ReceiptKey("EC", "P-256", x, y, ThumbprintOf(x, y));
    }

    /// <summary>The name of a key: the thumbprint of RFC 7638.</summary>
    public static string ThumbprintOf(string x, string y) =>
        Base64Url.EncodeToString(
            SHA256.HashData(
                Encoding.UTF8.GetBytes($$"""{"crv":"P-256","kty":"EC","x":"{{x}}","y":"{{y}}"}""")
            )
        );

    /// <summary>Verifies a receipt; what it says is to be believed only where no problem is given.</summary>
    /// <param name="receipt">The receipt; spaces and line ends around it do not count.</param>
    /// <param name="keys">The keys as JSON (RFC 7517).</param>
    /// <returns>
    /// What it says, or why it is not to be believed: <c>receipt.malformed</c>, <c>receipt.algorithm</c>, <c>receipt.key-unknown</c>,
    /// <c>receipt.keys-malformed</c> or <c>receipt.altered</c>.
    /// </returns>
    public static (Receipt? Says, Problem? Problem) Verify(string receipt, string keys)
    {
        try
        {
            return receipt.Length > LargestReceipt
                ? No("receipt.malformed", "It is too long for a receipt.")
                : Check(receipt.Trim(), keys);
        }
        catch (Exception fault)
            when (fault
                    is JsonException
                        or FormatException
                        or InvalidOperationException
                        or CryptographicException
            )
        {
            return No("receipt.malformed", "It is no receipt, or was damaged.");
        }
    }

    private static (Receipt?, Problem?) Check(string receipt, string keys)
    {
        if (receipt.Split('.') is not [var header, var payload, var signature])
            return No("receipt.malformed", "It is no receipt: it does not have three parts.");
        var (headerBytes, payloadBytes, signatureBytes) = (Read(header), Read(payload), Read(signature));
        using var said = JsonDocument.Parse(headerBytes, Strict);
        if (said.RootElement.TryGetProperty("crit", out _) || Text(said.RootElement, "alg") != "ES256")
            return No("receipt.algorithm", "It is not signed in the way receipts are.");
        var kid = Text(said.RootElement, "kid");
        if (!TryFind(keys, kid, out var point, out var no))
            return no is null ? No("receipt.key-unknown", "None of these keys signed it.") : (null, no);
        using var key = ECDsa.Create(new ECParameters { Curve = ECCurve.NamedCurves.nistP256, Q = point });
        if (
            signatureBytes.Length != 2 * Coordinate
            || !key.VerifyData(
                Encoding.ASCII.GetBytes($"{header}.{payload}"),
                signatureBytes,
                HashAlgorithmName.SHA256
            )
        )
            return No(
                "receipt.altered",
                "It is not what was signed: it was altered, or signed by somebody else."
            );
        JsonDocument.Parse(payloadBytes, Strict).Dispose();
        return (JsonSerializer.Deserialize(payloadBytes, WireJson.Default.Receipt), null);
    }

    private static bool TryFind(string keys, string kid, out ECPoint point, out Problem? no)
    {
        (point, no) = (default, null);
        try
        {
            using var read = JsonDocument.Parse(keys, Strict);
            foreach (var key in read.RootElement.GetProperty("keys").EnumerateArray())
            {
                if (Text(key, "kid") != kid || Text(key, "kty") != "EC" || Text(key, "crv") != "P-256")
                    continue;
                var (x, y) = (Text(key, "x"), Text(key, "y"));
                if (ThumbprintOf(x, y) != kid)
                    continue;
                point = new ECPoint { X = Read(x), Y = Read(y) };
                return point.X.Length == Coordinate && point.Y.Length == Coordinate;
            }
        }
        catch (Exception fault)
            when (fault
                    is JsonException
                        or FormatException
                        or InvalidOperationException
                        or KeyNotFoundException
            )
        {
            no = No("receipt.keys-malformed", "The keys cannot be read.").Problem;
        }
        return false;
    }

    /// <summary>Reads base64url in the one way it can be written.</summary>
    private static byte[] Read(string text)
    {
        var read = Base64Url.DecodeFromChars(text);
        return Base64Url.EncodeToString(read) == text
            ? read
            : throw new FormatException("Not written in the one way it can be.");
    }

    private static string Text(JsonElement of, string name) =>
        of.TryGetProperty(name, out var text) && text.ValueKind == JsonValueKind.String
            ? text.GetString()!
            : "";

    private static (Receipt? Says, Problem? Problem) No(string code, string sentence) =>
        (
            null,
            new Problem
            {
                Code = code,
                Title = sentence,
                Detail = "Ask whoever gave it for the receipt as it was handed out.",
                Status = 422,
            }
        );
}
