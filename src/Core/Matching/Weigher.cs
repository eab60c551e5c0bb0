namespace ComeAboard.Core.Matching;

/// <summary>
/// Weighs what two records agree in and contradict one another in, after Fellegi and Sunter (1969): each piece tells the
/// logarithm of m/u, where u is how often two records of different people agree in it. That is taken from the data at hand, value
/// by value (Winkler 1990): a rare name that agrees tells more than a common one. m is how often records of one human
/// do; those are the constants below. What is missing tells nothing.
/// </summary>
internal sealed class Weigher
{
    // A slip may be made in so many ways that so many names are near one.
    private const double NamesNear = 1.5;

    // How often two records of one human stand to one another in this way, in bits.
    private static readonly float GivenSame = Bits(0.65);
    private static readonly float GivenShort = Bits(0.12);
    private static readonly float GivenSlip = Bits(0.06 / NamesNear);
    private static readonly float GivenFurther = Bits(0.04);
    private static readonly float GivenInAddress = Bits(0.15);
    private static readonly float NameNear = Bits(0.02 / 3);
    private static readonly float GivenSwapped = Bits(0.04);
    private static readonly float GivenDiffer = Bits(0.03);
    private static readonly float FamilySame = Bits(0.70);
    private static readonly float FamilyFurther = Bits(0.08);
    private static readonly float FamilyInAddress = Bits(0.04);
    private static readonly float FamilySlip = Bits(0.07 / NamesNear);
    private static readonly float FamilySound = Bits(0.02 / (20 * UsualFamily));
    private static readonly float FamilyDiffer = Bits(0.07);
    private static readonly float FirmSame = Bits(0.60);
    private static readonly float HouseSame = Bits(0.05);
    private static readonly float FirmDiffer = Bits(0.35);
    private static readonly float AddressSame = Bits(0.50);
    private static readonly float LocalSame = Bits(0.20);
    private static readonly float PhoneSame = Bits(0.70);
    private static readonly float PhoneDiffer = Bits(0.50);
    private static readonly float TitleSame = Bits(0.60);
    private static readonly float TitleDiffer = Bits(0.80);
    private static readonly float OutsideSame = Bits(0.95);
    private static readonly float OutsideDiffer = Bits(0.0001);
    private static readonly float BothActive = Bits(0.05);

    private const int ShortestHouse = 4;

    // Names of relatives, and of colleagues of one nation, do not agree by chance alone.
    private const float MostOfRelatives = 3;

    // What few records tell about how common something is, is drawn towards this.
    private const double Believed = 2_000;
    private const double UsualGiven = 1.0 / 300;
    private const double UsualFamily = 1.0 / 4_000;
    private const double UsualFirm = 1.0 / 1_000;
    private const double UsualOther = 1.0 / 100_000;

    private readonly string[] _names;
    private readonly int[] _sounds;
    private readonly int[] _houses;
    private readonly Rarity _given;
    private readonly Rarity _family;
    private readonly Rarity _forms;
    private readonly Rarity _firm;
    private readonly Rarity _organisation;
    private readonly Abbreviations _abbreviations;
    private readonly Rarity _address;
    private readonly Rarity _local;
    private readonly Rarity _title;
    private readonly Rarity _phone;
    private readonly Rarity _outside;
    private readonly float[] _letter = new float[128];
    private readonly int[][] _families;
    private readonly Pieces[] _all;
    private readonly int[] _more;

