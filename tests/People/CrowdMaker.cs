using System.Globalization;
using System.Text;
using ComeAboard.Core.Matching;

namespace ComeAboard.People;

/// <summary>Makes crowds: names by how common they are, firms, families, and second records that differ in one thing or two.</summary>
internal sealed class CrowdMaker
{
    private const double ShareTwice = 0.33;
    private const double ShareTwoChanges = 0.3;
    private const double ShareRelatives = 0.05;

    private static readonly (string Full, string Short)[] Given =
    [
        ("Alexander", "Sasha"),
        ("Katharina", "Käthe"),
        ("William", "Bill"),
        ("Robert", "Bob"),
        ("Elizabeth", "Liz"),
        ("Margarete", "Grete"),
        ("Johannes", "Hannes"),
        ("Francisco", "Paco"),
        ("José", "Pepe"),
        ("Giuseppe", "Beppe"),
        ("Małgorzata", "Gosia"),
        ("Stanisław", "Staszek"),
        ("Dmitry", "Dima"),
        ("Ekaterina", "Katya"),
        ("Wilhelm", "Willi"),
        ("Catherine", "Kate"),
        ("Michael", "Mike"),
        ("Richard", "Dick"),
        ("Edward", "Ted"),
        ("Margaret", "Peggy"),
        ("Friedrich", "Fritz"),
        ("Heinrich", "Heinz"),
        ("Joachim", "Jochen"),
        ("Susanne", "Susi"),
        ("Ulrike", "Uli"),
        ("Guillermo", "Memo"),
        ("Ignacio", "Nacho"),
        ("Antonio", "Toño"),
        ("Giovanni", "Gianni"),
        ("Lorenzo", "Renzo"),
        ("Joaquim", "Quim"),
        ("Fernando", "Nando"),
        ("Hendrik", "Henk"),
        ("Johanna", "Hanneke"),
        ("Theodorus", "Theo"),
        ("Lars", "Lasse"),
        ("Margareta", "Greta"),
        ("Kristina", "Stina"),
        ("Katarzyna", "Kasia"),
        ("Tomasz", "Tomek"),
        ("Mikhail", "Misha"),
        ("Vladimir", "Volodya"),
        ("Natalia", "Natasha"),
        ("Thomas", "Tom"),
        ("Nicholas", "Nick"),
        ("Jennifer", "Jenny"),
        ("Christopher", "Chris"),
        ("Anthony", "Tony"),
        ("Patricia", "Trish"),
        ("Benjamin", "Ben"),
        ("Søren", ""),
        ("Björn", ""),
        ("Åsa", ""),
        ("Jürgen", ""),
        ("François", ""),
        ("Zoë", ""),
        ("Łukasz", ""),
        ("Iñigo", ""),
        ("Oona", ""),
        ("Kofi", ""),
        ("Mira", ""),
        ("Teodor", ""),
        ("Ilse", ""),
        ("Sunniva", ""),
        ("Rafael", "Rafa"),
        ("Nuno", ""),
        ("Ebba", ""),
        ("Wren", ""),
        ("Ines", ""),
        ("Paul", ""),
        ("Wilma", ""),
        ("Benedikt", ""),
        ("Nomi", ""),
        ("Selma", ""),
        ("Arne", ""),
        ("Livia", ""),
        ("Marek", ""),
        ("Tamsin", ""),
        ("Gideon", ""),
        ("Yara", ""),
        ("Caspar", ""),
        ("Delphine", ""),
        ("Emil", ""),
        ("Freya", ""),
        ("Hugo", ""),
        ("Ismene", ""),
        ("Joris", ""),
        ("Kerstin", ""),
        ("Lorcan", ""),
        ("Maeve", ""),
        ("Noor", ""),
        ("Odile", ""),
        ("Piers", ""),
        ("Quentin", ""),
        ("Rosalind", ""),
        ("Sigurd", ""),
        ("Tove", ""),
        ("Una", ""),
        ("Vesna", ""),
        ("Walter", "Walt"),
        ("Xenia", ""),
        ("Yorick", ""),
        ("Zdenka", ""),
        ("Anselm", ""),
        ("Bruna", ""),
        ("Cormac", ""),
        ("Dorothea", "Thea"),
        ("Enrico", "Rico"),
        ("Fausta", ""),
        ("Gerda", ""),
        ("Hilde", ""),
        ("Ivo", ""),
        ("Jolanda", ""),
        ("Klara", ""),
    ];

