using System.Globalization;
using ComeAboard.Client.Access;
using ComeAboard.Client.Record;

namespace ComeAboard.Cli;

/// <summary>Times and entries in words.</summary>
public static class Texts
{
    /// <summary>A day beside how far off it is: 26 Nov 2026 (in 3 days).</summary>
    public static string Day(DateOnly? day, DateOnly today)
    {
        if (day is not { } known)
            return "no end";
        var off = known.DayNumber - today.DayNumber;
        var words = off switch
        {
            0 => "today",
            1 => "tomorrow",
            -1 => "yesterday",
            > 1 => $"in {off} days",
            _ => $"{-off} days ago",
        };
        return $"{Plain(known)} ({words})";
    }

    /// <summary>A day: 26 Nov 2026.</summary>
    public static string Plain(DateOnly day) => day.ToString("d MMM yyyy", CultureInfo.InvariantCulture);

    /// <summary>An instant in UTC: 26 Nov 2026 14:05.</summary>
    public static string Instant(DateTimeOffset? at) =>
        at?.UtcDateTime.ToString("d MMM yyyy HH:mm", CultureInfo.InvariantCulture) ?? "–";

    /// <summary>Today in UTC.</summary>
    public static DateOnly Today => DateOnly.FromDateTime(DateTime.UtcNow);

    /// <summary>The steps of a history, a line each.</summary>
    public static void PrintHistory(IReadOnlyList<RecordEntryView> entries)
    {
        Console.WriteLine();
        Console.WriteLine("History (UTC)");
        foreach (var entry in entries)
            Console.WriteLine(
                $"  {Instant(entry.At), -18} {entry.Action, -22} by {entry.ActorName ?? entry.Actor} ({entry.Via})"
            );
    }

    /// <summary>A grant in a few words.</summary>
    public static string Grant(GrantView grant) =>
        grant.Role
        + (grant.Resource is { } at ? $" at {at}" : "")
        + (grant.From is { } from && from > Today ? $" from {Plain(from)}" : "")
        + (grant.Until is { } until ? $" until {Plain(until)}" : "");

    /// <summary>What something gives, in a few words: curator at Ledger, group Reading room, seat berth.</summary>
    public static string Gives(BundleView? gives) =>
        string.Join(
            ", ",
            [
                .. (gives?.Roles ?? []).Select(given =>
                    given.Role
                    + (given.Resource is { } at ? $" at {at}" : "")
                    + (given.Until is { } until ? $" until {Plain(until)}" : "")
                ),
                .. (gives?.Groups ?? []).Select(group => $"group {group}"),
                .. (gives?.Seats ?? []).Select(seat => $"seat {seat}"),
            ]
        )
            is { Length: > 0 } words
            ? words
            : "nothing";

    /// <summary>The grant of a role at a resource, or in the whole workspace, among some.</summary>
    public static GrantView Find(IReadOnlyList<GrantView> grants, string role, string? resource) =>
        grants.FirstOrDefault(grant =>
            grant.Role.Equals(role, StringComparison.OrdinalIgnoreCase)
            && string.Equals(grant.Resource, resource, StringComparison.OrdinalIgnoreCase)
        )
        ?? throw new UsageException(
            $"The role {role} is not given {(resource is null ? "in the whole workspace" : "at " + resource)}; there is: {string.Join(", ", grants.Select(Grant))}."
        );

    /// <summary>Reads a day as people write it in commands: 2027-01-31.</summary>
    public static DateOnly? ReadDay(string? text, string option) =>
        text is null ? null
        : DateOnly.TryParseExact(
            text,
            "yyyy-MM-dd",
            CultureInfo.InvariantCulture,
            DateTimeStyles.None,
            out var day
        )
            ? day
        : throw new UsageException($"{option}: \"{text}\" is not a day like 2027-01-31.");
}
