using System.Buffers;
using System.Collections.Frozen;

namespace ComeAboard.Core.Matching;

/// <summary>Reads records into pieces, once for each record.</summary>
internal sealed class PieceReader(Vocabularies words)
{
    private const int MostTokens = 8;
    private const int MostInitials = 10;

    private static readonly FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> LegalForms = NameWords.Set(
        "gmbh ag kg kgaa ohg gbr ug mbh ev co ltd limited llc llp inc incorporated corp corporation company plc sa sas sarl sasu eurl bv nv vof ab as asa aps oy oyj hb kb spa srl snc sl slu lda sp zoo zo.o ooo zao oao pao ltda pty the and und et y & stiftung foundation"
    );

    private static readonly FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> Roles = NameWords.Set(
        "info office kontakt contact mail post sales hello admin service support team hr verwaltung buero booking press presse accounts billing noreply"
    );

    /// <summary>Reads one record.</summary>
    /// <param name="record">The record.</param>
    /// <param name="more">Where further addresses are added.</param>
    public Pieces Read(MatchRecord record, List<int> more)
    {
        var pieces = Pieces.Empty;
        if (!ReadParts(record, ref pieces))
            ReadName(record.Name, ref pieces);
        ReadAddresses(record, ref pieces, more);
        pieces.Organisation = ReadOrganisation(record.Organisation);
        pieces.Title = ReadWords(record.Title, words.Titles, NameWords.Particles);
        pieces.Phone = ReadPhone(record.Phone);
        if (!string.IsNullOrWhiteSpace(record.ExternalId))
        {
            pieces.Outside = words.Outsides.Of(record.ExternalId.AsSpan().Trim());
            pieces.Source = words.Sources.Of(record.Source is { Length: > 0 } source ? source : "?");
        }
        pieces.Roof = words.Roofs.Of(record.Roof);
        return pieces;
    }

    private bool ReadParts(MatchRecord record, ref Pieces pieces)
    {
        if (string.IsNullOrWhiteSpace(record.FamilyName))
            return false;
        Span<int> tokens = stackalloc int[MostTokens];
        Span<char> letters = stackalloc char[MostTokens];
        var count = Tokens(record.FamilyName, tokens, letters, out _, beginsGiven: false);
        if (count > 0)
            (pieces.Family, pieces.Second) = (tokens[0], count > 1 ? tokens[1] : -1);
        count = Tokens(record.GivenName, tokens, letters, out _);
        PutGiven(tokens[..count], letters, ref pieces);
        return pieces.Family >= 0;
    }

    private void ReadName(string? name, ref Pieces pieces)
    {
        Span<int> tokens = stackalloc int[MostTokens];
        Span<char> letters = stackalloc char[MostTokens];
        var count = Tokens(name, tokens, letters, out var comma);
        if (count == 0)
            return;
        if (comma > 0 && comma < count)
        {
            (pieces.Family, pieces.Second) = (tokens[0], comma > 1 ? tokens[1] : -1);
            PutGiven(tokens[comma..count], letters[comma..], ref pieces);
        }
        else
        {
            pieces.Family = tokens[count - 1];
            PutGiven(tokens[..(count - 1)], letters, ref pieces);
            // "José García López": what stands between may be a family name, too.
            if (pieces.Middle >= 0)
                pieces.Second = pieces.Middle;
        }
    }

    private void PutGiven(ReadOnlySpan<int> tokens, ReadOnlySpan<char> letters, ref Pieces pieces)
    {
        if (tokens.Length == 0)
            return;
        (pieces.Given, pieces.GivenLetter) = (tokens[0], letters[0]);
        if (tokens.Length > 1)
            (pieces.Middle, pieces.MiddleLetter) = (tokens[1], letters[1]);
    }

