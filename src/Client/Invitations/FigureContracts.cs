namespace ComeAboard.Client.Invitations;

/// <summary>How invitations were answered in a span of days.</summary>
/// <param name="From">The first day, inclusive, in the workspace's time zone.</param>
/// <param name="Until">The last day, inclusive.</param>
/// <param name="Days">What was sent and answered on each day of the span.</param>
/// <param name="Total">Everything decided in the span.</param>
/// <param name="Groups">The same by kind, host and organisation; those without one are left out.</param>
public sealed record FiguresView(
    DateOnly From,
    DateOnly Until,
    IReadOnlyList<DayFigures> Days,
    AnswerFiguresView Total,
    IReadOnlyList<GroupFigures> Groups
);

/// <summary>One day.</summary>
/// <param name="Day">Which, in the workspace's time zone.</param>
/// <param name="Sent">Invitations decided that day.</param>
/// <param name="Accepted">Answers of yes that day.</param>
/// <param name="Declined">Answers of no that day.</param>
public sealed record DayFigures(DateOnly Day, int Sent, int Accepted, int Declined);

/// <summary>How a number of invitations was answered.</summary>
/// <param name="Sent">How many were sent.</param>
/// <param name="Accepted">How many were answered with yes.</param>
/// <param name="Declined">How many were answered with no.</param>
/// <param name="AnswerRate">Answered of all sent, 0 to 1; null when none was sent.</param>
/// <param name="MedianHours">The median time to answer in hours; null when none was answered.</param>
public sealed record AnswerFiguresView(
    int Sent,
    int Accepted,
    int Declined,
    double? AnswerRate,
    double? MedianHours
);

/// <summary>Figures of one group.</summary>
/// <param name="By">kind, host or organisation.</param>
/// <param name="Name">Which one.</param>
/// <param name="Figures">Its figures.</param>
public sealed record GroupFigures(string By, string Name, AnswerFiguresView Figures);
