using System.Globalization;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>How invitations were answered: over time, and by kind, host and organisation.</summary>
public sealed class Figures(Database database, TimeProvider clock)
{
    private const int MostDays = 1_100;
    private const int MostGroups = 200;

    /// <summary>One row for each day and each group, told apart by their first column.</summary>
    public static IEnumerable<IReadOnlyList<string>> TableOf(FiguresView figures)
    {
        yield return ["By", "Name", "Sent", "Accepted", "Declined", "Answer rate", "Median hours"];
        foreach (var group in figures.Groups.Prepend(new GroupFigures("all", "", figures.Total)))
            yield return
            [
                group.By,
                group.Name,
                Text(group.Figures.Sent),
                Text(group.Figures.Accepted),
                Text(group.Figures.Declined),
                group.Figures.AnswerRate?.ToString("0.###", CultureInfo.InvariantCulture) ?? "",
                group.Figures.MedianHours?.ToString("0.##", CultureInfo.InvariantCulture) ?? "",
            ];
        foreach (var day in figures.Days)
            yield return
            [
                "day",
                day.Day.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture),
                Text(day.Sent),
                Text(day.Accepted),
                Text(day.Declined),
                "",
                "",
            ];
    }

    private static string Text(int number) => number.ToString(CultureInfo.InvariantCulture);

    /// <summary>Counts the answers within a span of days, both ends included; the last 90 days unless said otherwise.</summary>
    /// <returns>The figures, or <c>figures.span</c>.</returns>
    public async Task<Outcome<FiguresView>> CountAsync(
        WorkspaceRow workspace,
        DateOnly? from,
        DateOnly? until
    )
    {
        var last = until ?? Days.Of(clock.Now(), workspace.Zone);
        var first = from ?? last.AddDays(-89);
        var length = last.DayNumber - first.DayNumber + 1;
        if (length is < 1 or > MostDays)
            return new Refusal(
                "figures.span",
                $"The span must be 1 to {MostDays} days.",
                "Give a first day before the last, and not too far.",
                Field: "from"
            );
        var (begin, end) = (Days.Begin(first, workspace.Zone), Days.Begin(last.AddDays(1), workspace.Zone));
        var days = new (int Sent, int Accepted, int Declined)[length];
        var total = new AnswerTally();
        var groups = new Dictionary<(string By, string Name), AnswerTally>();
        await using var rows = database.Open(workspace.Id);
        await foreach (
            var i in rows
                .Invitations.AsNoTracking()
                .Where(i =>
                    i.State != InvitationState.Draft
                    && (
                        i.CreatedAt >= begin && i.CreatedAt < end
                        || i.AnsweredAt >= begin && i.AnsweredAt < end
                    )
                )
                .Select(i => new
                {
                    i.State,
                    i.Kind,
                    i.HostName,
                    i.Organisation,
                    i.CreatedAt,
                    i.AnsweredAt,
                })
                .AsAsyncEnumerable()
        )
        {
            if (i.AnsweredAt is { } answered && answered >= begin && answered < end)
            {
                ref var day = ref days[Days.Of(answered, workspace.Zone).DayNumber - first.DayNumber];
                if (i.State == InvitationState.Declined)
                    day.Declined++;
                else
                    day.Accepted++;
            }
            if (i.CreatedAt < begin || i.CreatedAt >= end)
                continue;
            days[Days.Of(i.CreatedAt, workspace.Zone).DayNumber - first.DayNumber].Sent++;
            total.Count(i.State, i.CreatedAt, i.AnsweredAt);
            Group("kind", i.Kind.Word()).Count(i.State, i.CreatedAt, i.AnsweredAt);
            if (i.HostName.Length > 0)
                Group("host", i.HostName).Count(i.State, i.CreatedAt, i.AnsweredAt);
            if (i.Organisation.Length > 0)
                Group("organisation", i.Organisation).Count(i.State, i.CreatedAt, i.AnsweredAt);
        }
        return new FiguresView(
            first,
            last,
            [.. days.Select((d, n) => new DayFigures(first.AddDays(n), d.Sent, d.Accepted, d.Declined))],
            ViewOf(total.Figures()),
            [
                .. groups
                    .Select(g => new GroupFigures(g.Key.By, g.Key.Name, ViewOf(g.Value.Figures())))
                    .GroupBy(g => g.By)
                    .OrderBy(by =>
                        by.Key == "kind" ? 0
                        : by.Key == "host" ? 1
                        : 2
                    )
                    .SelectMany(by =>
                        by.OrderByDescending(g => g.Figures.Sent).ThenBy(g => g.Name).Take(MostGroups)
                    ),
            ]
        );

        AnswerTally Group(string by, string name)
        {
            if (!groups.TryGetValue((by, name), out var tally))
                groups[(by, name)] = tally = new AnswerTally();
            return tally;
        }
    }

    private static AnswerFiguresView ViewOf(AnswerFigures figures) =>
        new(
            figures.Sent,
            figures.Accepted,
            figures.Declined,
            figures.AnswerRate,
            figures.MedianAnswerTime?.TotalHours
        );
}