    /// <summary>The names in a text, without titles and particles; of an initial the letter only.</summary>
    private int Tokens(
        string? text,
        Span<int> tokens,
        Span<char> letters,
        out int comma,
        bool beginsGiven = true
    )
    {
        (comma, var count) = (0, 0);
        if (string.IsNullOrWhiteSpace(text))
            return 0;
        var whole = text.AsSpan();
        Span<char> folded = stackalloc char[120];
        var begin = 0;
        // Where a given name begins, "Ben" and "Al" are names; "van" and "de" stay what they are, written small.
        var isSmall = !whole.ContainsAnyInRange('A', 'Z');
        var isGiven = beginsGiven && !whole.Contains(',');
        for (var i = 0; i <= whole.Length && count < MostTokens; i++)
        {
            if (i < whole.Length && !IsBreak(whole[i]))
                continue;
            var word = whole[begin..i];
            begin = i + 1;
            if (word.Length > 0)
            {
                var length = Folding.Fold(word.Length > 24 ? word[..24] : word, folded);
                var name = folded[..length];
                var isParticle =
                    NameWords.IsParticle(name) && !(isGiven && (isSmall || !char.IsLower(word[0])));
                if (length > 0 && !NameWords.IsTitle(name) && !isParticle)
                {
                    isGiven = false;
                    tokens[count] = length == 1 ? -1 : words.Names.Of(name);
                    letters[count++] = name[0];
                }
            }
            if (i < whole.Length && whole[i] == ',' && comma == 0)
                (comma, isGiven) = (count, beginsGiven);
        }
        // An initial at the end is no family name.
        while (comma == 0 && count > 1 && tokens[count - 1] < 0)
            count--;
        return count;

        static bool IsBreak(char letter) =>
            letter is ' ' or '\t' or '-' or '‐' or '.' or ',' or '\u00A0' or '(' or ')' or '"' or '/';
    }

    private void ReadAddresses(MatchRecord record, ref Pieces pieces, List<int> more)
    {
        if (record.Address is { Length: > 0 } main)
            pieces.Address = ReadAddress(main.AsSpan().Trim(), ref pieces, isMain: true);
        pieces.More = more.Count;
        if (string.IsNullOrWhiteSpace(record.OtherAddresses))
            return;
        var all = record.OtherAddresses.AsSpan();
        foreach (var range in all.SplitAny(',', ';', ' ', '|', '\n'))
        {
            var one = all[range].Trim();
            if (one.Length == 0)
                continue;
            var id = ReadAddress(one, ref pieces, isMain: pieces.Address < 0);
            if (pieces.Address < 0)
                pieces.Address = id;
            else if (id >= 0 && id != pieces.Address)
                more.Add(id);
        }
        pieces.MoreCount = more.Count - pieces.More;
    }

    /// <summary>The key of an address: lower case, without sub-addressing; of the main one also what is in it.</summary>
    private int ReadAddress(ReadOnlySpan<char> text, ref Pieces pieces, bool isMain)
    {
        var at = text.LastIndexOf('@');
        if (at <= 0 || at == text.Length - 1 || text.Length > 320)
            return -1;
        Span<char> key = stackalloc char[text.Length];
        var plus = text[..at].IndexOf('+');
        var local = plus > 0 ? text[..plus] : text[..at];
        var length = local.ToLowerInvariant(key);
        var localKey = key[..length];
        key[length] = '@';
        length += 1 + text[(at + 1)..].ToLowerInvariant(key[(length + 1)..]);
        var domain = key[(localKey.Length + 1)..length];
        if (isMain)
        {
            pieces.Firm = words.Domains.Of(domain);
            ReadLocal(localKey, ref pieces);
        }
        return words.Addresses.Of(key[..length]);
    }

    private static readonly SearchValues<char> Separators = SearchValues.Create("._-");

    private void ReadLocal(ReadOnlySpan<char> local, ref Pieces pieces)
    {
        Span<char> folded = stackalloc char[330];
        Span<char> joined = stackalloc char[330];
        var (total, named) = (0, 0);
        var rest = local;
        while (rest.Length > 0)
        {
            var end = rest.IndexOfAny(Separators);
            var word = (end < 0 ? rest : rest[..end]).TrimEnd("0123456789");
            rest = end < 0 ? [] : rest[(end + 1)..];
            var length = Folding.Fold(word.Length > 64 ? word[..64] : word, folded);
            if (length == 0)
                continue;
            folded[..length].CopyTo(joined[total..]);
            total += length;
            if (length == 1)
                continue;
            var name = words.Names.Of(folded[..length]);
            if (name != pieces.Given && NameWords.IsParticle(folded[..length]))
                continue;
            if (named == 0)
                pieces.LocalOne = name;
            else if (named == 1)
                pieces.LocalTwo = name;
            named++;
        }
        if (total < 4 || Roles.Contains(joined[..total]))
        {
            (pieces.LocalOne, pieces.LocalTwo) = (-1, -1);
            return;
        }
        pieces.Local = words.Locals.Of(joined[..total]);
        pieces.IsLocalBuilt =
            pieces.Family >= 0 && (IsOwn(pieces.LocalOne, pieces) || IsOwn(pieces.LocalTwo, pieces));
    }

