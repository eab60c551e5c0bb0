using ComeAboard.Core.Connections;
using ComeAboard.Core.Matching;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Connections;

/// <summary>Who of an outside system is who here.</summary>
public sealed class WhoOfThem
{
    private static readonly string[] Given =
    [
        "Idun",
        "Odd",
        "Sunniva",
        "Torbjørn",
        "Ragna",
        "Eskil",
        "Liv",
        "Håkon",
    ];
    private static readonly string[] Family =
    [
        "Havnesdatter",
        "Brygge",
        "Kaikant",
        "Fortøyning",
        "Molo",
        "Tau",
    ];

    private static readonly PersonHere[] Crew =
    [
        .. Enumerable
            .Range(0, 24)
            .Select(i =>
                Person(i, $"{Given[i % 8]} {Family[i / 8 * 2 + i % 2]}", $"crew{i}@lantern-tide.example")
            ),
    ];

    private static readonly HashSet<string> Former = ["hjalmar@harbour.example"];

    private static PersonHere Person(int id, string name, string address, Guid? invitation = null) =>
        new(IdOf(id), name, new MatchRecord(Name: name, Address: address), invitation);

    private static Guid IdOf(int id) => new(id + 1, 0, 0, new byte[8]);

    private static SourceRecord There(string key, string name, string address) =>
        new(key) { Name = name, Address = address };

    [Fact]
    public void Each_record_gets_the_verdict_that_the_evidence_bears()
    {
        PersonHere[] here =
        [
            .. Crew,
            Person(90, "Benedikt Havnelys", "benedikt@quay.example"),
            Person(91, "Ingeborg Styrmann", "ingeborg@quay.example"),
            Person(92, "Ingeborg Styrmann", "i.styrmann@pier.example"),
        ];
        SourceRecord[] there =
        [
            There("same", "Odd Brygge", "CREW1@lantern-tide.example"),
            There("likely", "Ben Havnelys", "b.havnelys@harbour.example"),
            There("new", "Walburga Utermöhlen", "walburga@harbour.example"),
            There("no-address", "Hjalmar Nattevakt", ""),
            new SourceRecord("off")
            {
                Name = "Vidar Utflyttet",
                Address = "vidar@harbour.example",
                IsOff = true,
            },
            There("twins-1", "Post Office", "post@harbour.example"),
            There("twins-2", "Front Desk", "Post@harbour.example"),
            There("renamed", "Xenia Quellwasser", "crew5@lantern-tide.example"),
            There("bad", "Kari Skrivefeil", "kari@@harbour"),
            new SourceRecord("two")
            {
                Name = "Ingeborg Styrmann",
                Address = "ingeborg@quay.example",
                OtherAddresses = "i.styrmann@pier.example",
            },
        ];
        var judged = SourceTable.Judge(there, [], here, Former).ToDictionary(one => one.Record.Key);
        Assert.Equal((SourceVerdict.Same, IdOf(1)), (judged["same"].Verdict, judged["same"].PersonId));
        Assert.Contains("same address", judged["same"].Reasons);
        Assert.InRange(judged["same"].Score, 0.95, 0.999);
        Assert.Equal((SourceVerdict.Likely, IdOf(90)), (judged["likely"].Verdict, judged["likely"].PersonId));
        Assert.Contains("the given name is a short form of the other", judged["likely"].Reasons);
        Assert.Equal((SourceVerdict.New, null), (judged["new"].Verdict, judged["new"].PersonId));
        Assert.Equal((SourceVerdict.Aside, "it has no mail address"), Of("no-address"));
        Assert.Equal((SourceVerdict.Aside, "it is switched off there"), Of("off"));
        Assert.Equal((SourceVerdict.Conflicting, "another record there has the same address"), Of("twins-1"));
        Assert.Equal((SourceVerdict.Conflicting, "another record there has the same address"), Of("twins-2"));
        Assert.Equal(
            (SourceVerdict.Conflicting, IdOf(5)),
            (judged["renamed"].Verdict, judged["renamed"].PersonId)
        );
        Assert.Equal(SourceVerdict.Aside, judged["bad"].Verdict);
        Assert.Equal((SourceVerdict.Conflicting, null), (judged["two"].Verdict, judged["two"].PersonId));
        Assert.Contains("may be Ingeborg Styrmann", judged["two"].Reasons[0], StringComparison.Ordinal);

        (SourceVerdict, string) Of(string key) => (judged[key].Verdict, judged[key].Reasons[0]);
    }

