using ComeAboard.Core.Accounts;
using Xunit;

namespace ComeAboard.Core.Tests;

public sealed class ProofsAndTheirAge
{
    [Theory]
    [InlineData(0, true)]
    [InlineData(599_999, true)]
    [InlineData(600_000, false)]
    [InlineData(86_400_000, false)]
    public void A_proof_is_fresh_for_ten_minutes(int milliseconds, bool fresh)
    {
        var proof = new Proof(ProofWay.Password, Ship.Now);
        var now = Ship.Now.AddMilliseconds(milliseconds);
        Assert.Equal(fresh, proof.IsFresh(now));
        var no = proof.ForbidsDangerous(now);
        Assert.Equal(
            fresh ? (null, default) : ("proof.stale", RefusalSort.NotAllowed),
            (no?.Code, no?.Sort ?? default)
        );
    }
}