    public Weigher(Pieces[] all, int[] more, Vocabularies words, string[] names, int firms)
    {
        (_all, _more, _names) = (all, more, names);
        _houses = HousesOf(words.Domains.Texts());
        _sounds = [.. names.Select(name => Folding.Sound(name))];
        _families = [.. names.Select(name => ShortForms.Of(name).ToArray())];
        var count = all.Length;
        _given = new Rarity(names.Length, count, UsualGiven);
        _family = new Rarity(names.Length, count, UsualFamily);
        _forms = new Rarity(ShortForms.Count, count, UsualGiven);
        _firm = new Rarity(firms, count, UsualFirm);
        _organisation = new Rarity(words.Organisations.Count, count, UsualFirm);
        _abbreviations = new Abbreviations(words);
        _address = new Rarity(words.Addresses.Count, count, UsualOther);
        _local = new Rarity(words.Locals.Count, count, UsualOther);
        _title = new Rarity(words.Titles.Count, count, 0.02);
        _phone = new Rarity(words.Phones.Count, count, UsualOther);
        _outside = new Rarity(words.Outsides.Count, count, UsualOther);
        var letters = new int[128];
        foreach (ref readonly var one in all.AsSpan())
        {
            _given.Count(one.Given);
            _family.Count(one.Family);
            if (one.Given >= 0)
                foreach (var family in _families[one.Given])
                    _forms.Count(family);
            _firm.Count(one.Firm);
            _organisation.Count(one.Organisation);
            _address.Count(one.Address);
            for (var i = one.More; i < one.More + one.MoreCount; i++)
                _address.Count(more[i]);
            _local.Count(one.Local);
            _title.Count(one.Title);
            _phone.Count(one.Phone);
            _outside.Count(one.Outside);
            if (one.GivenLetter < 128)
                letters[one.GivenLetter]++;
        }
        foreach (
            var rarity in new[]
            {
                _given,
                _family,
                _forms,
                _firm,
                _organisation,
                _address,
                _local,
                _title,
                _phone,
                _outside,
            }
        )
            rarity.Close();
        for (var letter = 0; letter < 128; letter++)
            _letter[letter] = (float)-Math.Log2((letters[letter] + 20) / (count + 20.0 * 18));
    }

    /// <summary>The short-form families of a name.</summary>
    public ReadOnlySpan<int> FormsOf(int name) => name < 0 ? [] : _families[name];

    /// <summary>How a family name sounds; -1 for none.</summary>
    public int SoundOf(int name) => name < 0 || _sounds[name] == 0 ? -1 : _sounds[name];

    public string NameOf(int name) => name < 0 ? "" : _names[name];

    /// <summary>How rare the family name of a record is here, in bits; 0 for none.</summary>
    public float RarityOf(int record) => _all[record].Family is var name and >= 0 ? _family[name] : 0;

    /// <summary>Weighs two records.</summary>
    /// <param name="left">The one.</param>
    /// <param name="right">The other.</param>
    /// <param name="isHurried">Whether to stop where it is clear already that they are two.</param>
    public Evidence Weigh(int left, int right, bool isHurried = false)
    {
        ref readonly var one = ref _all[left];
        ref readonly var other = ref _all[right];
        var evidence = new Evidence();
        WeighNames(one, other, ref evidence);
        // Where the given names contradict one another, only what is somebody's own still makes one of two.
        if (
            isHurried
            && evidence.DegreeOf(MatchPiece.Given) == MatchDegree.Differ
            && !ShareTheirOwn(one, other)
        )
        {
            evidence.Cap(MatchPiece.Family, MostOfRelatives);
            return evidence;
        }
        WeighPlaces(one, other, ref evidence);
        if (one.Outside >= 0 && other.Outside >= 0 && one.Source == other.Source)
            if (one.Outside == other.Outside)
                evidence.Put(MatchPiece.Outside, MatchDegree.Same, OutsideSame + _outside[one.Outside]);
            else
                evidence.Put(MatchPiece.Outside, MatchDegree.Differ, OutsideDiffer);
        if (one.Phone >= 0 && other.Phone >= 0)
            if (one.Phone == other.Phone)
                evidence.Put(MatchPiece.Phone, MatchDegree.Same, PhoneSame + _phone[one.Phone]);
            else
                evidence.Put(MatchPiece.Phone, MatchDegree.Differ, PhoneDiffer);
        if (one.Title >= 0 && other.Title >= 0)
            if (one.Title == other.Title)
                evidence.Put(
                    MatchPiece.Title,
                    MatchDegree.Same,
                    Math.Min(3, (TitleSame + _title[one.Title]) / 2)
                );
            else
                evidence.Put(MatchPiece.Title, MatchDegree.Differ, TitleDiffer);
        if (one.Roof >= 0 && one.Roof == other.Roof)
            evidence.Put(MatchPiece.Roof, MatchDegree.Differ, BothActive);
        // Independence fails among relatives and colleagues: where the given names contradict one another, the rest is that of a kin.
        if (evidence.DegreeOf(MatchPiece.Given) == MatchDegree.Differ)
        {
            evidence.Cap(MatchPiece.Family, MostOfRelatives);
            evidence.Cap(MatchPiece.Firm, MostOfRelatives);
            evidence.Cap(MatchPiece.Phone, 2 * MostOfRelatives);
        }
        return evidence;
    }