    [Fact]
    public void What_was_joined_stays_joined_whatever_the_record_says_now()
    {
        var led = Guid.Parse("00000000-0000-0000-0000-0000000000aa");
        PersonHere[] here = [.. Crew, Person(90, "Sunniva Nygift", "sunniva@quay.example", led)];
        SourceRecord[] there =
        [
            There("joined", "Completely Otherwise", "renamed@harbour.example"),
            There("invited", "S. Before", "s.before@harbour.example"),
            There("reused", "Idun Havnesdatter", "crew3@lantern-tide.example"),
            There("left", "Walburga Utermöhlen", "walburga@harbour.example"),
            There("former", "Hjalmar Avmønstret", "HJALMAR@harbour.example"),
            There("second", "Odd Brygge", "crew1@lantern-tide.example"),
        ];
        KnownRecord[] known =
        [
            new(There("joined", "Odd Brygge", "crew1@lantern-tide.example"), IdOf(1)),
            new(There("invited", "S. Before", "s.before@harbour.example"), InvitationId: led),
            new(There("reused", "Idun Havnesdatter", "crew0@lantern-tide.example"), IdOf(0)),
            new(There("left", "Walburga Utermöhlen", "walburga@harbour.example"), IdOf(99)),
        ];
        var judged = SourceTable.Judge(there, known, here, Former).ToDictionary(one => one.Record.Key);
        Assert.Equal((SourceVerdict.Same, IdOf(1)), (judged["joined"].Verdict, judged["joined"].PersonId));
        Assert.Equal((SourceVerdict.Same, IdOf(90)), (judged["invited"].Verdict, judged["invited"].PersonId));
        // An address that was given to somebody else is the oldest trap there is.
        Assert.Equal(SourceVerdict.Conflicting, judged["reused"].Verdict);
        KnownRecord said = new(There("reused", "Idun", "crew3@lantern-tide.example"), IdOf(0), IsSaid: true);
        var again = Assert.Single(SourceTable.Judge([there[2]], [said], here, Former));
        Assert.Equal((SourceVerdict.Same, IdOf(0)), (again.Verdict, again.PersonId));
        // Whose time here is over does not come back by itself.
        Assert.Equal((SourceVerdict.Aside, null), (judged["left"].Verdict, judged["left"].PersonId));
        Assert.Equal((SourceVerdict.Aside, null), (judged["former"].Verdict, judged["former"].PersonId));
        Assert.Equal("was here and is not any more", judged["former"].Reasons[0]);
        Assert.Equal(SourceVerdict.Conflicting, judged["second"].Verdict);
        Assert.Contains(
            "is joined with another record there",
            judged["second"].Reasons[0],
            StringComparison.Ordinal
        );
    }

    private static readonly Gen<SourceRecord[]> Records = Gen.Select(
            Gen.Int[0, 7],
            Gen.Int[0, 5],
            Gen.Int[0, 30],
            Gen.Bool
        )
        .Select(
            (given, family, number, isOff) =>
                new SourceRecord("")
                {
                    Name = $"{Given[given]} {Family[family]}",
                    Address = number > 24 ? "" : $"crew{number}@lantern-tide.example",
                    IsOff = isOff,
                }
        )
        .Array[0, 12]
        .Select(all => all.Select((one, at) => one with { Key = $"k{at}" }).ToArray());

    /// <summary>Nobody is certainly two records, everybody named is here, and the order of the records decides nothing.</summary>
    [Fact]
    public void Nobody_is_two_records_and_the_order_decides_nothing() =>
        Gen.Select(Records, Gen.Int[0, 1000])
            .Sample(
                (records, seed) =>
                {
                    var judged = SourceTable.Judge(records, [], Crew, Former);
                    Assert.Equal(records, judged.Select(one => one.Record));
                    var certain = judged
                        .Where(one => one.Verdict is SourceVerdict.Same or SourceVerdict.Likely)
                        .Select(one => one.PersonId)
                        .ToList();
                    Assert.Equal(certain.Count, certain.Distinct().Count());
                    Assert.DoesNotContain(null, certain);
                    Assert.All(judged, one => Assert.NotEmpty(one.Reasons));
                    Assert.All(judged, one => Assert.InRange(one.Score, 0, 0.999));
                    var shuffled = records.ToArray();
                    new Random(seed).Shuffle(shuffled);
                    Assert.Equal(
                        judged.OrderBy(one => one.Record.Key).Select(Said),
                        SourceTable
                            .Judge(shuffled, [], Crew, Former)
                            .OrderBy(one => one.Record.Key)
                            .Select(Said)
                    );
                }
            );

    private static string Said(JudgedRecord one) =>
        $"{one.Record.Key} {one.Verdict} {one.PersonId} {one.Score}";

    [Fact]
    public void Decisions_and_verdicts_have_one_word_each()
    {
        foreach (var decision in Enum.GetValues<SourceDecision>())
            Assert.Equal(decision, SourceWords.ReadDecision(decision.Word().ToUpperInvariant()).Value);
        Assert.Equal("decision.unknown", SourceWords.ReadDecision("maybe").Refusal?.Code);
        Assert.Equal("leave-out", SourceVerdict.Aside.Word());
        Assert.Null(SourceVerdict.Likely.Suggested());
        Assert.Null(SourceVerdict.Conflicting.Suggested());
        Assert.Equal(SourceDecision.Bring, SourceVerdict.New.Suggested());
    }
}
