using ComeAboard.Core.Matching;
using ComeAboard.People;
using Xunit;

namespace ComeAboard.Core.Tests.Matching;

/// <summary>Whether two records are one human: on made-up crowds of which is known who is whom, and on small cases told in words.</summary>
public sealed class WhoIsWho
{
    [Theory]
    [InlineData(1)]
    [InlineData(2)]
    public void In_a_crowd_hardly_anybody_is_missed_or_taken_for_another(int seed)
    {
        var crowd = Crowd.Of(9_000, seed);
        var found = Matcher.Within(crowd.Records).Pairs;
        var right = found.Count(pair => crowd.Twice.ContainsKey((pair.Left, pair.Right)));
        var (precision, recall) = ((double)right / found.Count, (double)right / crowd.Twice.Count);
        Assert.InRange(2 * precision * recall / (precision + recall), 0.98, 1);
        var same = found.Where(pair => pair.Verdict == MatchVerdict.Same).ToList();
        Assert.InRange(
            same.Average(pair => crowd.Twice.ContainsKey((pair.Left, pair.Right)) ? 1 : 0),
            0.985,
            1
        );
        var named = found.Select(pair => (pair.Left, pair.Right)).ToHashSet();
        foreach (var kind in Enum.GetValues<Change>())
            Assert.InRange(
                crowd
                    .Twice.Where(one => one.Value.Contains(kind))
                    .Average(one => named.Contains(one.Key) ? 1 : 0),
                0.92,
                1
            );
    }

    [Fact]
    public void A_score_means_what_it_says()
    {
        var (said, so) = (new double[10], new int[10]);
        var counts = new int[10];
        for (var seed = 10; seed < 14; seed++)
        {
            var crowd = Crowd.Of(9_000, seed);
            foreach (var pair in Matcher.Within(crowd.Records, least: 0.3).Pairs)
            {
                var bin = Math.Min(9, (int)(pair.Score * 10));
                counts[bin]++;
                said[bin] += pair.Score;
                so[bin] += crowd.Twice.ContainsKey((pair.Left, pair.Right)) ? 1 : 0;
            }
        }
        for (var bin = 3; bin < 10; bin++)
            if (counts[bin] >= 80)
                Assert.InRange((double)so[bin] / counts[bin] - (said[bin] / counts[bin]), -0.25, 0.25);
    }

    [Fact]
    public void The_order_of_the_records_and_the_number_of_threads_change_nothing()
    {
        var crowd = Crowd.Of(2_000, 5);
        var first = Named(Matcher.Within(crowd.Records, workers: 1), crowd.Records, crowd.Records);
        Assert.Equal(first, Named(Matcher.Within(crowd.Records, workers: 4), crowd.Records, crowd.Records));
        var turned = crowd.Records.Reverse().ToList();
        Assert.Equal(first, Named(Matcher.Within(turned, workers: 3), turned, turned));
        var (left, right) = (crowd.Records.Take(900).ToList(), crowd.Records.Skip(900).ToList());
        Assert.Equal(
            Named(Matcher.Between(left, right), left, right),
            Named(Matcher.Between(right, left), right, left)
        );

        // The same pairs with the same probabilities, whatever came first.
        static IReadOnlyList<string> Named(
            Matcher found,
            IReadOnlyList<MatchRecord> left,
            IReadOnlyList<MatchRecord> right
        ) =>
            [
                .. found
                    .Pairs.Select(pair =>
                        string.Join(
                            " = ",
                            new[] { left[pair.Left].ToString(), right[pair.Right].ToString() }.Order(
                                StringComparer.Ordinal
                            )
                        ) + $" {pair.Score:F4}"
                    )
                    .Order(StringComparer.Ordinal),
            ];
    }

    [Fact]
    public void Between_two_lists_each_is_one_of_the_other_at_most_unless_an_address_tells()
    {
        var crowd = Crowd.Of(3_000, 7);
        var (left, right) = (crowd.Records.Take(1_500).ToList(), crowd.Records.Skip(1_500).ToList());
        var found = Matcher.Between(left, right);
        Assert.NotEmpty(found.Pairs);
        Assert.Equal(
            found.Pairs.OrderByDescending(pair => pair.Score).Select(pair => pair.Score),
            found.Pairs.Select(pair => pair.Score)
        );
        foreach (var twice in found.Pairs.GroupBy(pair => pair.Left).Where(pairs => pairs.Count() > 1))
            Assert.Contains(
                twice,
                pair =>
                    found
                        .Explain(pair.Left, pair.Right)
                        .Any(reason => reason.Piece is MatchPiece.Address or MatchPiece.Outside)
            );
    }