    private static readonly string[] Beginnings =
        "Brand Lind Holm Kvist Möll Grön Groß Wald Peñ Tide Quay Loom Hale Dark Fair Storm Anker Segel Hafen Küst Strand Dün Wind Regen Nebel Salz Berg Thal Feld Bach Stein Eich Birk Erl Tann Ficht Rot Weiß Schwarz Blau Gold Silber Kupfer Eisen Zinn Kar Mor Pel Tol Var Zab Dob Gor Jas Kow Lew Maz Now Ost Pie Rad Sob Tre Woj Zel Ard Bel Cor Dur Fer Gal Mar Nav Pal Riv Sal Ter Val Ash Black Cart Dray Ever Flint Green Hart Ivy Kings Long Marsh North Oak Pend Rook South Thorn Under Wake Yar".Split(
            ' '
        );

    private static readonly string[] Endings =
        "berg ström mann sen ski er hart well ford ley water weather by wick stead gard dal vik holt rup mark son ez ini elli ard eau ier ova ic escu aker huis veld broek horst kamp feldt hauer meier richter".Split(
            ' '
        );

    private static readonly string[] Trades =
        "Rope Sail Harbour Museum Film Lantern Timber Anchor Compass Chart Deck Keel Tide Pilot Salvage Varnish Brass Canvas Ferry Dock".Split(
            ' '
        );

    private static readonly string[] Sorts =
        "Works Studio House Partners Trust Archive Makers Society College Guild".Split(' ');

    private static readonly string[] Forms = ["GmbH", "Ltd", "S.A.", "AB", "B.V.", "Sp. z o.o.", "Inc.", ""];

    private static readonly string[] Jobs =
        "Conservator;Curator;Rigger;Director;Producer;Archivist;Sail maker;Bookkeeper;Photographer;Researcher;Pilot;Registrar".Split(
            ';'
        );

    private static readonly string[] Public = ["mailhaven.example", "postbox.example", "letterbox.example"];

    private readonly Random _random;
    private readonly int _count;
    private readonly double[] _given;
    private readonly double[] _family;
    private readonly string[] _families;
    private readonly (string Name, string Domain, string OtherDomain)[] _firms;

    public CrowdMaker(Random random, int count)
    {
        (_random, _count) = (random, count);
        _families =
        [
            .. Beginnings
                .SelectMany(begin => Endings.Select(end => begin + end))
                .OrderBy(_ => random.Next())
                .SelectMany(name => new[] { name, name + "s" })
                .Take(Math.Clamp(count / 2, 400, 6_000)),
        ];
        (_given, _family) = (Steps(Given.Length, 0.7), Steps(_families.Length, 0.75));
        _firms =
        [
            .. Enumerable
                .Range(0, Math.Max(20, count / 12))
                .Select(n =>
                {
                    var name = $"{Pick(Beginnings)}{Pick(Endings)} {Pick(Trades)} {Pick(Sorts)}";
                    var domain = Plain(name).Replace(' ', '-') + n;
                    return ($"{name} {Pick(Forms)}".Trim(), domain + ".example", domain + "-group.example");
                }),
        ];
    }

    private sealed record Person(
        string Given,
        string Short,
        string Middle,
        string Family,
        int Firm,
        string Job,
        string Phone,
        string Id
    );

