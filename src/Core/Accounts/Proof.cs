namespace ComeAboard.Core.Accounts;

/// <summary>What somebody showed to be let in to an account.</summary>
public enum ProofWay
{
    /// <summary>Its password.</summary>
    Password,

    /// <summary>A link that was mailed to one of its addresses.</summary>
    MailedLink,

    /// <summary>A code that was mailed to an address it has proved.</summary>
    MailedCode,

    /// <summary>One of its passkeys.</summary>
    Passkey,

    /// <summary>A time-based code (RFC 6238), as a second step.</summary>
    TimeCode,

    /// <summary>One of the codes for when the device is not at hand, as a second step.</summary>
    RecoveryCode,

    /// <summary>The word of another organisation's provider (OpenID Connect).</summary>
    OutsideIdentity,
}

/// <summary>That somebody is the holder of an account: what they showed, and when.</summary>
/// <param name="Way">What was shown.</param>
/// <param name="At">When.</param>
/// <param name="Second">What was shown besides, as a second step; null for nothing.</param>
public sealed record Proof(ProofWay Way, DateTimeOffset At, ProofWay? Second = null)
{
    /// <summary>How long a proof is fresh enough for what is dangerous.</summary>
    public static readonly TimeSpan FreshFor = TimeSpan.FromMinutes(10);

    /// <summary>
    /// Whether it takes more than one thing to show it: a second step, or a passkey, which asks for the device and for
    /// what unlocks it.
    /// </summary>
    public bool IsStrong => Way == ProofWay.Passkey || Second is not null;

    /// <summary>Whether it is to be followed by a second step before anybody is let in.</summary>
    /// <param name="hasSecondStep">Whether the account has one.</param>
    public bool Awaits(bool hasSecondStep) => hasSecondStep && !IsStrong;

    /// <summary>Whether it was shown so lately that what is dangerous may rest on it; the last instant is exclusive.</summary>
    /// <param name="now">The instant asked about.</param>
    public bool IsFresh(DateTimeOffset now) => now < At + FreshFor;

    /// <summary>Refuses, with <c>proof.stale</c>, what needs a fresh proof.</summary>
    /// <param name="now">The instant asked about.</param>
    public Refusal? ForbidsDangerous(DateTimeOffset now) =>
        IsFresh(now)
            ? null
            : new Refusal(
                "proof.stale",
                "It is more than 10 minutes since you showed that this account is yours.",
                "Show it again, then repeat the step.",
                RefusalSort.NotAllowed
            );
}

/// <summary>A sort of credential: something by which the holder of an account signs in.</summary>
public enum CredentialKind
{
    /// <summary>A password.</summary>
    Password,

    /// <summary>A passkey.</summary>
    Passkey,

    /// <summary>The key from which time-based codes are made (RFC 6238).</summary>
    TimeCode,

    /// <summary>A code for when the device with the key is not at hand; it counts once.</summary>
    RecoveryCode,

    /// <summary>Who its holder is to another organisation's provider (OpenID Connect).</summary>
    OutsideIdentity,
}
