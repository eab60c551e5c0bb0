using ComeAboard.Core.Accounts;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

/// <summary>Claims: from every state, every event, at every moment around the deadline.</summary>
public sealed class ClaimsOverTime
{
    private static readonly ClaimEvent[] Events = Enum.GetValues<ClaimEvent>();

    private sealed record Happening(
        ClaimEvent Event,
        int Minutes,
        bool IsShown,
        int Others,
        bool IsUnused,
        int Notice,
        Silence Silence,
        bool HasSeat,
        bool IsHere
    );

    // Moments that fall on, just before and just after what matters: a day, half-way, the deadline, the rest.
    private static readonly Gen<Happening> AnyHappening = Gen.Select(
        Gen.OneOf(Events.Select(Gen.Const).ToArray()),
        Gen.OneOf(
            new[] { 0, 1, 14, 15, 1439, 1440, 1441, 10_080, 20_159, 20_160, 20_161, 40_320 }
                .Select(Gen.Const)
                .ToArray()
        ),
        Gen.Frequency((4, Gen.Const(true)), (1, Gen.Const(false))),
        Gen.Int[0, 1],
        Gen.Bool,
        Gen.OneOf(new[] { 1, 7, 13, 14, 15, 90 }.Select(Gen.Const).ToArray()),
        Gen.Enum<Silence>(),
        Gen.Frequency(
            (4, Gen.Const((true, false))),
            (1, Gen.Const((false, false))),
            (1, Gen.Const((true, true)))
        ),
        (what, minutes, shown, others, unused, notice, silence, rare) =>
            new Happening(what, minutes, shown, others, unused, notice, silence, rare.Item1, rare.Item2)
    );

    /// <summary>What was done, read from its start each time, against the claim that is carried on.</summary>
    [Fact]
    public void After_any_happenings_it_stands_as_the_whole_story_says() =>
        AnyHappening
            .Array[0, 20]
            .Sample(
                happenings =>
                {
                    var (claim, story, now) = (Claim.New, new Story(), Ship.Now);
                    foreach (var one in happenings)
                    {
                        now += TimeSpan.FromMinutes(one.Minutes);
                        // Mails that are due by then have gone.
                        while (
                            claim.NextMailAt(now.AddTicks(-1)) is { } at && at <= now && story.Reminders < 40
                        )
                        {
                            claim = claim with { Mails = claim.Mails + 1 };
                            story.Reminders++;
                            break;
                        }
                        story.Mails = claim.Mails;
                        var facts = new ClaimFacts(
                            now,
                            one.IsShown,
                            one.Others,
                            one.IsUnused ? now.AddDays(-365) : now.AddDays(-364)
                        )
                        {
                            HasSeat = one.HasSeat,
                        };
                        var isHere = one.IsHere && one.Event == ClaimEvent.Ask;
                        var judged =
                            isHere ? claim.AskHere(facts)
                            : one.Event is ClaimEvent.Ask or ClaimEvent.AskAgain
                                ? claim.Ask(facts, one.Notice, one.Silence, one.Event == ClaimEvent.AskAgain)
                            : claim.After(one.Event, facts);
                        var expected = story.Judge(one.Event, facts, isHere ? null : one.Notice, one.Silence);
                        Assert.Equal(
                            expected,
                            judged.Succeeded ? judged.Value.Next.State.ToString() : judged.Refusal!.Code
                        );
                        if (!judged.Try(out var step, out _))
                            continue;
                        // What is done goes with where it leads: custody exactly while it is taken.
                        Assert.Equal(step.Next.State == ClaimState.Taken, step.Takes);
                        Assert.Equal(claim.State == ClaimState.Taken, step.GivesUp);
                        Assert.Equal(step.Next.State == ClaimState.Released, step.FreesAddress);
                        Assert.Equal(one.Event == ClaimEvent.ComeAndKeep, step.Splits);
                        Assert.Equal(step.Next.State == ClaimState.Asked, step.Asks);
                        claim = step.Next;
                    }
                },
                iter: Often.Times(20_000)
            );

    /// <summary>The rules told once more, in the order in which a person would tell them.</summary>
    private sealed class Story
    {
        private string _state = "Found";
        private DateTimeOffset _last;
        private DateTimeOffset _deadline;
        private int _notice;
        private Silence _silence;
        public int Mails { get; set; }
        public int Reminders { get; set; }