    private bool ShareTheirOwn(in Pieces one, in Pieces other) =>
        one.Phone >= 0 && one.Phone == other.Phone
        || one.Outside >= 0 && one.Outside == other.Outside
        || one.Local >= 0 && one.Local == other.Local
        || SharedAddress(one, other) >= 0;

    private void WeighNames(in Pieces one, in Pieces other, ref Evidence evidence)
    {
        WeighGiven(one, other, ref evidence);
        WeighFamily(one, other, ref evidence);
        if (
            evidence.DegreeOf(MatchPiece.Given)
                is not (MatchDegree.Differ or MatchDegree.InAddress or MatchDegree.Near)
            || evidence.DegreeOf(MatchPiece.Family) == MatchDegree.Same
            || other.Given < 0
            || one.Given < 0
            || other.Family < 0
            || one.Family < 0
        )
            return;
        // They may be swapped, and be something else besides; whichever of the two has them the wrong way round.
        if (Swapped(one, other) is not { } turned)
            return;
        if (Swapped(other, one) is { } back && back.Given + back.Family > turned.Given + turned.Family)
            turned = back;
        if (turned.Given + turned.Family <= evidence[MatchPiece.Given] + evidence[MatchPiece.Family])
            return;
        evidence.Put(MatchPiece.Given, MatchDegree.Swapped, turned.Given);
        evidence.Put(MatchPiece.Family, MatchDegree.Swapped, turned.Family);
    }

    /// <summary>What the names weigh where those of the other are swapped; null where they contradict one another even so.</summary>
    private (float Given, float Family)? Swapped(in Pieces one, in Pieces other)
    {
        var turned = other;
        (turned.Given, turned.Family, turned.GivenLetter) = (
            other.Family,
            other.Given,
            _names[other.Family][0]
        );
        (turned.Middle, turned.Second) = (-1, -1);
        var swapped = new Evidence();
        WeighGiven(one, turned, ref swapped);
        WeighFamily(one, turned, ref swapped);
        return
            swapped.DegreeOf(MatchPiece.Given) is MatchDegree.Differ or MatchDegree.Missing
            || swapped.DegreeOf(MatchPiece.Family) is MatchDegree.Differ or MatchDegree.Missing
            ? null
            : (swapped[MatchPiece.Given] + GivenSwapped, swapped[MatchPiece.Family]);
    }

    private void WeighGiven(in Pieces one, in Pieces other, ref Evidence evidence)
    {
        var (a, b) = (one.Given, other.Given);
        if (a < 0 || b < 0)
        {
            // A lone initial is a missing name, and how rare the letter is.
            if (one.GivenLetter == 0 || other.GivenLetter == 0)
                return;
            if (one.GivenLetter == other.GivenLetter)
                evidence.Put(MatchPiece.Given, MatchDegree.Initial, _letter[one.GivenLetter] - 0.3f);
            else if (one.GivenLetter == other.MiddleLetter || one.MiddleLetter == other.GivenLetter)
                evidence.Put(MatchPiece.Given, MatchDegree.Initial, 0);
            else
                evidence.Put(MatchPiece.Given, MatchDegree.Differ, GivenDiffer);
            return;
        }
        if (a == b)
            evidence.Put(MatchPiece.Given, MatchDegree.Same, GivenSame + _given[a]);
        else if (SharedForms(a, b) is { } rarity)
            evidence.Put(MatchPiece.Given, MatchDegree.ShortForm, GivenShort + rarity);
        else if (one.Middle >= 0 && one.Middle == b || other.Middle >= 0 && other.Middle == a)
            evidence.Put(
                MatchPiece.Given,
                MatchDegree.Further,
                GivenFurther
                    + Math.Max(
                        one.Middle == b ? _given[b] : float.MinValue,
                        other.Middle == a ? _given[a] : float.MinValue
                    )
            );
        else if (Folding.IsOneSlip(_names[a], _names[b]))
            evidence.Put(MatchPiece.Given, MatchDegree.Slip, GivenSlip + Math.Min(_given[a], _given[b]));
        else if (Folding.IsTwoSlips(_names[a], _names[b]))
            evidence.Put(MatchPiece.Given, MatchDegree.Near, NameNear + Math.Min(_given[a], _given[b]));
        else
            evidence.Put(MatchPiece.Given, MatchDegree.Differ, GivenDiffer);
        // Whoever is called Sasha and writes from alexander@ is an Alexander.
        var told = InAddress(_given, (a, one.Family), (b, other.Family), one, other);
        if (
            a != b
            && told >= 0
            && GivenInAddress + _given[told] is var bits
            && bits > evidence[MatchPiece.Given]
        )
            evidence.Put(MatchPiece.Given, MatchDegree.InAddress, bits);
    }

