using ComeAboard.Core.Accounts;
using CsCheck;
using Xunit;

namespace ComeAboard.Core.Tests;

/// <summary>How far the word of a provider goes, against the same told sentence by sentence.</summary>
public sealed class OutsideWords
{
    private static readonly EmailAddress Address = EmailAddress.Read("nuno@harbour.example").Value;

    private static readonly Gen<OutsideFacts> Facts =
        from known in Gen.Bool
        from vouched in Gen.Bool
        from domain in Gen.Bool
        from holder in Gen.Bool
        from held in Gen.Bool
        from invited in Gen.Bool
        from joins in Gen.Bool
        select new OutsideFacts(
            known ? Guid.NewGuid() : null,
            vouched ? Address : null,
            domain,
            holder ? Guid.NewGuid() : null,
            holder && held,
            invited,
            joins
        );

    [Fact]
    public void Opens_what_is_tied_what_is_held_and_what_is_new_and_nothing_else() =>
        Facts.Sample(facts =>
        {
            var decided = OutsideRules.Decide(facts);
            var said = decided.Try(out var course, out var refusal) ? course.ToString() : refusal.Code;
            Assert.Equal(Told(facts), said);
        });

    /// <summary>Which sentences are true of somebody; the first that is counts.</summary>
    private static string Told(OutsideFacts facts)
    {
        var sentences = new (bool IsTrue, string What)[]
        {
            (facts.Known is not null, nameof(OutsideCourse.SignIn)),
            (facts.Vouched is null, "outside.unverified"),
            (!facts.IsOfDomain, "outside.other-domain"),
            (facts.Holder is not null && facts.IsHolderHeld, nameof(OutsideCourse.Tie)),
            (facts.Holder is not null && !facts.IsHolderHeld, "outside.account-there"),
            (facts.IsInvited, nameof(OutsideCourse.Accept)),
            (facts.MayJoin, nameof(OutsideCourse.Join)),
            (true, "outside.not-invited"),
        };
        return sentences.First(sentence => sentence.IsTrue).What;
    }

    [Fact]
    public void An_account_that_somebody_else_has_is_never_opened_by_an_address() =>
        Facts
            .Where(facts => facts is { Known: null, Holder: not null, IsHolderHeld: false })
            .Sample(facts => Assert.False(OutsideRules.Decide(facts).Succeeded));

    [Fact]
    public void Being_signed_in_by_a_provider_is_no_strong_sign_in()
    {
        var proof = new Proof(ProofWay.OutsideIdentity, DateTimeOffset.UnixEpoch);
        Assert.False(proof.IsStrong);
        Assert.True(proof.Awaits(hasSecondStep: true));
        Assert.True((proof with { Second = ProofWay.TimeCode }).IsStrong);
    }
}
