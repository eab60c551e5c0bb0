using ComeAboard.Core.Invitations;
using ComeAboard.Core.Matching;

namespace ComeAboard.Core.Connections;

/// <summary>Somebody who is here, as far as it matters for who of an outside system they are.</summary>
/// <param name="Id">Their id.</param>
/// <param name="Name">Their name, for sentences.</param>
/// <param name="Record">What is written down of them.</param>
/// <param name="InvitationId">The invitation they came by; null for none.</param>
public sealed record PersonHere(Guid Id, string Name, MatchRecord Record, Guid? InvitationId = null);

/// <summary>What is written down of a record since it was read before.</summary>
/// <param name="Record">The record as it was then.</param>
/// <param name="JoinedId">Whom its profile was joined with; null for nobody.</param>
/// <param name="InvitationId">The invitation it led to; null for none.</param>
/// <param name="IsSaid">Whether somebody said, since it has its address, that they are whom it is joined with.</param>
public sealed record KnownRecord(
    SourceRecord Record,
    Guid? JoinedId = null,
    Guid? InvitationId = null,
    bool IsSaid = false
);

/// <summary>What is thought of a record.</summary>
/// <param name="Record">The record.</param>
/// <param name="Verdict">The verdict.</param>
/// <param name="Score">The probability that it is the person named, 0 to below 1, in thousandths; 0 where nobody is.</param>
/// <param name="PersonId">Who they are or may be; null for nobody here, and for several.</param>
/// <param name="Reasons">Why, in words, the strongest first.</param>
public sealed record JudgedRecord(
    SourceRecord Record,
    SourceVerdict Verdict,
    double Score,
    Guid? PersonId,
    IReadOnlyList<string> Reasons
);

/// <summary>
/// Pairs the records of an outside system with the people here: by what was joined before, by whom an invitation brought, and
/// by evidence (<see cref="Matcher"/>). Nobody is paired with two, and nothing is guessed where two answers are possible.
/// </summary>
public sealed class SourceTable
{
    private readonly IReadOnlyList<SourceRecord> _open;
    private readonly IReadOnlyList<PersonHere> _people;
    private readonly Dictionary<string, (PersonHere Person, string Why, bool IsSaid)> _settled = new(
        StringComparer.Ordinal
    );
    private readonly HashSet<Guid> _taken;
    private readonly Matcher _found;
    private readonly ILookup<int, MatchPair> _ofRecord;
    private readonly ILookup<int, MatchPair> _ofPerson;
    private readonly HashSet<string> _shared;
    private readonly ILookup<string, PersonHere> _owners;
    private readonly IReadOnlySet<string> _former;
    private readonly HashSet<string> _left = new(StringComparer.Ordinal);

    private SourceTable(
        IReadOnlyList<SourceRecord> records,
        IEnumerable<KnownRecord> known,
        IReadOnlyList<PersonHere> people,
        IReadOnlySet<string> former,
        int workers
    )
    {
        (_people, _former) = (people, former);
        Settle(records, known);
        _taken = [.. _settled.Values.Select(one => one.Person.Id)];
        // Whom a record was joined with stays joined: evidence is asked only about the others.
        _open = [.. records.Where(record => !_settled.ContainsKey(record.Key))];
        _found = Matcher.Between(
            [.. _open.Select(record => record.ToMatch())],
            [.. people.Select(one => one.Record)],
            workers: workers
        );
        _ofRecord = _found.Pairs.ToLookup(pair => pair.Left);
        _ofPerson = _found.Pairs.ToLookup(pair => pair.Right);
        _shared =
        [
            .. records
                .Select(record => KeyOf(record.Address))
                .OfType<string>()
                .CountBy(key => key)
                .Where(one => one.Value > 1)
                .Select(one => one.Key),
        ];
        _owners = people
            .Where(one => KeyOf(one.Record.Address) is not null)
            .ToLookup(one => KeyOf(one.Record.Address)!, StringComparer.Ordinal);
    }

    /// <summary>Judges records, in their order.</summary>
    /// <param name="records">All of the system; no key twice.</param>
    /// <param name="known">What is written down of its records; no key twice.</param>
    /// <param name="people">Everybody who is here; no id twice.</param>
    /// <param name="former">The addresses of those who were here and are not any more, as they are compared.</param>
    /// <param name="workers">How many threads work at once; it changes nothing about what is found.</param>
    public static IReadOnlyList<JudgedRecord> Judge(
        IReadOnlyList<SourceRecord> records,
        IEnumerable<KnownRecord> known,
        IReadOnlyList<PersonHere> people,
        IReadOnlySet<string> former,
        int workers = 1
    )
    {
        var table = new SourceTable(records, known, people, former, workers);
        var at = 0;
        return
        [
            .. records.Select(record =>
                table._settled.TryGetValue(record.Key, out var settled)
                    ? table.Settled(record, settled.Person, settled.Why, settled.IsSaid)
                    : table.Open(at++)
            ),
        ];
    }

