namespace ComeAboard.Core.Invitations;

/// <summary>What would become of one entry of a list if it were sent now.</summary>
public enum Verdict
{
    /// <summary>Can be sent.</summary>
    Ready,

    /// <summary>Can be sent; there is an account at the address that its holder alone answers for, at a domain the workspace has proved: it can be asked into custody.</summary>
    Personal,

    /// <summary>Is a member here already.</summary>
    Member,

    /// <summary>Is invited already.</summary>
    Invited,

    /// <summary>Stands further up in the same list.</summary>
    Repeated,

    /// <summary>Cannot be read, or asks for something that is not there.</summary>
    Wrong,

    /// <summary>A rule of the house or an earlier bounce stands in the way.</summary>
    Blocked,

    /// <summary>Its owner asked not to be invited.</summary>
    Stopped,

    /// <summary>No seat is free, or the organisation has as many people here as it may.</summary>
    Full,
}

/// <summary>Reading verdicts.</summary>
public static class Verdicts
{
    /// <summary>Whether an entry with this verdict can be sent.</summary>
    public static bool CanBeSent(this Verdict verdict) => verdict is Verdict.Ready or Verdict.Personal;

    /// <summary>The word of the verdict, in lower case.</summary>
    public static string Word(this Verdict verdict) => verdict.ToString().ToLowerInvariant();

    /// <summary>The verdict that a refusal, or its absence, amounts to.</summary>
    /// <param name="refusal">Why the entry cannot be sent; null when it can.</param>
    /// <param name="isPersonal">Whether an account at the address is held personally, where that may be told.</param>
    public static Verdict Of(Refusal? refusal, bool isPersonal) =>
        refusal?.Code switch
        {
            null => isPersonal ? Verdict.Personal : Verdict.Ready,
            "address.member" => Verdict.Member,
            "address.invited" or "address.invited-by-file" => Verdict.Invited,
            "address.repeated" => Verdict.Repeated,
            "address.opted-out" => Verdict.Stopped,
            "seat.none-free" or "seat.no-changes" or "organisation.full" => Verdict.Full,
            "address.bounced" or "address.mailed-enough" or "access.ended" or "organisation.over" =>
                Verdict.Blocked,
            var code when code.StartsWith("right.", StringComparison.Ordinal) => Verdict.Blocked,
            var code when code.StartsWith("rule.", StringComparison.Ordinal) => Verdict.Blocked,
            _ => Verdict.Wrong,
        };

    /// <summary>
    /// What becomes of an entry: the first thing that stands in its way decides. What is wrong with the entry comes first, then
    /// whether whoever answers for it may come in at all, then what the same file did before, then everything else.
    /// </summary>
    /// <param name="fault">Why the entry cannot be read, or repeats another; null when neither.</param>
    /// <param name="inviter">Why whoever answers for the list gets nowhere today; null when they do.</param>
    /// <param name="earlier">The invitation that the same file led to before, and its state; null for none.</param>
    /// <param name="forbidden">Looks for anything else that stands in the way; asked last, since it costs most.</param>
    /// <param name="isPersonal">Whether an account at the address is held personally, where that may be told.</param>
    public static (Verdict Verdict, Refusal? Refusal) Judge(
        Refusal? fault,
        Refusal? inviter,
        (Guid Invitation, InvitationState State)? earlier,
        Func<Refusal?> forbidden,
        bool isPersonal
    )
    {
        var refusal =
            fault
            ?? inviter
            ?? (earlier is { } before ? InvitedByFile(before.Invitation, before.State) : null)
            ?? forbidden();
        return (Of(refusal, isPersonal), refusal);
    }

    /// <summary>The refusal for an address that stands further up in the same list.</summary>
    /// <param name="first">The number of the entry where it stands first, from 1.</param>
    public static Refusal Repeated(int first) =>
        new(
            "address.repeated",
            $"The same address stands in entry {first} already.",
            "Nothing needs to be done: it is invited once.",
            RefusalSort.Conflict,
            "address"
        );

    /// <summary>The refusal for an address that the same file has invited before.</summary>
    /// <param name="invitation">The invitation it led to.</param>
    /// <param name="state">Where that one stands.</param>
    public static Refusal InvitedByFile(Guid invitation, InvitationState state) =>
        new(
            "address.invited-by-file",
            $"This very file was run before and invited this address; that invitation is {state.Word()}.",
            state is InvitationState.Expired or InvitationState.Bounced
                ? "Resend that invitation."
                : "To invite again nevertheless, invite the person singly.",
            RefusalSort.Conflict,
            "address",
            invitation
        );
}