    public Crowd Make()
    {
        var made = new List<(MatchRecord Record, int Person)>();
        var changes = new Dictionary<int, IReadOnlyList<Change>>();
        Person? before = null;
        for (var number = 0; made.Count < _count; number++)
        {
            var person = Somebody();
            // Brothers and sisters, and whoever has a name and a firm in common by chance.
            if (
                before is not null
                && before.Given[..2] != person.Given[..2]
                && _random.NextDouble() < ShareRelatives
            )
                person = person with { Family = before.Family, Firm = before.Firm, Phone = before.Phone };
            before = person;
            made.Add((First(person), number));
            if (made.Count == _count || _random.NextDouble() >= ShareTwice)
                continue;
            var kinds = new List<Change> { AnyOf(person) };
            if (_random.NextDouble() < ShareTwoChanges && AnyOf(person) is var second && second != kinds[0])
                kinds.Add(second);
            changes[number] = kinds;
            made.Add((Second(person, kinds, made[^1].Record), number));
        }
        var shuffled = made.OrderBy(_ => _random.Next()).ToList();
        var places = shuffled
            .Select((one, place) => (one.Person, place))
            .GroupBy(one => one.Person)
            .Where(places => places.Count() == 2)
            .ToDictionary(
                places => (places.Min(one => one.place), places.Max(one => one.place)),
                places => changes[places.Key]
            );
        return new Crowd([.. shuffled.Select(one => one.Record)], places);
    }

    private Change AnyOf(Person person)
    {
        while (true)
        {
            var change = (Change)_random.Next((int)Change.OtherDomain + 1);
            var isPossible = change switch
            {
                Change.ShortForm => person.Short.Length > 0,
                Change.Marks => !Plain(person.Given + person.Family)
                    .Equals(person.Given + person.Family, StringComparison.OrdinalIgnoreCase),
                Change.Middle => person.Middle.Length > 0,
                _ => true,
            };
            if (isPossible)
                return change;
        }
    }

    private Person Somebody()
    {
        var (full, shorter) = Given[At(_given)];
        return new Person(
            full,
            shorter,
            _random.NextDouble() < 0.25 ? Given[At(_given)].Full : "",
            _families[At(_family)],
            _random.Next(_firms.Length),
            Pick(Jobs),
            $"+44 20 {_random.Next(1000, 9999)} {_random.Next(1000, 9999)}",
            $"P{_random.Next(10_000_000)}"
        );
    }

    private MatchRecord First(Person person) =>
        Written(
            person.Middle.Length > 0 ? $"{person.Given} {person.Middle}" : person.Given,
            person.Family,
            AddressOf(person.Given, person.Family, _firms[person.Firm].Domain),
            _random.NextDouble() < 0.7 ? _firms[person.Firm].Name : null,
            person
        );

    private MatchRecord Second(Person person, IReadOnlyList<Change> kinds, MatchRecord first)
    {
        var (given, family) = (person.Given, person.Family);
        var (domain, firm) = (_firms[person.Firm].Domain, _firms[person.Firm].Name);
        string? organisation = _random.NextDouble() < 0.7 ? firm : null;
        var isSwapped = false;
        // Whoever is written down once more often has the address they had, or it is known beside the new one.
        var (sameAddress, otherAddress) = (_random.NextDouble() < 0.4, _random.NextDouble() < 0.3);
        foreach (var kind in kinds)
            switch (kind)
            {
                case Change.OtherStyle:
                    sameAddress = false;
                    break;
                case Change.PrivateAddress:
                    // Where nothing tells whose it is, the company's address is known beside it.
                    (domain, sameAddress) = (Pick(Public), false);
                    otherAddress |= organisation is null;
                    break;
                case Change.ShortForm:
                    given = person.Short;
                    break;
                case Change.FamilySlip:
                    family = Slip(family);
                    break;
                case Change.GivenSlip:
                    given = Slip(given);
                    break;
                case Change.Marks:
                    (given, family) = (Unmarked(given), Unmarked(family));
                    break;
                case Change.NewFamily:
                    family = _families[At(_family)];
                    // The address from before goes on being known.
                    otherAddress = true;
                    break;
                case Change.DoubleFamily:
                    family =
                        _random.Next(2) == 0
                            ? $"{family}-{_families[At(_family)]}"
                            : $"{_families[At(_family)]}-{family}";
                    break;
                case Change.Order:
                    isSwapped = true;
                    break;
                case Change.Initial:
                    given = given[..1] + ".";
                    break;
                case Change.Middle:
                    given = _random.Next(2) == 0 ? $"{given} {person.Middle}" : person.Middle;
                    break;
                case Change.OtherDomain:
                    (domain, sameAddress) = (_firms[person.Firm].OtherDomain, false);
                    organisation = firm;
                    break;
            }
        var address = sameAddress ? first.Address! : AddressOf(person.Given, family, domain);
        if (isSwapped)
            (given, family) = _random.Next(2) == 0 ? (family, given) : (given, family + ",");
        var second = Written(given, family, address, organisation, person);
        return otherAddress && !sameAddress ? second with { OtherAddresses = first.Address } : second;
    }

