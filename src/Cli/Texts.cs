using System.Globalization;
using System.Text.Json;
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

    private static Func<string?>? _lookUpZone;
    private static TimeZoneInfo? _zone;

    /// <summary>Says how the workspace's zone is found out, once a time has to be written.</summary>
    public static void LookUpZoneBy(Func<string?> lookUp) => _lookUpZone = lookUp;

    /// <summary>The zone of the workspace, in which every day and time is written; UTC where it is not known.</summary>
    public static TimeZoneInfo Zone =>
        _zone ??=
            _lookUpZone?.Invoke() is { } id && TimeZoneInfo.TryFindSystemTimeZoneById(id, out var zone)
                ? zone
                : TimeZoneInfo.Utc;

    /// <summary>A probability in hundredths, never more than it is: 0.996 is 0.99, and no certainty.</summary>
    public static string Probability(double score) => (Math.Floor(score * 100) / 100).ToString("0.00");

    /// <summary>An instant in the workspace's zone: 26 Nov 2026 14:05.</summary>
    public static string Instant(DateTimeOffset? at) =>
        at is { } known
            ? TimeZoneInfo.ConvertTime(known, Zone).ToString("d MMM yyyy HH:mm", CultureInfo.InvariantCulture)
            : "–";

    /// <summary>The day of the workspace an instant falls on.</summary>
    public static DateOnly DayOf(DateTimeOffset at) =>
        DateOnly.FromDateTime(TimeZoneInfo.ConvertTime(at, Zone).DateTime);

    /// <summary>A number with its noun: 1 person, 3 people.</summary>
    public static string Many(long count, string one, string many) =>
        $"{count.ToString("N0", CultureInfo.InvariantCulture)} {(count == 1 ? one : many)}";

    /// <summary>Today in the workspace's zone.</summary>
    public static DateOnly Today => DayOf(DateTimeOffset.UtcNow);

    /// <summary>The steps of a history, a line each.</summary>
    public static void PrintHistory(IReadOnlyList<RecordEntryView> entries)
    {
        Console.WriteLine();
        Console.WriteLine($"History ({Zone.Id})");
        foreach (var entry in entries)
            Console.WriteLine(
                $"  {Instant(entry.At), -18} {entry.Action, -22} by {entry.ActorName ?? entry.Actor} ({entry.Via}){(Change(entry) is { Length: > 0 } change ? $"  {change}" : "")}"
            );
    }

    /// <summary>What an entry changed: each thing as it was and as it is since.</summary>
    public static string Change(RecordEntryView entry)
    {
        if (entry.Details is not { ValueKind: JsonValueKind.Object } details)
            return "";
        var changes = new List<string>();
        foreach (var one in details.EnumerateObject())
        {
            var (thing, isBefore) =
                one.Name == "before" ? ("", true)
                : one.Name.EndsWith(" before", StringComparison.Ordinal) ? (one.Name[..^7], true)
                : ("", false);
            if (!isBefore && !one.Name.EndsWith("after", StringComparison.Ordinal))
                continue;
            if (!isBefore)
            {
                // What was nothing before is not written there.
                var name = one.Name == "after" ? "before" : one.Name[..^5] + "before";
                if (details.TryGetProperty(name, out _))
                    continue;
                (thing, var now) = (one.Name == "after" ? "" : one.Name[..^6], one.Value.ToString());
                changes.Add($"{(thing.Length > 0 ? thing + ": " : "")}{now}");
                continue;
            }
            var after = details.TryGetProperty(thing.Length > 0 ? thing + " after" : "after", out var value)
                ? value.ToString()
                : "";
            var before = one.Value.ToString();
            if (before != after)
                changes.Add($"{(thing.Length > 0 ? thing + ": " : "")}{Shown(before)} → {Shown(after)}");
        }
        return string.Join("; ", changes);

        static string Shown(string text) => text.Length == 0 ? "nothing" : text;
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
