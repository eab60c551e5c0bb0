using ComeAboard.Core.Accounts;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

/// <summary>The proof of a mail domain, over whatever DNS says and however long it takes.</summary>
public sealed class DomainsOverTime
{
    private static readonly Gen<(int Hours, DomainLook Look)> AnyLook = Gen.Select(
        Gen.OneOf(new[] { 1, 5, 6, 24, 71, 72, 73, 264, 335, 336, 337 }.Select(Gen.Const).ToArray()),
        Gen.Enum<DomainLook>()
    );

    /// <summary>The whole history of looks, read from the start each time, against the proof that is carried on.</summary>
    [Fact]
    public void After_any_looks_it_stands_as_the_whole_history_says() =>
        AnyLook
            .Array[0, 14]
            .Sample(
                looks =>
                {
                    var (proof, now) = (DomainProof.New, Ship.Now);
                    var history = new List<(DateTimeOffset At, DomainLook Look)>();
                    foreach (var (hours, look) in looks)
                    {
                        now += TimeSpan.FromHours(hours);
                        Assert.Equal(Naive(history, now), proof.StateAt(now));
                        proof = proof.After(look, now, false).Next;
                        history.Add((now, look));
                        Assert.Equal(Naive(history, now), proof.StateAt(now));
                        Assert.Equal(proof.StateAt(now) == DomainState.Proved, proof.Gains(now));
                    }
                },
                iter: Often.Times(20_000)
            );

    private static DomainState Naive(
        IReadOnlyList<(DateTimeOffset At, DomainLook Look)> history,
        DateTimeOffset now
    )
    {
        var shown = history.Where(look => look.Look == DomainLook.Shown).Select(look => look.At).ToList();
        if (shown.Count == 0)
            return DomainState.Waiting;
        // The first look after it was last seen that tells against it: it was missing, or silent for too long.
        var against = history
            .Where(look =>
                look.At > shown[^1]
                && (look.Look == DomainLook.Missing || look.At >= shown[^1] + TimeSpan.FromDays(3))
            )
            .Select(look => (DateTimeOffset?)look.At)
            .FirstOrDefault();
        return against is not { } since ? DomainState.Proved
            : now < since + TimeSpan.FromDays(14) ? DomainState.Lapsing
            : DomainState.Lost;
    }

    [Fact]
    public void Each_turn_is_told_once()
    {
        var (proof, turns) = (DomainProof.New, new List<(int Day, DomainTurn Turn)>());
        foreach (
            var (day, look) in new[]
            {
                (0, DomainLook.Missing),
                (1, DomainLook.Shown),
                (2, DomainLook.Shown),
                (3, DomainLook.Missing),
                (4, DomainLook.Missing),
                (5, DomainLook.Shown),
                (6, DomainLook.Missing),
                (16, DomainLook.Unanswered),
                (17, DomainLook.Missing),
                (18, DomainLook.Missing),
                (20, DomainLook.Missing),
                (21, DomainLook.Missing),
                (22, DomainLook.Shown),
            }
        )
        {
            (proof, var turn) = proof.After(look, Ship.Now.AddDays(day), false);
            if (turn != DomainTurn.None)
                turns.Add((day, turn));
        }
        Assert.Equal(
            [
                (1, DomainTurn.Proved),
                (3, DomainTurn.Lapsing),
                (5, DomainTurn.Back),
                (6, DomainTurn.Lapsing),
                (17, DomainTurn.NearlyLost),
                (20, DomainTurn.Lost),
                (22, DomainTurn.Proved),
            ],
            turns
        );
    }

    [Fact]
    public void What_another_workspace_holds_is_not_gained_by_showing_it()
    {
        var (proof, turn) = DomainProof.New.After(DomainLook.Shown, Ship.Now, true);
        Assert.Equal((DomainState.Waiting, DomainTurn.None), (proof.StateAt(Ship.Now), turn));
        (proof, turn) = proof.After(DomainLook.Shown, Ship.Now, false);
        Assert.Equal((DomainState.Proved, DomainTurn.Proved), (proof.StateAt(Ship.Now), turn));
    }
}