    private MatchRecord Written(
        string given,
        string family,
        string address,
        string? organisation,
        Person person
    )
    {
        var record = new MatchRecord(
            Address: address,
            Organisation: organisation,
            Title: _random.NextDouble() < 0.4 ? person.Job : null,
            ExternalId: _random.NextDouble() < 0.1 ? person.Id : null,
            Phone: _random.NextDouble() < 0.25 ? person.Phone : null
        );
        return family.EndsWith(',') ? record with { Name = $"{family} {given}" }
            : _random.Next(2) == 0 ? record with { Name = $"{given} {family}" }
            : record with { GivenName = given, FamilyName = family };
    }

    private string AddressOf(string given, string family, string domain)
    {
        var (g, f) = (Plain(given), Plain(family.Split('-')[0]));
        var local = _random.Next(8) switch
        {
            0 or 1 or 2 => $"{g}.{f}",
            3 => $"{g[0]}.{f}",
            4 => $"{g[0]}{f}",
            5 => $"{f}.{g}",
            6 => $"{f}{g[0]}",
            _ => $"{g}{_random.Next(10, 99)}",
        };
        return $"{local}@{domain}";
    }

    private string Slip(string name)
    {
        if (name.Length < 4)
            return name;
        var at = _random.Next(1, name.Length - 1);
        return _random.Next(4) switch
        {
            0 => name.Remove(at, 1),
            1 => name.Insert(at, ((char)('a' + _random.Next(26))).ToString()),
            2 => name[..at] + (char)('a' + _random.Next(26)) + name[(at + 1)..],
            _ => name[..at] + name[at + 1] + name[at] + name[(at + 2)..],
        };
    }

    private string Unmarked(string name)
    {
        var isWritten = _random.Next(2) == 0;
        var built = new StringBuilder();
        foreach (var letter in name)
            built.Append(
                letter switch
                {
                    'ö' or 'ø' => isWritten ? "oe" : "o",
                    'ü' => isWritten ? "ue" : "u",
                    'ä' => isWritten ? "ae" : "a",
                    'å' => isWritten ? "aa" : "a",
                    'Å' => isWritten ? "Aa" : "A",
                    'ß' => "ss",
                    'ł' => "l",
                    'Ł' => "L",
                    _ => letter.ToString().Normalize(NormalizationForm.FormD)[..1],
                }
            );
        return built.ToString();
    }

    private static string Plain(string text)
    {
        var built = new StringBuilder();
        foreach (
            var letter in text.Replace("ß", "ss")
                .Replace("ø", "oe")
                .Replace("ł", "l")
                .Replace("Ł", "l")
                .Normalize(NormalizationForm.FormD)
        )
            if (CharUnicodeInfo.GetUnicodeCategory(letter) != UnicodeCategory.NonSpacingMark)
                built.Append(char.ToLowerInvariant(letter));
        return built.ToString();
    }

    private T Pick<T>(IReadOnlyList<T> all) => all[_random.Next(all.Count)];

    /// <summary>One of many by how common each is.</summary>
    private int At(double[] steps)
    {
        var found = Array.BinarySearch(steps, _random.NextDouble() * steps[^1]);
        return Math.Min(found < 0 ? ~found : found, steps.Length - 1);
    }

    private static double[] Steps(int count, double slope)
    {
        var (steps, sum) = (new double[count], 0.0);
        for (var i = 0; i < count; i++)
            steps[i] = sum += Math.Pow(i + 3, -slope);
        return steps;
    }
}
