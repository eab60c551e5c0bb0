using System.Text;

namespace ComeAboard.Core.Connections;

/// <summary>An entry of a directory (RFC 4511): its name and its attributes.</summary>
/// <param name="name">Its distinguished name.</param>
public sealed class DirectoryEntry(string name)
{
    private readonly Dictionary<string, List<string>> _values = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, List<string>> _inOneLanguage = new(StringComparer.OrdinalIgnoreCase);

    /// <summary>Its distinguished name.</summary>
    public string Name => name;

    /// <summary>Adds a value of an attribute; what is no text in UTF-8 is kept as hexadecimal digits, what is empty is not.</summary>
    /// <param name="attribute">The attribute, with its options, as in <c>cn;lang-de</c>.</param>
    /// <param name="value">The bytes.</param>
    public void Add(string attribute, ReadOnlySpan<byte> value)
    {
        var option = attribute.IndexOf(';', StringComparison.Ordinal);
        var (type, all) = option < 0 ? (attribute, _values) : (attribute[..option], _inOneLanguage);
        var text = System.Text.Unicode.Utf8.IsValid(value)
            ? Encoding.UTF8.GetString(value).Trim()
            : Convert.ToHexStringLower(value);
        if (text.Length == 0)
            return;
        if (!all.TryGetValue(type, out var values))
            all[type] = values = [];
        values.Add(text);
    }

    /// <summary>The values of an attribute: those for everybody first, then those in one language only.</summary>
    public IReadOnlyList<string> All(string attribute) =>
        [.. _values.GetValueOrDefault(attribute) ?? [], .. _inOneLanguage.GetValueOrDefault(attribute) ?? []];

    /// <summary>The first value of the first of some attributes that has any; empty where none has.</summary>
    public string First(params ReadOnlySpan<string> attributes)
    {
        foreach (var attribute in attributes)
            if (All(attribute) is [var value, ..])
                return value;
        return "";
    }
}