    private float? SharedForms(int a, int b)
    {
        var (left, right) = (_families[a], _families[b]);
        float? most = null;
        foreach (var family in left)
            if (Array.IndexOf(right, family) >= 0 && (most is null || _forms[family] > most))
                most = _forms[family];
        return most;
    }

    private void WeighFamily(in Pieces one, in Pieces other, ref Evidence evidence)
    {
        var (a, b) = (one.Family, other.Family);
        if (a < 0 || b < 0)
            return;
        if (a == b)
        {
            evidence.Put(MatchPiece.Family, MatchDegree.Same, FamilySame + _family[a]);
            return;
        }
        var further = Rarest(_family, a == other.Second ? a : -1, b == one.Second ? b : -1);
        if (further < 0 && one.Second >= 0 && one.Second == other.Second)
            further = one.Second;
        if (further >= 0)
        {
            evidence.Put(MatchPiece.Family, MatchDegree.Further, FamilyFurther + _family[further]);
            return;
        }
        var inAddress = InAddress(_family, (a, one.Given), (b, other.Given), one, other);
        if (inAddress >= 0)
            evidence.Put(MatchPiece.Family, MatchDegree.InAddress, FamilyInAddress + _family[inAddress]);
        else if (Folding.IsOneSlip(_names[a], _names[b]))
            evidence.Put(MatchPiece.Family, MatchDegree.Slip, FamilySlip + Math.Min(_family[a], _family[b]));
        else if (Folding.IsTwoSlips(_names[a], _names[b]))
            evidence.Put(MatchPiece.Family, MatchDegree.Near, NameNear + Math.Min(_family[a], _family[b]));
        else if (_sounds[a] == _sounds[b] && _sounds[a] > 99)
            evidence.Put(MatchPiece.Family, MatchDegree.Sound, FamilySound);
        else
            evidence.Put(MatchPiece.Family, MatchDegree.Differ, FamilyDiffer);
    }

    /// <summary>The rarer of two names, of which either may be missing.</summary>
    private static int Rarest(Rarity rarity, int one, int other) =>
        one < 0 ? other
        : other < 0 ? one
        : rarity[one] >= rarity[other] ? one
        : other;

    /// <summary>
    /// The name of the one that stands in the address of the other, and is not the other's in its other role; -1 for none.
    /// </summary>
    private static int InAddress(
        Rarity rarity,
        (int Name, int Role) own,
        (int Name, int Role) theirs,
        in Pieces one,
        in Pieces other
    ) =>
        Rarest(
            rarity,
            own.Name != theirs.Role && (own.Name == other.LocalOne || own.Name == other.LocalTwo)
                ? own.Name
                : -1,
            theirs.Name != own.Role && (theirs.Name == one.LocalOne || theirs.Name == one.LocalTwo)
                ? theirs.Name
                : -1
        );

