using ComeAboard.Core.Connections;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Connections;

/// <summary>What a reading changes in what is written down, and what joining changes in a profile.</summary>
public sealed class ReadAgain
{
    private static readonly Gen<JudgedRecord> Judged = Gen.Select(
            Gen.Int[0, 5],
            Gen.OneOf<string>("", "Mate", "Bosun"),
            Gen.Enum<SourceVerdict>(),
            Gen.OneOf<string>("same address", "same name")
        )
        .Select(
            (key, title, verdict, why) =>
                new JudgedRecord(
                    new SourceRecord(key.ToString()) { Title = title },
                    verdict,
                    verdict == SourceVerdict.Likely ? 0.7 : 0,
                    null,
                    [why]
                )
        );

    private static readonly Gen<List<JudgedRecord>> Reading = Judged
        .List[0, 6]
        .Select(all => all.DistinctBy(one => one.Record.Key).ToList());

    private static readonly Gen<List<WrittenRecord>> Book = Gen.Select(Judged, Gen.Bool, Gen.Bool)
        .Select((judged, isGone, isKept) => new WrittenRecord(judged, isGone && isKept, isKept))
        .List[0, 6]
        .Select(all => all.DistinctBy(one => one.Judged.Record.Key).ToList());

    /// <summary>After the changes there stands what was read, and besides it – as gone – of what is gone that on which anything hangs.</summary>
    [Fact]
    public void After_the_changes_there_stands_what_was_read_and_what_is_kept() =>
        Gen.Select(Book, Reading)
            .Sample(
                (book, reading) =>
                {
                    var changes = SourceChanges.Between(book, reading);
                    var after = book.ToDictionary(
                        one => one.Judged.Record.Key,
                        one => (Said(one.Judged), one.IsGone)
                    );
                    foreach (var key in changes.Drop)
                        Assert.True(after.Remove(key));
                    foreach (var key in changes.Gone)
                    {
                        Assert.False(after[key].IsGone);
                        after[key] = (after[key].Item1, true);
                    }
                    foreach (var one in changes.Change)
                    {
                        Assert.NotEqual((Said(one), false), after[one.Record.Key]);
                        after[one.Record.Key] = (Said(one), false);
                    }
                    foreach (var one in changes.Add)
                        after.Add(one.Record.Key, (Said(one), false));
                    var read = reading.ToDictionary(one => one.Record.Key, one => (Said(one), false));
                    var kept = book.Where(one => one.IsKept && !read.ContainsKey(one.Judged.Record.Key));
                    foreach (var one in kept)
                        read.Add(one.Judged.Record.Key, (Said(one.Judged), true));
                    Assert.Equal(read.OrderBy(one => one.Key), after.OrderBy(one => one.Key));
                }
            );

    /// <summary>Reading the same twice changes nothing the second time.</summary>
    [Fact]
    public void The_same_again_changes_nothing() =>
        Reading.Sample(reading =>
        {
            var again = SourceChanges.Between(
                reading.Select(one => new WrittenRecord(one, false, false)),
                reading
            );
            Assert.Empty(again.Add);
            Assert.Empty(again.Change);
            Assert.Empty(again.Gone);
            Assert.Empty(again.Drop);
        });

    [Theory]
    [InlineData(100, 10, 90, 10, true)]
    [InlineData(100, 11, 89, 10, false)]
    [InlineData(100, 0, 0, 10, true)]
    [InlineData(5, 2, 3, 10, true)]
    [InlineData(5, 3, 2, 10, false)]
    [InlineData(1, 1, 0, 100, false)]
    [InlineData(2, 2, 0, 10, false)]
    [InlineData(100, 100, 100, 10, false)]
    [InlineData(100, 100, 1, 100, true)]
    [InlineData(0, 0, 0, 10, true)]
    public void A_system_that_shows_far_fewer_is_not_believed(
        int before,
        int gone,
        int now,
        int share,
        bool isBorne
    )
    {
        var no = SourceFloor.Forbids(before, gone, now, share);
        Assert.Equal(isBorne ? null : "connection.far-fewer", no?.Code);
    }

    private static readonly Gen<string> Value = Gen.OneOf<string>("", "Mate", "Bosun");

    /// <summary>
    /// Field by field against a plain reading; done a second time it changes nothing; nothing is ever emptied, and whoever
    /// belongs to an organisation goes on belonging to it.
    /// </summary>
    [Fact]
    public void Joining_changes_what_the_rules_say_and_nothing_else() =>
        Gen.Select(Gen.Enum<WhoseValue>().Array[6], Value.Array[6], Value.Array[6], Gen.Bool)
            .Sample(
                (rules, ours, theirs, isInOrganisation) =>
                {
                    var join = ProfileJoin
                        .Read(
                            ProfileJoin
                                .FieldWords.Zip(rules)
                                .ToDictionary(
                                    one => one.First,
                                    one => one.Second.ToString().ToLowerInvariant()
                                )
                        )
                        .Value;
                    var record = new SourceRecord("k")
                    {
                        Name = theirs[0],
                        Organisation = theirs[1],
                        Title = theirs[2],
                        Department = theirs[3],
                        Manager = theirs[4],
                        Country = theirs[5],
                    };
                    var after = ours.ToArray();
                    foreach (var change in join.Changes(Of(ours, isInOrganisation), record))
                    {
                        Assert.Equal(ours[(int)change.Field], change.Before);
                        after[(int)change.Field] = change.After;
                    }
                    for (var i = 0; i < 6; i++)
                    {
                        var wins =
                            theirs[i].Length > 0
                            && !(i == 1 && isInOrganisation)
                            && (
                                rules[i] == WhoseValue.Theirs
                                || rules[i] == WhoseValue.Filled && ours[i].Length == 0
                            );
                        Assert.Equal(wins ? theirs[i] : ours[i], after[i]);
                    }
                    Assert.Empty(join.Changes(Of(after, isInOrganisation), record));
                }
            );

    [Fact]
    public void A_name_in_two_parts_is_a_name_and_an_address_is_none()
    {
        var join = ProfileJoin.Read(new Dictionary<string, string> { ["name"] = "theirs" }).Value;
        var ours = Of(["Idun", "", "", "", "", ""], false);
        var parts = new SourceRecord("k") { GivenName = "Idun", FamilyName = "Havn" };
        Assert.Equal("Idun Havn", Assert.Single(join.Changes(ours, parts)).After);
        Assert.Empty(join.Changes(ours, new SourceRecord("k") { Address = "idun@harbour.example" }));
        Assert.Equal("Idun Havn", parts.Shown);
        Assert.Equal(
            "wins.unknown",
            ProfileJoin.Read(new Dictionary<string, string> { ["shoe"] = "ours" }).Refusal?.Code
        );
        Assert.Equal(
            "wins.unknown",
            ProfileJoin.Read(new Dictionary<string, string> { ["title"] = "1" }).Refusal?.Code
        );
        Assert.Equal("filled", ProfileJoin.Read(null).Value.Said["title"]);
    }

    private static Profile Of(string[] values, bool isInOrganisation) =>
        new(values[0], values[1], values[2], values[3], values[4], values[5], isInOrganisation);

    private static string Said(JudgedRecord one) =>
        $"{one.Record.Title} {one.Verdict} {string.Join(',', one.Reasons)}";
}
