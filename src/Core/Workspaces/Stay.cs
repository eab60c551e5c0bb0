namespace ComeAboard.Core.Workspaces;

/// <summary>
/// From when until when a member may be here. Both days are days in the workspace's time zone and are included: access
/// begins with the first instant of the first day and ends at the first instant after the last.
/// </summary>
/// <param name="LastDay">The last day, inclusive; null for no end.</param>
/// <param name="FirstDay">The first day, inclusive; null for at once.</param>
public readonly record struct Stay(DateOnly? LastDay, DateOnly? FirstDay = null)
{
    /// <summary>A stay without an end.</summary>
    public static Stay Endless => new(null);

    /// <summary>Whether the stay has no end.</summary>
    public bool IsEndless => LastDay is null;

    /// <summary>Whether a day of the workspace's time zone is within the stay; both ends are.</summary>
    public bool Contains(DateOnly day) => !(FirstDay > day) && !(LastDay < day);

    /// <summary>The first instant at which the stay is over (exclusive end); null for no end.</summary>
    /// <param name="zone">The workspace's time zone.</param>
    public DateTimeOffset? Over(TimeZoneInfo zone) =>
        LastDay is { } day ? Days.Begin(day.AddDays(1), zone) : null;

    /// <summary>Whether the stay is over at an instant.</summary>
    /// <param name="now">The instant asked about.</param>
    /// <param name="zone">The workspace's time zone.</param>
    public bool IsOver(DateTimeOffset now, TimeZoneInfo zone) => Over(zone) is { } over && now >= over;

    /// <summary>Refuses, with <c>stay.past</c>, what only makes sense before the stay is over.</summary>
    /// <param name="now">The instant asked about.</param>
    /// <param name="zone">The workspace's time zone.</param>
    /// <param name="remedy">What to do instead.</param>
    public Refusal? ForbidsPast(DateTimeOffset now, TimeZoneInfo zone, string remedy) =>
        IsOver(now, zone)
            ? new Refusal(
                "stay.past",
                $"The stay it offers ended on {LastDay:yyyy-MM-dd}.",
                remedy,
                RefusalSort.Conflict
            )
            : null;

    /// <summary>The first instant of the stay; null when it begins at once.</summary>
    /// <param name="zone">The workspace's time zone.</param>
    public DateTimeOffset? Begin(TimeZoneInfo zone) => FirstDay is { } day ? Days.Begin(day, zone) : null;

    /// <summary>Whether the stay has begun at an instant.</summary>
    /// <param name="now">The instant asked about.</param>
    /// <param name="zone">The workspace's time zone.</param>
    public bool IsBegun(DateTimeOffset now, TimeZoneInfo zone) =>
        Begin(zone) is not { } begin || now >= begin;

    /// <summary>
    /// Reads the days of a stay still to come; refuses with <c>stay.past</c>, <c>stay.too-far</c> or <c>stay.reversed</c>.
    /// A first day that is over already is no fault: the stay then begins at once.
    /// </summary>
    /// <param name="firstDay">The first day, inclusive; null for at once.</param>
    /// <param name="lastDay">The last day, inclusive; null for no end.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public static Outcome<Stay> Between(DateOnly? firstDay, DateOnly? lastDay, DateOnly today)
    {
        if (!Until(lastDay, today).Try(out var stay, out var refusal))
            return refusal;
        if (firstDay > lastDay)
            return new Refusal(
                "stay.reversed",
                $"The stay would end on {lastDay:yyyy-MM-dd}, before it begins on {firstDay:yyyy-MM-dd}.",
                "Check the two days.",
                Field: "from"
            );
        if (firstDay > today.AddYears(5))
            return new Refusal(
                "stay.too-far",
                $"The first day, {firstDay:yyyy-MM-dd}, is more than 5 years away.",
                "Check the year.",
                Field: "from"
            );
        return stay with { FirstDay = firstDay <= today ? null : firstDay };
    }

    /// <summary>Reads a last day for a stay still to come; refuses with <c>stay.past</c> or <c>stay.too-far</c>.</summary>
    /// <param name="lastDay">The last day, inclusive; null for no end.</param>
    /// <param name="today">Today in the workspace's time zone. Today itself is allowed.</param>
    public static Outcome<Stay> Until(DateOnly? lastDay, DateOnly today)
    {
        if (lastDay < today)
            return new Refusal(
                "stay.past",
                $"The last day, {lastDay:yyyy-MM-dd}, is over.",
                $"Give {today:yyyy-MM-dd} or a later day.",
                Field: "until"
            );
        if (lastDay > today.AddYears(50))
            return new Refusal(
                "stay.too-far",
                $"The last day, {lastDay:yyyy-MM-dd}, is more than 50 years away.",
                "Check the year, or leave the day out for no end.",
                Field: "until"
            );
        return new Stay(lastDay);
    }

    /// <summary>
    /// This stay with a later last day. Refuses with <c>stay.not-later</c>, or as <see cref="Until"/> does: an earlier end is a
    /// departure, with all that it takes.
    /// </summary>
    /// <param name="lastDay">The last day from now on, inclusive.</param>
    /// <param name="today">Today in the workspace's time zone.</param>
    public Outcome<Stay> Extended(DateOnly lastDay, DateOnly today) =>
        !Until(lastDay, today).Try(out _, out var refusal) ? refusal
        : LastDay is { } last && lastDay > last ? this with { LastDay = lastDay }
        : new Refusal(
            "stay.not-later",
            LastDay is { } until
                ? $"The stay goes on until {until:yyyy-MM-dd} already."
                : "The stay has no end already.",
            "To end it earlier: aboard departures start ADDRESS --on DATE",
            RefusalSort.Conflict,
            "until"
        );
}

/// <summary>Days and instants of a time zone.</summary>
public static class Days
{
    /// <summary>The day it is at an instant.</summary>
    public static DateOnly Of(DateTimeOffset instant, TimeZoneInfo zone) =>
        DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(instant, zone).DateTime);

    /// <summary>The first instant of a day, in UTC. Where midnight is skipped by a clock change, the first instant after the gap.</summary>
    public static DateTimeOffset Begin(DateOnly day, TimeZoneInfo zone)
    {
        var midnight = day.ToDateTime(TimeOnly.MinValue, DateTimeKind.Unspecified);
        while (zone.IsInvalidTime(midnight))
            midnight = midnight.AddMinutes(15);
        var offset = zone.IsAmbiguousTime(midnight)
            ? zone.GetAmbiguousTimeOffsets(midnight).Max()
            : zone.GetUtcOffset(midnight);
        return new DateTimeOffset(midnight, offset).ToUniversalTime();
    }
}
