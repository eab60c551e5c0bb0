namespace ComeAboard.Core.Invitations;

/// <summary>When an unanswered invitation is reminded of.</summary>
public static class Reminders
{
    /// <summary>No reminder goes out so close to the deadline that it could hardly be answered.</summary>
    public static readonly TimeSpan LastCall = TimeSpan.FromHours(6);

    /// <summary>
    /// The first instant of the schedule that is still to come; null when none is, or when the deadline is nearer than
    /// <see cref="LastCall"/> after it.
    /// </summary>
    /// <param name="sent">When the mail server took the first mail.</param>
    /// <param name="days">Days after that, ascending.</param>
    /// <param name="deadline">The first instant at which an answer is too late (exclusive end).</param>
    /// <param name="after">Reminders at or before this instant are over.</param>
    public static DateTimeOffset? Next(
        DateTimeOffset sent,
        IReadOnlyList<int> days,
        DateTimeOffset deadline,
        DateTimeOffset after
    )
    {
        foreach (var day in days)
        {
            var due = sent.AddDays(day);
            if (due > after)
                return due + LastCall <= deadline ? due : null;
        }
        return null;
    }
}
