namespace ComeAboard.Core.Workspaces;

/// <summary>
/// Until when a member may be here. The last day is a day in the workspace's time zone and is included: access ends
/// at the first instant of the following day.
/// </summary>
/// <param name="LastDay">The last day, inclusive; null for no end.</param>
public readonly record struct Stay(DateOnly? LastDay)
{
    /// <summary>A stay without an end.</summary>
    public static Stay Endless => new(null);

    /// <summary>Whether the stay has no end.</summary>
    public bool IsEndless => LastDay is null;

    /// <summary>The first instant at which the stay is over (exclusive end); null for no end.</summary>
    /// <param name="zone">The workspace's time zone.</param>
    public DateTimeOffset? Over(TimeZoneInfo zone) =>
        LastDay is { } day ? Days.Begin(day.AddDays(1), zone) : null;

    /// <summary>Whether the stay is over at an instant.</summary>
    /// <param name="now">The instant asked about.</param>
    /// <param name="zone">The workspace's time zone.</param>
    public bool IsOver(DateTimeOffset now, TimeZoneInfo zone) => Over(zone) is { } over && now >= over;

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
