using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class AnswerTallies
{
    private static readonly DateTimeOffset Created = new(2026, 11, 2, 8, 0, 0, TimeSpan.Zero);

    [Fact]
    public void Figures_are_those_counted_by_hand() =>
        Gen.Select(
                Gen.Enum<InvitationState>(),
                Gen.Int[-2, 50].Select(minutes => minutes < 0 ? (int?)null : minutes)
            )
            .Array[0, 12]
            .Sample(
                invitations =>
                {
                    var tally = new AnswerTally();
                    foreach (var (state, minutes) in invitations)
                        tally.Count(state, Created, minutes is { } after ? Created.AddMinutes(after) : null);
                    var figures = tally.Figures();
                    var yes = invitations.Count(i =>
                        i.Item1
                            is InvitationState.Accepted
                                or InvitationState.Waiting
                                or InvitationState.Refused
                    );
                    var no = invitations.Count(i => i.Item1 is InvitationState.Declined);
                    Assert.Equal(
                        (invitations.Length, yes, no),
                        (figures.Sent, figures.Accepted, figures.Declined)
                    );
                    Assert.Equal(
                        invitations.Length == 0 ? null : (yes + no) / (double)invitations.Length,
                        figures.AnswerRate
                    );
                    var times = invitations.Select(i => i.Item2).OfType<int>().Order().ToList();
                    Assert.Equal(
                        times.Count == 0
                            ? null
                            : TimeSpan.FromMinutes(
                                (times[(times.Count - 1) / 2] + times[times.Count / 2]) / 2.0
                            ),
                        figures.MedianAnswerTime
                    );
                },
                iter: Often.Times(2_000)
            );

    [Fact]
    public void An_answer_before_the_invitation_counts_as_at_once()
    {
        var tally = new AnswerTally();
        tally.Count(InvitationState.Accepted, Created, Created.AddMinutes(-5));
        Assert.Equal(TimeSpan.Zero, tally.Figures().MedianAnswerTime);
    }
}
