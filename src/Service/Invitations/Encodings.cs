using System.Text;

namespace ComeAboard.Service.Invitations;

/// <summary>How the letters of a file are written. Spreadsheets use UTF-8, UTF-16 with or without a mark, or the old Western code.</summary>
internal static class Encodings
{
    private const int Looked = 4096;

    private static readonly Encoding Western = CodePagesEncodingProvider.Instance.GetEncoding(1252)!;

    /// <summary>The text in UTF-8 without a mark, and the name of what it was in.</summary>
    public static (byte[] Utf8, string Name) ToUtf8(byte[] content)
    {
        if (content.AsSpan().StartsWith(Encoding.UTF8.Preamble))
            return (content[3..], "UTF-8");
        if (content is [0xFF, 0xFE, ..])
            return (Encoding.Convert(Encoding.Unicode, Encoding.UTF8, content[2..]), "UTF-16");
        if (content is [0xFE, 0xFF, ..])
            return (Encoding.Convert(Encoding.BigEndianUnicode, Encoding.UTF8, content[2..]), "UTF-16");
        if (Unmarked(content) is { } wide)
            return (Encoding.Convert(wide, Encoding.UTF8, content), "UTF-16");
        return System.Text.Unicode.Utf8.IsValid(content)
            ? (content, "UTF-8")
            : (Encoding.Convert(Western, Encoding.UTF8, content), "Windows-1252");
    }

    // Of a text in mostly Latin letters every other byte is nothing, and no other text has any such byte.
    private static Encoding? Unmarked(byte[] content)
    {
        var (even, odd) = (0, 0);
        var length = Math.Min(content.Length & ~1, Looked);
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
