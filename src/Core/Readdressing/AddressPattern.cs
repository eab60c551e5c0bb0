using System.Text;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;

namespace ComeAboard.Core.Readdressing;

/// <summary>
/// How addresses are made of names: <c>{given}.{family}@new.example</c>. A placeholder stands for a part of the name, written
/// in the letters a to z; <c>{local}</c> stands for what is before the @ now.
/// </summary>
public sealed class AddressPattern
{
    private static readonly string[] Placeholders = ["given", "family", "initial", "local"];

    private readonly IReadOnlyList<(string Text, bool IsPlaceholder)> _pieces;

    private AddressPattern(IReadOnlyList<(string, bool)> pieces, string domain) =>
        (_pieces, Domain) = (pieces, domain);

    /// <summary>The domain of the addresses that are made.</summary>
    public string Domain { get; }

    /// <summary>Reads a pattern; refuses with <c>pattern.malformed</c>.</summary>
    public static Outcome<AddressPattern> Read(string? text)
    {
        var written = text?.Trim() ?? "";
        var at = written.LastIndexOf('@');
        if (at <= 0)
            return Malformed($"\"{Words.Short(written)}\" is no pattern of an address.");
        var pieces = new List<(string, bool)>();
        var rest = written.AsSpan(0, at);
        while (rest.Length > 0)
        {
            var open = rest.IndexOf('{');
            if (open != 0)
            {
                var literal = (open < 0 ? rest : rest[..open]).ToString();
                pieces.Add((literal, false));
                rest = rest[literal.Length..];
                continue;
            }
            var close = rest.IndexOf('}');
            var name = close < 0 ? "" : rest[1..close].ToString();
            if (!Placeholders.Contains(name))
                return Malformed($"There is no placeholder \"{Words.Short(rest.ToString())}\".");
            pieces.Add((name, true));
            rest = rest[(close + 1)..];
        }
        if (!pieces.Exists(piece => piece.Item2))
            return Malformed("Everybody would have the same address.");
        var domain = written[(at + 1)..].ToLowerInvariant();
        // What stands between the placeholders must be what an address can hold.
        var tried = string.Concat(pieces.Select(piece => piece.Item2 ? "x" : piece.Item1)) + "@" + domain;
        return EmailAddress.Read(tried).Succeeded
            ? new AddressPattern(pieces, domain)
            : Malformed($"\"{Words.Short(written)}\" makes no addresses.");
    }

    /// <summary>Makes the address of somebody; refuses with <c>pattern.no-name</c> where the name lacks what it takes.</summary>
    /// <param name="name">The name as it is written.</param>
    /// <param name="now">The address now.</param>
    public Outcome<EmailAddress> For(string name, EmailAddress now)
    {
        var (given, family) = PartsOf(name);
        var local = new StringBuilder();
        foreach (var (text, isPlaceholder) in _pieces)
        {
            var piece = !isPlaceholder
                ? text
                : text switch
                {
                    "given" => given,
                    "family" => family,
                    "initial" => given.Length > 0 ? given[..1] : "",
                    _ => now.ToString()[..now.ToString().LastIndexOf('@')],
                };
            if (isPlaceholder && piece.Length == 0)
                return new Refusal(
                    "pattern.no-name",
                    $"\"{Words.Short(name)}\" has nothing for {{{text}}}.",
                    "Give this one an address by a file, or correct the name first.",
                    RefusalSort.Conflict
                );
            local.Append(piece);
        }
        return EmailAddress.Read($"{local}@{Domain}");
    }

    /// <summary>The given and the family name, in the letters a to z: titles and what stands in the middle are left out.</summary>
    private static (string Given, string Family) PartsOf(string name)
    {
        var comma = name.IndexOf(',', StringComparison.Ordinal);
        var turned = comma < 0 ? name : name[(comma + 1)..] + " " + name[..comma];
        var words = turned
            .Split([' ', '\t', '\u00A0', '(', ')', '"'], StringSplitOptions.RemoveEmptyEntries)
            .Where(word => !NameWords.IsTitle(Folding.Fold(word)))
            .ToList();
        if (words.Count == 0)
            return ("", "");
        if (words.Count == 1)
            return (Folding.Plain(words[0]), "");
        // "van der Berg" belongs together.
        var first = words.Count - 1;
        while (first > 1 && NameWords.IsParticle(Folding.Fold(words[first - 1])))
            first--;
        return (Folding.Plain(words[0]), string.Concat(words.Skip(first).Select(Folding.Plain)));
    }

    private static Refusal Malformed(string sentence) =>
        new(
            "pattern.malformed",
            sentence,
            "Write it like {given}.{family}@new.example; there are {given}, {family}, {initial} and {local}.",
            Field: "pattern"
        );
}
