using ComeAboard.Core.Invitations;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests.Invitations;

public sealed class InvitationLifeWalks
{
    private static readonly DateTimeOffset Deadline = new(2027, 1, 31, 12, 0, 0, TimeSpan.Zero);

    [Fact]
    public void No_walk_leads_out_of_a_final_state_and_none_accepts_after_the_deadline() =>
        Gen.Select(Gen.Enum<InvitationStep>(), Gen.Int[-100, 100])
            .Array[0, 30]
            .Sample(walk =>
            {
                var state = minutesOf(walk) % 2 == 0 ? InvitationState.Queued : InvitationState.Draft;
                foreach (var (step, minutes) in walk)
                {
                    var now = Deadline.AddMinutes(minutes);
                    if (!InvitationLife.Take(state, step, Deadline, now).Try(out var next, out var refusal))
                    {
                        Assert.Contains(refusal.Code, new[] { "invitation.final", "invitation.not-pending" });
                        continue;
                    }
                    Assert.False(state.IsFinal());
                    // Nobody gets in but by an answer in time, and where approval is due not without it.
                    if (
                        next is InvitationState.Waiting
                        || next is InvitationState.Accepted && step is InvitationStep.Accept
                    )
                        Assert.True(state.AwaitsAnswer() && now < Deadline);
                    if (next is InvitationState.Accepted && step is not InvitationStep.Accept)
                        Assert.Equal((InvitationState.Waiting, InvitationStep.Approve), (state, step));
                    if (next is InvitationState.Draft || state is InvitationState.Draft)
                        Assert.True(step is InvitationStep.Queue or InvitationStep.Revoke);
                    state = next;
                }

                static int minutesOf((InvitationStep, int Minutes)[] walk) =>
                    walk.Length == 0 ? 0 : Math.Abs(walk[0].Minutes);
            });

    [Fact]
    public void A_link_counts_exactly_as_long_as_its_invitation_awaits_an_answer() =>
        Gen.Select(Gen.Enum<InvitationState>(), Gen.Int[-5, 5])
            .Sample(
                (state, minutes) =>
                {
                    var now = Deadline.AddMinutes(minutes);
                    var counts = LinkRules.Forbids(state, Deadline, now) is null;
                    Assert.Equal(
                        InvitationLife.Take(state, InvitationStep.Accept, Deadline, now).Succeeded,
                        counts
                    );
                }
            );

    [Theory]
    [InlineData(InvitationState.Accepted, "link.used")]
    [InlineData(InvitationState.Declined, "link.used")]
    [InlineData(InvitationState.Revoked, "link.revoked")]
    [InlineData(InvitationState.Expired, "link.expired")]
    [InlineData(InvitationState.Waiting, "link.waiting")]
    [InlineData(InvitationState.Refused, "link.refused")]
    [InlineData(InvitationState.Draft, "link.unknown")]
    public void A_dead_link_says_why(InvitationState state, string code) =>
        Assert.Equal(code, LinkRules.Forbids(state, Deadline, Deadline.AddDays(-1))!.Code);

    [Fact]
    public void Waits_between_tries_double_up_to_a_bound_and_are_spread() =>
        Gen.Select(Gen.Int[1, 60], Gen.Double[0, 0.999])
            .Sample(
                (tries, chance) =>
                {
                    var wait = RetryTimes.Wait(tries, TimeSpan.FromSeconds(5), chance);
                    var middle = Math.Min(5 * Math.Pow(2, tries - 1), RetryTimes.Longest.TotalSeconds);
                    Assert.InRange(wait.TotalSeconds, middle * 0.5, middle * 1.5);
                }
            );
}
