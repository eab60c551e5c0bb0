namespace ComeAboard.Core.Departures;

/// <summary>What sort of thing is done when somebody leaves; in the order in which it is done.</summary>
public enum DepartureDeed
{
    /// <summary>Access by one grant stops, or – when nothing is given – the membership itself. Subject: the grant, or the member.</summary>
    StopAccess,

    /// <summary>A sign-in of the account is closed. Subject: the session.</summary>
    CloseSession,

    /// <summary>An API token is revoked. Subject: the token.</summary>
    RevokeToken,

    /// <summary>A join link in their name lets nobody in any more. Subject: the link.</summary>
    CloseLink,

    /// <summary>An open invitation they are answerable for passes to the heir. Subject: the invitation.</summary>
    PassOnInvitation,

    /// <summary>The heir hosts whoever was invited with them as host. Subject: the invitation.</summary>
    PassOnHosting,

    /// <summary>The heir hosts a guest of theirs. Subject: the guest's membership.</summary>
    PassOnGuest,

    /// <summary>A resource they own passes to the heir. Subject: the resource.</summary>
    HandOver,

    /// <summary>A list that is being sent in their name stops. Subject: the list.</summary>
    StopList,

    /// <summary>A seat they hold is free. Subject: the pool.</summary>
    FreeSeat,

    /// <summary>Their account in a connected system is closed. Subject: the connection.</summary>
    CloseAccount,
}

/// <summary>How far a step has come.</summary>
public enum StepState
{
    /// <summary>It is still to be done.</summary>
    Due,

    /// <summary>It is done, and was looked at again: it is so.</summary>
    Confirmed,

    /// <summary>It was tried several times, and is tried on; why it does not come about is said with it.</summary>
    Stuck,

    /// <summary>Somebody said by their name, and with a reason, that it is so.</summary>
    ByHand,

    /// <summary>It is done, as far as whoever does it says; it cannot be looked at whether it is so.</summary>
    Done,
}

/// <summary>One step of a departure: shown beforehand, done, and kept, as the same value.</summary>
/// <param name="Deed">What is done.</param>
/// <param name="Subject">To what; see <see cref="DepartureDeed"/>.</param>
/// <param name="Name">The name of it, or for <see cref="DepartureDeed.StopAccess"/> the sentence that says what is lost.</param>
/// <param name="Heir">Who has it from then on; null where nobody does.</param>
/// <param name="HeirName">Their name; empty for none.</param>
public sealed record DepartureStep(
    DepartureDeed Deed,
    Guid Subject,
    string Name,
    Guid? Heir = null,
    string HeirName = ""
)
{
    /// <summary>How far it has come; what is done here is done together with the decision, and only outside systems take time.</summary>
    public StepState State { get; init; }

    /// <summary>When it was confirmed; null while it was not.</summary>
    public DateTimeOffset? At { get; init; }

    /// <summary>What was found when it was looked at again, or the reason somebody gave; empty for nothing.</summary>
    public string Answer { get; init; } = "";

    /// <summary>Who said by hand that it is so; empty for nobody.</summary>
    public string By { get; init; } = "";

    /// <summary>The name of the file beside that, and the SHA-256 of what is in it; empty for none.</summary>
    public string File { get; init; } = "";

    /// <summary>The SHA-256 of that file, as 64 hexadecimal digits; empty for none.</summary>
    public string FileDigest { get; init; } = "";

    /// <summary>Of a seat: since when it was held.</summary>
    public DateTimeOffset? Since { get; init; }

    /// <summary>Of a seat: whether it was held as long as the workspace held the account.</summary>
    public bool ForCustody { get; init; }
}

/// <summary>Departures in words: every sentence is made from the steps.</summary>
public static class DepartureWords
{
    /// <summary>The word of a deed: <c>stop-access</c>.</summary>
    public static string Word(this DepartureDeed deed) =>
        deed switch
        {
            DepartureDeed.StopAccess => "stop-access",
            DepartureDeed.CloseSession => "close-sign-in",
            DepartureDeed.RevokeToken => "revoke-token",
            DepartureDeed.CloseLink => "close-join-link",
            DepartureDeed.PassOnInvitation => "pass-on-invitation",
            DepartureDeed.PassOnHosting => "pass-on-hosting",
            DepartureDeed.PassOnGuest => "pass-on-guest",
            DepartureDeed.HandOver => "hand-over",
            DepartureDeed.StopList => "stop-list",
            DepartureDeed.FreeSeat => "free-seat",
            _ => "close-account",
        };

    /// <summary>The word of a state: <c>by hand</c>.</summary>
    public static string Word(this StepState state) =>
        state switch
        {
            StepState.Due => "due",
            StepState.Confirmed => "confirmed",
            StepState.Stuck => "stuck",
            StepState.Done => "done",
            _ => "by hand",
        };

    /// <summary>What is done, as a sentence.</summary>
    public static string Sentence(this DepartureStep step) =>
        step.Deed switch
        {
            DepartureDeed.StopAccess => step.Name,
            DepartureDeed.CloseSession => "1 open sign-in is closed.",
            DepartureDeed.RevokeToken => $"Their API token \"{step.Name}\" of this workspace is revoked.",
            DepartureDeed.CloseLink => $"Their join link \"{step.Name}\" is closed.",
            DepartureDeed.PassOnInvitation =>
                $"The open invitation to {step.Name} passes to {step.HeirName}.",
            DepartureDeed.PassOnHosting =>
                $"{step.HeirName} becomes the host of {step.Name}, who is invited.",
            DepartureDeed.PassOnGuest => $"{step.HeirName} becomes the host of {step.Name}.",
            DepartureDeed.HandOver => $"They own {step.Name}: it passes to {step.HeirName}.",
            DepartureDeed.StopList => $"Their list \"{step.Name}\" is sent no further.",
            DepartureDeed.FreeSeat => $"A seat of {step.Name} is freed.",
            _ => $"Their account in {step.Name} is closed, and asked for again until it is.",
        };

    /// <summary>All steps as sentences; many of the same sort as one.</summary>
    public static IReadOnlyList<string> Sentences(IReadOnlyList<DepartureStep> steps)
    {
        const int Several = 4;
        var sentences = new List<string>();
        foreach (var alike in steps.GroupBy(step => (step.Deed, step.HeirName)))
        {
            var count = alike.Count();
            var together = count < 2 ? null : Together(alike.Key.Deed, count, alike.Key.HeirName);
            // Sign-ins have no names that would tell anybody anything.
            if (together is not null && (count >= Several || alike.Key.Deed == DepartureDeed.CloseSession))
                sentences.Add(together);
            else
                sentences.AddRange(alike.Select(Sentence));
        }
        return sentences;
    }

    private static string? Together(DepartureDeed deed, int count, string heir) =>
        deed switch
        {
            DepartureDeed.CloseSession => $"{count} open sign-ins are closed.",
            DepartureDeed.RevokeToken => $"{count} API tokens of this workspace are revoked.",
            DepartureDeed.CloseLink => $"{count} join links in their name are closed.",
            DepartureDeed.PassOnInvitation => $"{count} open invitations they made pass to {heir}.",
            DepartureDeed.PassOnHosting => $"{heir} becomes the host of {count} people who are invited.",
            DepartureDeed.PassOnGuest => $"{heir} becomes the host of {count} people.",
            DepartureDeed.HandOver => $"{count} resources they own pass to {heir}.",
            DepartureDeed.StopList => $"{count} lists in their name are sent no further.",
            _ => null,
        };
}
