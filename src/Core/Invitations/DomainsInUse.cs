using System.Text;

namespace ComeAboard.Core.Invitations;

/// <summary>
/// The mail domains of the people a workspace already knows. From them it is guessed what a mistyped domain was meant
/// to be, and which ones are made to look like a known one. Guesses are only ever offered. Not for several threads at once.
/// </summary>
public sealed class DomainsInUse
{
    // The right end of a domain as fingers slip on it.
    private static readonly Dictionary<string, string> EndingSlips = new(StringComparer.Ordinal)
    {
        ["con"] = "com",
        ["cmo"] = "com",
        ["ocm"] = "com",
        ["vom"] = "com",
        ["xom"] = "com",
        ["comm"] = "com",
        ["ogr"] = "org",
        ["rog"] = "org",
        ["orgg"] = "org",
        ["nte"] = "net",
        ["ent"] = "net",
        ["nett"] = "net",
        ["deu"] = "de",
        ["dee"] = "de",
        ["exmaple"] = "example",
        ["exampel"] = "example",
        ["eaxmple"] = "example",
    };

    private readonly Dictionary<string, int> _counts;
    private readonly Dictionary<string, List<AddressNote>> _advice = new(StringComparer.Ordinal);
    private readonly Dictionary<string, string> _looks = new(StringComparer.Ordinal);

    /// <summary>Takes domains in lower case and Unicode form, each with how many people are at it.</summary>
    public DomainsInUse(IEnumerable<KeyValuePair<string, int>> domains)
    {
        _counts = new Dictionary<string, int>(domains, StringComparer.Ordinal);
        foreach (var (domain, _) in _counts.OrderBy(d => d.Value))
            _looks[LookOf(domain)] = domain;
    }

    /// <summary>Counts a domain as in use from now on, as when many in one list are at it.</summary>
    /// <param name="domain">In lower case and Unicode form.</param>
    public void Learn(string domain)
    {
        if (!_counts.TryAdd(domain, 1))
            return;
        _looks.TryAdd(LookOf(domain), domain);
        _advice.Clear();
    }

    /// <summary>What an unreadable or unlikely address was probably meant to be; null when nothing is likely.</summary>
    /// <param name="written">The address as written, readable or not.</param>
    public string? Suggest(string? written)
    {
        var text = (written ?? "").Trim();
        if (text.Length is 0 or > EmailAddress.LongestAddress)
            return null;
        foreach (var candidate in Candidates(text))
        {
            if (
                candidate != text
                && EmailAddress.Read(candidate).Try(out var address, out _)
                && !IsUnlikely(address)
            )
                return address.ToString();
        }
        return null;
    }

    /// <summary>What is odd about a readable address: a likely slip, mixed alphabets, a domain that looks like a known one.</summary>
    public IReadOnlyList<AddressNote> Notes(EmailAddress address)
    {
        if (_counts.ContainsKey(address.Domain))
            return [];
        // Everything odd is in the domain, and many in a list are at the same one.
        if (!_advice.TryGetValue(address.Domain, out var advice))
            _advice[address.Domain] = advice = AdviceOn(address.Domain);
        return
        [
            .. advice.Select(note =>
                note with
                {
                    Suggestion = note.Suggestion is null ? null : $"{address.LocalPart}@{note.Suggestion}",
                }
            ),
        ];
    }

    private List<AddressNote> AdviceOn(string domain)
    {
        var notes = new List<AddressNote>();
        if (domain.Split('.').FirstOrDefault(Scripts.AreMixed) is { } mixed)
            notes.Add(
                new AddressNote(
                    "address.mixed-script",
                    $"The domain part \"{mixed}\" mixes letters of several alphabets, which is how look-alike addresses are made."
                )
            );
        if (_looks.TryGetValue(LookOf(domain), out var known))
            notes.Add(
                new AddressNote(
                    "address.look-alike",
                    $"{domain} looks like {known}, which is in use here, and is another domain.",
                    known
                )
            );
        else if (Suggest("a@" + domain)?["a@".Length..] is { } likely)
            notes.Add(new AddressNote("address.slip", $"Was {likely} meant in place of {domain}?", likely));
        return notes;
    }

