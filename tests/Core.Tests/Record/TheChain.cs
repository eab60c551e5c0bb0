using ComeAboard.Core.Record;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Record;

public sealed class TheChain
{
    private static readonly Gen<Happening> Anything = Gen.Select(
        Gen.Long[0, 4_000_000_000_000].Select(DateTimeOffset.FromUnixTimeMilliseconds),
        Gen.String,
        Gen.String,
        (at, action, details) => new Happening(at, "mira", "console", action, "ines", details)
    );

    private static readonly Gen<List<RecordEntry>> Written = Anything
        .Array[3, 12]
        .Select(happenings =>
        {
            var head = RecordHead.Empty;
            var entries = new List<RecordEntry>();
            foreach (var happening in happenings)
            {
                entries.Add(RecordChain.Append(head, happening, [1, 2, 3]));
                head = RecordChain.After(entries[^1]);
            }
            return entries;
        });

    [Fact]
    public void What_was_written_verifies() =>
        Written.Sample(entries => Assert.Null(FaultIn(entries, HeadOf(entries))));

    [Fact]
    public void Erased_details_leave_the_chain_whole() =>
        Written.Sample(entries =>
        {
            var head = HeadOf(entries);
            entries[1] = entries[1] with { Details = null };
            Assert.Null(FaultIn(entries, head));
        });

    [Fact]
    public void What_is_wrong_with_an_entry_is_named_with_its_place()
    {
        var one = RecordChain.Append(RecordHead.Empty, Said("ines", "console"), [1]);
        var two = RecordChain.Append(RecordChain.After(one), Said("ines", "console"), [2]);
        var three = RecordChain.Append(RecordChain.After(two), Said("ines", "console"), [3]);
        var head = RecordChain.After(one);
        Assert.Null(RecordChain.Check(head, two));
        Assert.Equal((2, "record.missing"), Fault(RecordChain.Check(head, three)));
        Assert.Equal((1, "record.reordered"), Fault(RecordChain.Check(head, one)));
        Assert.Equal((2, "record.reordered"), Fault(RecordChain.Check(head with { Hash = "x" }, two)));
        Assert.Equal((2, "record.changed"), Fault(RecordChain.Check(head, two with { Details = "x" })));
        Assert.Equal((2, "record.changed"), Fault(RecordChain.Check(head, two with { Actor = "x" })));
        Assert.Null(RecordChain.CheckEnd(head, head));
        Assert.Equal((2, "record.cut"), Fault(RecordChain.CheckEnd(head, RecordChain.After(two))));

        static (long, string) Fault(RecordFault? fault) => (fault!.Sequence, fault.Code);
    }

    [Fact]
    public void Letters_that_are_moved_from_one_part_of_an_entry_to_the_next_are_noticed()
    {
        var entry = RecordChain.Append(RecordHead.Empty, Said("ines", "console"), [1]);
        Assert.NotEqual(entry.Hash, RecordChain.Append(RecordHead.Empty, Said("ine", "sconsole"), [1]).Hash);
        Assert.NotNull(RecordChain.Check(RecordHead.Empty, entry with { Actor = "ine", Via = "sconsole" }));
    }

    private static Happening Said(string actor, string via) =>
        new(Ship.Now, actor, via, "person.ended", "hamish", "{}");

    [Fact]
    public void A_changed_missing_moved_or_cut_entry_is_found() =>
        Gen.Select(Written, Gen.Int[0, 100], Gen.Int[0, 8])
            .Sample(
                (entries, place, how) =>
                {
                    var head = HeadOf(entries);
                    var at = place % (entries.Count - 1);
                    var entry = entries[at];
                    switch (how)
                    {
                        case 0:
                            entries[at] = entry with { Actor = entry.Actor + "x" };
                            break;
                        case 1:
                            entries[at] = entry with { Details = entry.Details + "x" };
                            break;
                        case 2:
                            entries[at] = entry with { At = entry.At.AddMilliseconds(1) };
                            break;
                        case 3:
                            entries[at] = entry with { Action = entry.Action + "x" };
                            break;
                        case 4:
                            entries.RemoveAt(at);
                            break;
                        case 5:
                            (entries[at], entries[at + 1]) = (entries[at + 1], entries[at]);
                            break;
                        case 6:
                            entries.RemoveAt(entries.Count - 1);
                            break;
                        case 7:
                            // Somebody who knows the method rewrites one entry and gives it a fitting hash.
                            entries[at] = RecordChain.Append(
                                new RecordHead(entry.Sequence - 1, entry.PreviousHash),
                                new Happening(
                                    entry.At,
                                    "somebody else",
                                    entry.Via,
                                    entry.Action,
                                    entry.Subject,
                                    "{}"
                                ),
                                [9]
                            );
                            break;
                        default:
                            // Renumbering after leaving one out does not help either.
                            entries.RemoveAt(at);
                            for (var i = at; i < entries.Count; i++)
                                entries[i] = entries[i] with { Sequence = i + 1 };
                            break;
                    }
                    Assert.NotNull(FaultIn(entries, head));
                }
            );

    private static RecordHead HeadOf(List<RecordEntry> entries) => RecordChain.After(entries[^1]);

    private static RecordFault? FaultIn(List<RecordEntry> entries, RecordHead kept)
    {
        var head = RecordHead.Empty;
        foreach (var entry in entries)
        {
            if (RecordChain.Check(head, entry) is { } fault)
                return fault;
            head = RecordChain.After(entry);
        }
        return RecordChain.CheckEnd(head, kept);
    }
}
