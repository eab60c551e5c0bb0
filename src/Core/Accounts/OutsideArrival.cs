namespace ComeAboard.Core.Accounts;

/// <summary>What is known of somebody for whom the provider of a workspace vouches (OpenID Connect).</summary>
/// <param name="Known">The account that has this identity among its ways in; null for none.</param>
/// <param name="Vouched">The address that the provider says is verified; null where it names none, or does not say so.</param>
/// <param name="IsOfDomain">
/// Whether that address is at a domain the provider speaks for, whose proof by the workspace counts now and does not lapse.
/// </param>
/// <param name="Holder">The account that has proved that address; null for none.</param>
/// <param name="IsHolderHeld">Whether that account is in the custody of the workspace, with that address as its main one.</param>
/// <param name="IsInvited">Whether an invitation of the workspace to that address waits for an answer.</param>
/// <param name="MayJoin">Whether the workspace lets whoever the provider vouches for join.</param>
public sealed record OutsideFacts(
    Guid? Known,
    EmailAddress? Vouched,
    bool IsOfDomain,
    Guid? Holder,
    bool IsHolderHeld,
    bool IsInvited,
    bool MayJoin
);

/// <summary>What becomes of somebody for whom a provider vouches.</summary>
public enum OutsideCourse
{
    /// <summary>They are signed in to the account that has the identity.</summary>
    SignIn,

    /// <summary>The identity becomes a way in of the account in custody, and they are signed in to that.</summary>
    Tie,

    /// <summary>A new account accepts the invitation that waits for them.</summary>
    Accept,

    /// <summary>A new account joins by the link that the workspace keeps for whoever the provider vouches for.</summary>
    Join,
}

/// <summary>
/// How far the word of a provider goes. A workspace that runs one could let it say anything: it opens the accounts whose
/// holders tied it to them, those in the workspace's own custody, and new ones – never one that somebody else has.
/// </summary>
public static class OutsideRules
{
    /// <summary>
    /// Decides what becomes of somebody; refuses with <c>outside.unverified</c>, <c>outside.other-domain</c>,
    /// <c>outside.account-there</c> or <c>outside.not-invited</c>.
    /// </summary>
    /// <param name="facts">What is known.</param>
    public static Outcome<OutsideCourse> Decide(OutsideFacts facts)
    {
        if (facts.Known is not null)
            return OutsideCourse.SignIn;
        if (facts.Vouched is not { } address)
            return new Refusal(
                "outside.unverified",
                "Your organisation does not vouch for an address of yours.",
                "Sign in another way, or ask your organisation to verify your address.",
                RefusalSort.NotSignedIn
            );
        if (!facts.IsOfDomain)
            return new Refusal(
                "outside.other-domain",
                $"{address} is not at a domain your organisation's sign-in counts for here.",
                "Sign in another way.",
                RefusalSort.NotSignedIn
            );
        if (facts.Holder is not null)
            return facts.IsHolderHeld
                ? OutsideCourse.Tie
                : new Refusal(
                    "outside.account-there",
                    $"There is an account at {address}, and only its holder can add this way in.",
                    "Sign in to it as usual, then add your organisation's sign-in on the page of your account.",
                    RefusalSort.NotSignedIn
                );
        if (facts.IsInvited)
            return OutsideCourse.Accept;
        return facts.MayJoin
            ? OutsideCourse.Join
            : new Refusal(
                "outside.not-invited",
                $"Nobody has invited {address}.",
                "Ask whoever looks after the workspace to invite you.",
                RefusalSort.NotSignedIn
            );
    }
}