    private bool IsUnlikely(EmailAddress address) =>
        !_counts.ContainsKey(address.Domain) && EndingSlips.ContainsKey(address.Domain.Split('.')[^1]);

    private IEnumerable<string> Candidates(string text)
    {
        var mended = Mend(text);
        yield return mended;
        var at = mended.LastIndexOf('@');
        if (at < 0 && _counts.Keys.FirstOrDefault(known => IsJoinedTo(mended, known)) is { } joinedTo)
            yield return mended[..^joinedTo.Length] + "@" + joinedTo;
        if (at <= 0 || at == mended.Length - 1)
            yield break;
        var (local, domain) = (mended[..at], mended[(at + 1)..].ToLowerInvariant());
        if (_counts.ContainsKey(domain))
            yield break;
        if (Nearest(domain) is { } near)
            yield return local + "@" + near;
        var labels = domain.Split('.');
        if (EndingSlips.TryGetValue(labels[^1], out var ending))
            yield return local + "@" + string.Join('.', [.. labels[..^1], ending]);
        if (Nearest(domain.Replace(".", "", StringComparison.Ordinal), withoutDots: true) is { } joined)
            yield return local + "@" + joined;
    }

    /// <summary>Whether the @ before a known domain was left out.</summary>
    private static bool IsJoinedTo(string text, string domain) =>
        text.Length > domain.Length && text.EndsWith(domain, StringComparison.OrdinalIgnoreCase);

    /// <summary>Slips that no address can hold: doubled dots and signs, a comma for a dot, blanks inside, another sign for the @.</summary>
    private static string Mend(string text)
    {
        var mended = text.Replace(" at ", "@", StringComparison.OrdinalIgnoreCase)
            .Replace(" dot ", ".", StringComparison.OrdinalIgnoreCase)
            .Replace(" ", "", StringComparison.Ordinal)
            .Replace(',', '.')
            .Replace("(at)", "@", StringComparison.OrdinalIgnoreCase)
            .Replace("[at]", "@", StringComparison.OrdinalIgnoreCase)
            .Replace('＠', '@')
            .Replace("(dot)", ".", StringComparison.OrdinalIgnoreCase)
            .Replace("[dot]", ".", StringComparison.OrdinalIgnoreCase);
        foreach (var twice in (string[])["..", "@@", "@.", ".@"])
        {
            while (mended.Contains(twice, StringComparison.Ordinal))
                mended = mended.Replace(
                    twice,
                    twice.Contains('@', StringComparison.Ordinal) ? "@" : ".",
                    StringComparison.Ordinal
                );
        }
        return mended.Trim('.');
    }

    private string? Nearest(string domain, bool withoutDots = false)
    {
        string? best = null;
        var (bestDistance, bestCount) = (int.MaxValue, 0);
        foreach (var (known, count) in _counts)
        {
            var distance = withoutDots
                ? (known.Replace(".", "", StringComparison.Ordinal) == domain ? 0 : int.MaxValue)
                : Likeness.Distance(domain, known, known.Length >= 12 ? 2 : 1);
            if (
                distance == int.MaxValue
                || distance > bestDistance
                || distance == bestDistance && count <= bestCount
            )
                continue;
            (best, bestDistance, bestCount) = (known, distance, count);
        }
        return best;
    }

    /// <summary>What a domain looks like at a glance (in the spirit of Unicode TS 39, section 4).</summary>
    private static string LookOf(string domain)
    {
        var look = new StringBuilder();
        foreach (var rune in domain.EnumerateRunes())
            look.Append(Scripts.LooksLike(rune));
        return look.Replace("rn", "m").Replace("vv", "w").Replace("cl", "d").Replace("-", "").ToString();
    }
}