    [Theory]
    [InlineData("same", "same address")]
    [InlineData("short", "the given name is a short form of the other")]
    [InlineData("swapped", "given and family name are swapped")]
    [InlineData("slip", "the family names differ by one slip")]
    [InlineData("known", "an address of the one is an address of the other")]
    [InlineData("maiden", "the family name stands in the address of the other")]
    public void A_pair_is_explained_by_what_was_added_up(string kind, string sentence)
    {
        var one = new MatchRecord(
            Name: "William Fairweather",
            Address: "william.fairweather@ropes.example",
            Organisation: "Harbour Ropes Ltd"
        );
        var other = kind switch
        {
            "same" => one with { Name = "W. Fairweather", Organisation = null },
            "short" => one with { Name = "Bill Fairweather", Address = "bfw@ropes.example" },
            "swapped" => one with { Name = "Fairweather William", Address = "wf12@ropes.example" },
            "slip" => one with { Name = "William Fairwaether", Address = "wf12@ropes.example" },
            "known" => one with
            {
                Address = "bill@mailhaven.example",
                OtherAddresses = "x@y.example, William.Fairweather+news@ropes.example",
            },
            _ => one with { Name = "William Tollander", Address = "w.fairweather@ropes.example" },
        };
        var crowd = Crowd.Of(400, 3).Records;
        var found = Matcher.Within([one, other, .. crowd], least: 0);
        var pair = Assert.Single(found.Pairs, pair => (pair.Left, pair.Right) == (0, 1));
        Assert.Contains(found.Explain(0, 1), reason => reason.Sentence == sentence);
        if (kind != "maiden")
            Assert.NotEqual(MatchVerdict.Unlikely, pair.Verdict);
    }

    [Fact]
    public void What_contradicts_counts_against()
    {
        var one = new MatchRecord(
            Name: "Oona Brask",
            Address: "oona@ropes.example",
            ExternalId: "P1",
            Source: "staff",
            Roof: "here"
        );
        var crowd = Crowd.Of(400, 4).Records;
        Assert.Equal(MatchVerdict.Same, VerdictOf(one with { Roof = null }));
        // Two identifiers of one system are two people; of two systems they tell nothing.
        Assert.Equal(
            MatchVerdict.Unlikely,
            VerdictOf(one with { ExternalId = "P2", Address = "brask@ropes.example" })
        );
        Assert.Equal(
            MatchVerdict.Same,
            VerdictOf(one with { ExternalId = "P2", Source = "ships", Roof = null })
        );
        // Brother and sister at one firm, by one telephone.
        var sister = new MatchRecord(
            Name: "Livia Brask",
            Address: "livia@ropes.example",
            Phone: "+44 20 7000 1000"
        );
        Assert.Equal(
            MatchVerdict.Unlikely,
            VerdictOf(sister, one with { Phone = "+44 20 7000 1000", ExternalId = null })
        );

        // So it is in a list of a few, where the number of pairs says little against two being one.
        Assert.Empty(
            Matcher
                .Within([
                    new MatchRecord(Name: "Ilse Varga", Address: "ilse@ropes.example"),
                    new MatchRecord(Name: "Ilka Varga", Address: "ilka@ropes.example"),
                ])
                .Pairs
        );

        MatchVerdict VerdictOf(MatchRecord other, MatchRecord? first = null) =>
            MatchThresholds.Of(
                Matcher
                    .Within([first ?? one, other, .. crowd], least: 0)
                    .Pairs.Where(pair => (pair.Left, pair.Right) == (0, 1))
                    .Select(pair => pair.Score)
                    .SingleOrDefault()
            );
    }

    [Fact]
    public void Nobody_is_found_in_nothing()
    {
        Assert.Empty(Matcher.Within([]).Pairs);
        // Who is twice in one list is not looked for where the other is empty.
        var oona = new MatchRecord(Name: "Oona Brask", Address: "oona@ropes.example");
        Assert.Single(Matcher.Within([oona, oona]).Pairs);
        Assert.Empty(Matcher.Between([], [oona, oona]).Pairs);
        Assert.Empty(Matcher.Between([oona, oona], []).Pairs);
        Assert.Empty(Matcher.Within([new MatchRecord(), new MatchRecord()]).Pairs);
    }