    private static bool IsOwn(int name, in Pieces pieces) =>
        name >= 0 && (name == pieces.Family || name == pieces.Given || name == pieces.Second);

    private static int ReadWords(
        string? text,
        Numbers numbers,
        FrozenSet<string>.AlternateLookup<ReadOnlySpan<char>> without
    )
    {
        if (string.IsNullOrWhiteSpace(text))
            return -1;
        var whole = text.AsSpan();
        Span<char> folded = stackalloc char[320];
        Span<char> joined = stackalloc char[320];
        var total = 0;
        foreach (var range in whole.SplitAny(' ', '\t', ',', '.', '-', '/', '(', ')', '&'))
        {
            var word = whole[range];
            var length = Folding.Fold(word.Length > 60 ? word[..60] : word, folded);
            if (length == 0 || without.Contains(folded[..length]) || total + length > joined.Length)
                continue;
            folded[..length].CopyTo(joined[total..]);
            total += length;
        }
        return numbers.Of(joined[..total]);
    }

    /// <summary>The number of an organisation, whose words are written out; what its first letters spell is kept beside it.</summary>
    private int ReadOrganisation(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return -1;
        Span<char> spelled = stackalloc char[320];
        var whole = text.Contains('.') ? spelled[..Spell(text, spelled)] : text.AsSpan();
        Span<char> folded = stackalloc char[320];
        Span<char> joined = stackalloc char[320];
        Span<char> initials = stackalloc char[MostInitials];
        var (total, letters) = (0, 0);
        foreach (
            var range in ((ReadOnlySpan<char>)whole).SplitAny(' ', '\t', ',', '.', '-', '/', '(', ')', '&')
        )
        {
            var word = whole[range];
            var length = Folding.Fold(word.Length > 60 ? word[..60] : word, folded);
            if (length == 0 || LegalForms.Contains(folded[..length]))
                continue;
            var name = OrganisationWords.WholeOf(folded[..length]);
            if (total + name.Length > joined.Length)
                continue;
            name.CopyTo(joined[total..]);
            total += name.Length;
            if (letters < MostInitials && !OrganisationWords.IsSmall(folded[..length]))
                initials[letters++] = name[0];
        }
        var number = words.Organisations.Of(joined[..total]);
        if (letters > 1 && letters < total && !words.Initials.ContainsKey(number))
            words.Initials[number] = (words.Organisations.Of(initials[..letters]), letters);
        return number;
    }

    /// <summary>Letters with dots between them as one word: "S.p.A." as "SpA".</summary>
    private static int Spell(ReadOnlySpan<char> text, Span<char> into)
    {
        var length = 0;
        for (var i = 0; i < text.Length && length < into.Length; i++)
            if (
                text[i] != '.'
                || i == 0
                || !char.IsLetter(text[i - 1])
                || i > 1 && char.IsLetter(text[i - 2])
            )
                into[length++] = text[i];
        return length;
    }

    private int ReadPhone(string? text)
    {
        if (string.IsNullOrWhiteSpace(text))
            return -1;
        // The last nine digits: with or without the country's number, and whatever stands for a trunk.
        Span<char> digits = stackalloc char[9];
        var count = 0;
        for (var i = text.Length - 1; i >= 0 && count < 9; i--)
            if (char.IsAsciiDigit(text[i]))
                digits[8 - count++] = text[i];
        return count < 6 ? -1 : words.Phones.Of(digits[(9 - count)..]);
    }
}
