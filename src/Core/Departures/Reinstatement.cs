using ComeAboard.Core.Workspaces;

namespace ComeAboard.Core.Departures;

/// <summary>How what a step of a departure took away stands by now.</summary>
public enum LeftBehind
{
    /// <summary>It can be given back as it was.</summary>
    Free,

    /// <summary>Somebody has it by now, or nothing of it is left to be had.</summary>
    Taken,

    /// <summary>There is nothing of it any more.</summary>
    Gone,

    /// <summary>It comes back by itself: access here brings it along.</summary>
    Follows,

    /// <summary>Such a thing is never given back; it begins anew.</summary>
    Never,
}

/// <summary>What becomes of one step of a departure when somebody is reinstated.</summary>
/// <param name="Step">The step.</param>
/// <param name="Stands">How what it took away stands.</param>
public sealed record ReinstateLine(DepartureStep Step, LeftBehind Stands)
{
    /// <summary>Whether it is as it was before.</summary>
    public bool IsRestored => Stands is LeftBehind.Free or LeftBehind.Follows;

    /// <summary>What becomes of it, as a sentence.</summary>
    public string Sentence =>
        Step.Deed switch
        {
            DepartureDeed.StopAccess => Stands == LeftBehind.Gone
                ? $"Not any more: {Words.Continued(Step.Name)}"
                : Step.Name,
            DepartureDeed.CloseSession => "They sign in again.",
            DepartureDeed.RevokeToken => $"Their API token \"{Step.Name}\" counts again.",
            DepartureDeed.CloseLink => $"Their join link \"{Step.Name}\" is open again{But()}.",
            DepartureDeed.PassOnInvitation => $"The open invitation to {Step.Name} is theirs again{But()}.",
            DepartureDeed.PassOnHosting => $"They host {Step.Name}, who is invited, again{But()}.",
            DepartureDeed.PassOnGuest => $"They host {Step.Name} again{But()}.",
            DepartureDeed.HandOver => $"They own {Step.Name} again{But()}.",
            DepartureDeed.StopList => $"Their list \"{Step.Name}\" stays stopped.",
            DepartureDeed.FreeSeat => $"They have a seat of {Step.Name} again{But()}.",
            _ => $"Their account in {Step.Name} is made or switched on again.",
        };

    private string But() =>
        Stands switch
        {
            LeftBehind.Taken => " – not: somebody else has it by now, and keeps it",
            LeftBehind.Gone => " – not: it is over, or not there any more",
            _ => "",
        };
}

/// <summary>Taking an end back after it came about: exactly as it was, minus what has been given to others since.</summary>
/// <param name="Stay">The stay they have again.</param>
/// <param name="Lines">What becomes of each step, in the order of the departure.</param>
public sealed record Reinstatement(Stay Stay, IReadOnlyList<ReinstateLine> Lines)
{
    /// <summary>For how many days after an end it can be taken back.</summary>
    public const int GraceDays = 30;

    /// <summary>
    /// Plans one. Refuses with <c>reinstate.here</c> when they are here, <c>reinstate.too-late</c> after the grace period, or
    /// <c>reinstate.over</c> when the stay that was agreed is over itself.
    /// </summary>
    /// <param name="name">Who.</param>
    /// <param name="endedAt">When their access ended; null when it has not.</param>
    /// <param name="agreed">The stay that was agreed before anybody ended it.</param>
    /// <param name="now">Now.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    /// <param name="steps">The steps of the departure, each with how what it took stands.</param>
    public static Outcome<Reinstatement> For(
        string name,
        DateTimeOffset? endedAt,
        Stay agreed,
        DateTimeOffset now,
        DateOnly today,
        IReadOnlyList<ReinstateLine> steps
    )
    {
        if (endedAt is not { } ended)
            return new Refusal(
                "reinstate.here",
                $"The access of {name} has not ended.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        if (now > ended.AddDays(GraceDays))
            return new Refusal(
                "reinstate.too-late",
                $"The access of {name} ended more than {GraceDays} days ago.",
                "Invite them again.",
                RefusalSort.Conflict
            );
        return agreed.LastDay < today
            ? new Refusal(
                "reinstate.over",
                $"The stay of {name} was agreed until {agreed.LastDay:yyyy-MM-dd} only.",
                "Invite them again.",
                RefusalSort.Conflict
            )
            : new Reinstatement(agreed, steps);
    }
}