    [Fact]
    public void Columns_are_known_by_their_headings_and_others_passed_over()
    {
        var sheet = MatchSheet
            .Read([
                "ID",
                "Vorname",
                "Family name",
                "E-Mail",
                "other_addresses",
                "Shoe size",
                "Telefon",
                "external_id",
            ])
            .Value;
        var (id, record) = sheet.Row([
            "7",
            "Oona",
            "Brask",
            "oona@ropes.example",
            "o@x.example",
            "41",
            "+44 1",
            "P7",
            "surplus",
        ]);
        Assert.Equal("7", id);
        Assert.Equal(
            new MatchRecord(
                null,
                "Oona",
                "Brask",
                "oona@ropes.example",
                "o@x.example",
                null,
                null,
                "P7",
                null,
                "+44 1"
            ),
            record
        );
        Assert.Equal("match.no-columns", MatchSheet.Read(["Shoe size", "id"]).Refusal!.Code);
        Assert.Equal("sheet.heading-twice", MatchSheet.Read(["Address", "E-Mail"]).Refusal!.Code);
    }

    [Theory]
    [InlineData("Benedikt Loom", "Ben Loom", true)]
    [InlineData("Albert Cray", "Cray, Al", true)]
    [InlineData("ben loom", "Loom, Benedikt", true)]
    [InlineData("Noor van Dijk", "Van Dijk, Noor", true)]
    [InlineData("Noor van Dijk", "van Dijk, Noor", true)]
    [InlineData("Ben Loom", "Al Loom", false)]
    public void A_word_between_names_is_none_and_the_same_word_where_a_given_name_begins_is_one(
        string one,
        string other,
        bool areOne
    )
    {
        var crowd = Crowd.Of(300, 3).Records;
        var found = Matcher.Within([new(Name: one), new(Name: other), .. crowd], least: 0);
        var score = found.Pairs.Where(pair => (pair.Left, pair.Right) == (0, 1)).Sum(pair => pair.Score);
        Assert.Equal(areOne, score >= MatchThresholds.Likely);
    }

    [Theory]
    [InlineData(
        "International Harbour Research Institute",
        "Intl. Harbour Research Inst.",
        "same organisation"
    )]
    [InlineData("Universität Salzwiesen", "University Salzwiesen GmbH", "same organisation")]
    [InlineData(
        "International Harbour Research Institute",
        "IHRI",
        "the organisation is an abbreviation of the other"
    )]
    [InlineData(
        "Institut für Gezeiten und Küste",
        "I.G.K. e.V.",
        "the organisation is an abbreviation of the other"
    )]
    [InlineData("Hafenfreunde e.V.", "Hafenfreunde", "same organisation")]
    [InlineData("Cantieri Riuniti S.p.A.", "Cantieri Riuniti", "same organisation")]
    [InlineData("Museum of the Outer Harbour", "MOH", "the organisation is an abbreviation of the other")]
    [InlineData("Museum of the Outer Harbour", "MOTH", "different organisations")]
    [InlineData("Harbour", "H", "different organisations")]
    public void An_organisation_is_known_by_its_abbreviation(string one, string other, string reason)
    {
        var crowd = Crowd.Of(300, 3).Records;
        var (left, right) = (
            new MatchRecord(Name: "Wilma Sandvik", Organisation: one, Address: "wilma@one-house.example"),
            new MatchRecord(Name: "W. Sandvik", Organisation: other, Address: "w@other-house.example")
        );
        var (score, reasons) = Of(left, right);
        var (back, backReasons) = Of(right, left);
        Assert.Equal(score, back);
        Assert.Equal(reasons, backReasons);
        Assert.Contains(reason, reasons);
        var (strange, _) = Of(left, right with { Organisation = "Quayside Rope Walk" });
        if (reason is not "different organisations")
            Assert.True(score > strange, $"{score} {strange}");

        (double Score, List<string> Reasons) Of(MatchRecord first, MatchRecord second)
        {
            var found = Matcher.Within([first, second, .. crowd], least: 0);
            var pair = found.Pairs.Single(pair => (pair.Left, pair.Right) == (0, 1));
            return (pair.Score, [.. found.Explain(0, 1).Select(why => why.Sentence)]);
        }
    }

    [Fact]
    public void The_more_organisations_an_abbreviation_could_stand_for_the_less_it_tells()
    {
        var crowd = Crowd.Of(300, 3).Records;
        var left = new MatchRecord(Name: "Wilma Sandvik", Organisation: "Outer Harbour Authority");
        var right = new MatchRecord(Name: "W. Sandvik", Organisation: "OHA");
        var others = new[]
        {
            "Old Hydrant Art",
            "Open Hatch Academy",
            "Oak Haven Arms",
            "Oyster Hall Arcade",
        }.Select((name, i) => new MatchRecord(Name: $"Somebody{i} Else{i}", Organisation: name));
        Assert.True(ScoreOf([]) > ScoreOf(others));

        double ScoreOf(IEnumerable<MatchRecord> more) =>
            Matcher
                .Within([left, right, .. more, .. crowd], least: 0)
                .Pairs.Single(pair => (pair.Left, pair.Right) == (0, 1))
                .Score;
    }
}