        /// <param name="notice">In days; null where the holder is asked in the same sitting.</param>
        public string Judge(ClaimEvent what, ClaimFacts facts, int? notice, Silence silence)
        {
            var verdict = Verdict(what, facts, notice, silence);
            if (verdict.Contains('.', StringComparison.Ordinal))
                return verdict;
            if (what is ClaimEvent.Ask or ClaimEvent.AskAgain && _state != "Asked")
                (_deadline, _notice, _silence) = notice is { } days
                    ? (facts.Now.AddDays(days), days, silence)
                    : (facts.Now.AddMinutes(15), 0, Silence.LetBe);
            (_state, _last) = (verdict, facts.Now);
            return verdict;
        }

        private string Verdict(ClaimEvent what, ClaimFacts facts, int? notice, Silence silence)
        {
            var isLongEnough = _notice >= 14 && Mails >= 3;
            switch (what)
            {
                case ClaimEvent.Come or ClaimEvent.ComeAndKeep or ClaimEvent.Decline:
                    return _state != "Asked" || facts.Now >= _deadline ? "claim.over"
                        : what == ClaimEvent.Decline ? "Declined"
                        : facts.IsShown && facts.HasSeat ? "Taken"
                        : "Agreed";
                case ClaimEvent.Cancel:
                    return _state is "Asked" or "Agreed" or "Declined" or "Unanswered"
                        ? "Dropped"
                        : "claim.step";
                case ClaimEvent.TimeIsUp:
                    return _state != "Asked" || facts.Now < _deadline ? "claim.step"
                        : _notice == 0 ? "Dropped"
                        : facts.IsShown && _silence == Silence.Take && isLongEnough && facts.HasSeat ? "Taken"
                        : facts.IsShown && _silence == Silence.Release ? "Released"
                        : "Unanswered";
                case ClaimEvent.Take:
                    return _state is not ("Found" or "Dropped" or "Agreed" or "Unanswered") ? "claim.step"
                        : !facts.IsShown ? "domain.not-shown"
                        : !facts.HasSeat ? "claim.no-seat"
                        : _state is "Found" or "Dropped" && !facts.IsDormant ? "claim.not-at-once"
                        : _state == "Unanswered" && !isLongEnough ? "claim.too-few-mails"
                        : "Taken";
                case ClaimEvent.Release:
                    return _state == "Taken" ? "Dropped"
                        : _state is not ("Declined" or "Unanswered") ? "claim.step"
                        : facts.IsShown ? "Released"
                        : "domain.not-shown";
                case ClaimEvent.Ask when _state is not ("Found" or "Dropped"):
                case ClaimEvent.AskAgain when _state is not ("Asked" or "Declined" or "Unanswered"):
                    return "claim.step";
            }
            if (!facts.IsShown)
                return "domain.not-shown";
            if (!facts.HasSeat)
                return "claim.no-seat";
            if (what == ClaimEvent.AskAgain && facts.Now < _last.AddDays(_state == "Asked" ? 1 : 14))
                return "claim.asked-lately";
            return silence == Silence.Take && notice < 14 ? "claim.notice-too-short" : "Asked";
        }
    }

    [Fact]
    public void Every_state_but_the_last_has_a_way_on_and_every_event_a_place()
    {
        foreach (var state in Enum.GetValues<ClaimState>())
            Assert.Equal(state != ClaimState.Released, Claim.Table.Keys.Any(key => key.From == state));
        Assert.Equal(Events, Claim.Table.Keys.Select(key => key.Event).Distinct().Order());
        Assert.Equal(
            Enum.GetValues<ClaimState>().Except([ClaimState.Found]).Order(),
            Claim.Table.Values.Distinct().Order()
        );
    }

    [Theory]
    [InlineData(14, new[] { 7.0, 11, 13 })]
    [InlineData(2, new[] { 1.0 })]
    [InlineData(5, new[] { 2.5, 4 })]
    [InlineData(90, new[] { 45.0, 87, 89 })]
    public void Reminders_go_half_way_three_days_and_a_day_before(int notice, double[] days)
    {
        var asked = Claim
            .New.Ask(new ClaimFacts(Ship.Now, true, 0, Ship.Now), notice, Silence.LetBe, false)
            .Value.Next;
        var (now, found) = (Ship.Now, new List<double>());
        while (asked.NextMailAt(now) is { } at)
        {
            found.Add((at - Ship.Now).TotalDays);
            now = at;
        }
        Assert.Equal(days, found);
        Assert.Equal(asked.Deadline, asked.NextAt(now));
    }

    [Theory]
    [InlineData(0)]
    [InlineData(91)]
    [InlineData(-1)]
    public void A_time_to_answer_that_is_none_is_refused(int notice) =>
        Assert.Equal(
            "claim.notice",
            Claim
                .New.Ask(new ClaimFacts(Ship.Now, true, 0, Ship.Now), notice, Silence.LetBe, false)
                .Refusal!.Code
        );
}