    private void WeighPlaces(in Pieces one, in Pieces other, ref Evidence evidence)
    {
        // An address says where somebody belongs along with who they are: neither is counted beside it.
        if (SharedAddress(one, other) is var address and >= 0)
        {
            evidence.Put(MatchPiece.Address, MatchDegree.Same, AddressSame + _address[address]);
            return;
        }
        if (one.Firm >= 0 && other.Firm >= 0)
        {
            if (one.Firm == other.Firm)
                evidence.Put(MatchPiece.Firm, MatchDegree.Same, FirmSame + _firm[one.Firm]);
            else if (
                one.Firm < _houses.Length
                && other.Firm < _houses.Length
                && _houses[one.Firm] == _houses[other.Firm]
            )
                evidence.Put(
                    MatchPiece.Firm,
                    MatchDegree.Further,
                    HouseSame + Math.Min(_firm[one.Firm], _firm[other.Firm])
                );
            else if (one.Organisation >= 0 && one.Organisation == other.Organisation)
                evidence.Put(MatchPiece.Firm, MatchDegree.Same, FirmSame + _organisation[one.Organisation]);
            else if (_abbreviations.Weigh(one.Organisation, other.Organisation) is var bits and > 0)
                evidence.Put(MatchPiece.Firm, MatchDegree.ShortForm, bits);
            else
                evidence.Put(MatchPiece.Firm, MatchDegree.Differ, FirmDiffer);
        }
        if (one.Local >= 0 && one.Local == other.Local)
            evidence.Put(
                MatchPiece.Local,
                MatchDegree.Same,
                one.IsLocalBuilt && other.IsLocalBuilt ? 1 : Math.Min(12, LocalSame + _local[one.Local])
            );
    }

    /// <summary>
    /// The house of each domain: the one with which it begins, as <c>harbour-group.example</c> does with <c>harbour.example</c>; its own
    /// number where there is none.
    /// </summary>
    private static int[] HousesOf(string[] domains)
    {
        var labels = new Dictionary<string, int>(StringComparer.Ordinal);
        for (var domain = 0; domain < domains.Length; domain++)
            labels.TryAdd(LabelOf(domains[domain]), domain);
        var byLabel = labels.GetAlternateLookup<ReadOnlySpan<char>>();
        var houses = new int[domains.Length];
        for (var domain = 0; domain < domains.Length; domain++)
        {
            var label = LabelOf(domains[domain]).AsSpan();
            houses[domain] = byLabel[label];
            for (var at = label.IndexOf('-'); at >= 0; )
            {
                if (at >= ShortestHouse && byLabel.TryGetValue(label[..at], out var house))
                {
                    houses[domain] = house;
                    break;
                }
                var next = label[(at + 1)..].IndexOf('-');
                at = next < 0 ? -1 : at + 1 + next;
            }
        }
        return houses;

        static string LabelOf(string domain) =>
            domain.IndexOf('.', StringComparison.Ordinal) is var dot and > 0 ? domain[..dot] : domain;
    }

    private int SharedAddress(in Pieces one, in Pieces other)
    {
        if (one.Address < 0 || other.Address < 0)
            return -1;
        if (one.Address == other.Address)
            return one.Address;
        for (var i = one.More; i < one.More + one.MoreCount; i++)
            if (_more[i] == other.Address)
                return _more[i];
        for (var j = other.More; j < other.More + other.MoreCount; j++)
        {
            if (_more[j] == one.Address)
                return _more[j];
            for (var i = one.More; i < one.More + one.MoreCount; i++)
                if (_more[i] == _more[j])
                    return _more[j];
        }
        return -1;
    }

    private static float Bits(double m) => (float)Math.Log2(m);

    /// <summary>How rare each value of a kind is, in bits.</summary>
    private sealed class Rarity(int values, int records, double usual)
    {
        private readonly int[] _counts = new int[values];
        private readonly float[] _bits = new float[values];

        public float this[int value] => _bits[value];

        public void Count(int value)
        {
            if (value >= 0)
                _counts[value]++;
        }

        public void Close()
        {
            for (var value = 0; value < _bits.Length; value++)
            {
                // Two that agree are there already: how often would others be?
                var others = Math.Max(0, _counts[value] - 2);
                _bits[value] = (float)-Math.Log2((others + Believed * usual) / (records + Believed));
            }
        }
    }
}
