using System.Text;

namespace ComeAboard.Service.Invitations;

/// <summary>How the letters of a file are written. Spreadsheets use UTF-8, UTF-16 with or without a mark, or the old Western code.</summary>
/// <param name="Name">What it is called: <c>UTF-8</c>, <c>UTF-16</c>, <c>Windows-1252</c>.</param>
/// <param name="Mark">How many bytes of a mark stand before the text.</param>
/// <param name="Other">How to read it where it is not UTF-8.</param>
internal sealed record Encodings(string Name, int Mark, Encoding? Other)
{
    private const int Looked = 4096;

    private static readonly Encoding Western = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;
    private static readonly UTF8Encoding Strict = new(false, true);

    /// <summary>Finds out how a file is written. Only what has no mark is read to its end.</summary>
    public static Encodings Of(Func<Stream> open)
    {
        var first = new byte[Looked];
        using (var content = open())
            first = first[..content.ReadAtLeast(first, first.Length, throwOnEndOfStream: false)];
        if (first.AsSpan().StartsWith(Encoding.UTF8.Preamble))
            return new("UTF-8", Encoding.UTF8.Preamble.Length, null);
        if (first is [0xFF, 0xFE, ..])
            return new("UTF-16", 2, Encoding.Unicode);
        if (first is [0xFE, 0xFF, ..])
            return new("UTF-16", 2, Encoding.BigEndianUnicode);
        if (Unmarked(first) is { } wide)
            return new("UTF-16", 0, wide);
        using var whole = open();
        return IsUtf8(whole) ? new("UTF-8", 0, null) : new("Windows-1252", 0, Western);
    }

    /// <summary>The text in UTF-8 without a mark.</summary>
    /// <param name="content">The file at its beginning; it is disposed of with what is returned.</param>
    public Stream ToUtf8(Stream content)
    {
        if (Mark > 0)
            content.ReadExactly(new byte[Mark]);
        return Other is null ? content : Encoding.CreateTranscodingStream(content, Other, Strict);
    }

    private static bool IsUtf8(Stream text)
    {
        var bytes = new byte[65_536];
        var letters = new char[bytes.Length + 1];
        var decoder = Strict.GetDecoder();
        try
        {
            for (var ended = false; !ended; )
            {
                var read = text.Read(bytes);
                ended = read == 0;
                decoder.GetChars(bytes.AsSpan(0, read), letters, ended);
            }
            return true;
        }
        catch (DecoderFallbackException)
        {
            return false;
        }
    }

    // Of a text in mostly Latin letters every other byte is nothing, and no other text has any such byte.
    private static Encoding? Unmarked(ReadOnlySpan<byte> content)
    {
        var (even, odd) = (0, 0);
        var length = content.Length & ~1;
        for (var i = 0; i < length; i += 2)
        {
            even += content[i] == 0 ? 1 : 0;
            odd += content[i + 1] == 0 ? 1 : 0;
        }
        return odd > length / 4 && even == 0 ? Encoding.Unicode
            : even > length / 4 && odd == 0 ? Encoding.BigEndianUnicode
            : null;
    }
}