    private void Settle(IReadOnlyList<SourceRecord> records, IEnumerable<KnownRecord> known)
    {
        var before = known.ToDictionary(one => one.Record.Key, StringComparer.Ordinal);
        var here = _people.ToDictionary(one => one.Id);
        var invited = _people
            .Where(one => one.InvitationId is not null)
            .ToLookup(one => one.InvitationId!.Value);
        foreach (var record in records)
        {
            if (!before.TryGetValue(record.Key, out var old))
                continue;
            if (old.JoinedId is { } joined && here.TryGetValue(joined, out var person))
                _settled[record.Key] = (
                    person,
                    "joined with this record before",
                    old.IsSaid && old.Record.Address == record.Address
                );
            else if (old.InvitationId is { } led && invited[led].FirstOrDefault() is { } came)
                _settled[record.Key] = (came, "came by the invitation that this record led to", false);
            else if (old.JoinedId is not null)
                _left.Add(record.Key);
        }
    }

    /// <summary>A record that is joined stays so, unless its address has become that of somebody else here.</summary>
    private JudgedRecord Settled(SourceRecord record, PersonHere person, string why, bool isSaid) =>
        !isSaid
        && KeyOf(record.Address) is { } key
        && _owners[key].FirstOrDefault(one => one.Id != person.Id) is { } other
            ? new JudgedRecord(
                record,
                SourceVerdict.Conflicting,
                0,
                null,
                [$"{why}: {person.Name}; but its address is that of {other.Name} here"]
            )
            : new JudgedRecord(
                record,
                SourceVerdict.Same,
                MostCertain,
                person.Id,
                record.IsOff ? [SwitchedOff, why] : [why]
            );

    private JudgedRecord Open(int at)
    {
        var pairs = _ofRecord[at].ToList();
        if (pairs.Count == 0)
            return Unpaired(_open[at]);
        var (pair, person) = (pairs[0], _people[pairs[0].Right]);
        if (pairs.Count > 1)
            return new JudgedRecord(
                _open[at],
                SourceVerdict.Conflicting,
                Round(pair.Score),
                null,
                [.. pairs.Take(3).Select(MayBe)]
            );
        string? against =
            _taken.Contains(person.Id) ? $"{person.Name} is joined with another record there"
            : _ofPerson[pair.Right].Any(other => other.Left != at)
                ? $"{_open[_ofPerson[pair.Right].First(other => other.Left != at).Left].Shown} there may be {person.Name} as well"
            : null;
        var verdict =
            against is not null ? SourceVerdict.Conflicting
            : pair.Verdict == MatchVerdict.Same && IsMoreThanName(pair) ? SourceVerdict.Same
            : SourceVerdict.Likely;
        var why = Why(pair);
        return new JudgedRecord(
            _open[at],
            verdict,
            Round(pair.Score),
            person.Id,
            against is null ? why : [against, .. why]
        );
    }

    private JudgedRecord Unpaired(SourceRecord record)
    {
        if (record.IsOff)
            return Plain(SourceVerdict.Aside, SwitchedOff);
        if (record.Address.Length == 0)
            return Plain(SourceVerdict.Aside, "it has no mail address");
        if (!EmailAddress.Read(record.Address).Try(out var address, out var no))
            return Plain(SourceVerdict.Aside, $"its mail address cannot be used: {no.Sentence}");
        // Who they are called contradicts it: a new name, or an address that was given to somebody else.
        if (_owners[address.Key].FirstOrDefault() is { } owner)
            return new JudgedRecord(
                record,
                SourceVerdict.Conflicting,
                0,
                owner.Id,
                [$"it has the address of {owner.Name} here, and another name"]
            );
        // Whose time here is over does not come back by itself because another house still has them.
        if (_left.Contains(record.Key) || _former.Contains(address.Key))
            return Plain(SourceVerdict.Aside, "was here and is not any more");
        return _shared.Contains(address.Key)
            ? Plain(SourceVerdict.Conflicting, "another record there has the same address")
            : Plain(SourceVerdict.New, "nobody here is like them");

        JudgedRecord Plain(SourceVerdict verdict, string why) => new(record, verdict, 0, null, [why]);
    }

    /// <summary>By a name alone nobody is taken to be certain, however rare it is: relatives and namesakes work next door.</summary>
    private bool IsMoreThanName(MatchPair pair) =>
        _found
            .Explain(pair.Left, pair.Right)
            .Any(reason =>
                reason.Bits > 0
                && reason.Piece
                    is MatchPiece.Address
                        or MatchPiece.Outside
                        or MatchPiece.Phone
                        or MatchPiece.Firm
                        or MatchPiece.Local
            );

    private string MayBe(MatchPair pair) =>
        $"may be {_people[pair.Right].Name}: {string.Join(", ", Why(pair).Take(2))}";

    private IReadOnlyList<string> Why(MatchPair pair) =>
        [.. _found.Explain(pair.Left, pair.Right).Select(reason => reason.Sentence)];

    private const string SwitchedOff = "it is switched off there";
    private const double MostCertain = 0.999;

    private static double Round(double score) => Math.Min(MostCertain, Math.Round(score, 3));

    private static string? KeyOf(string? address) =>
        EmailAddress.Read(address).Try(out var read, out _) ? read.Key : null;
}
