namespace ComeAboard.Core.Invitations;

/// <summary>How the invitations of one group were answered.</summary>
/// <param name="Sent">How many were sent.</param>
/// <param name="Accepted">How many were answered with yes, those waiting for approval included.</param>
/// <param name="Declined">How many were answered with no.</param>
/// <param name="AnswerRate">Answered of all sent, 0 to 1; null when none was sent.</param>
/// <param name="MedianAnswerTime">The median time from first deciding to the answer; null when none was answered.</param>
public sealed record AnswerFigures(
    int Sent,
    int Accepted,
    int Declined,
    double? AnswerRate,
    TimeSpan? MedianAnswerTime
);

/// <summary>Counts invitations and their answers. Times are kept to the minute.</summary>
public sealed class AnswerTally
{
    private readonly List<int> _minutes = [];
    private int _sent;
    private int _accepted;
    private int _declined;

    /// <summary>Counts one invitation that went out.</summary>
    /// <param name="state">Where it stands.</param>
    /// <param name="created">When it was decided.</param>
    /// <param name="answered">When it was answered; null when it was not.</param>
    public void Count(InvitationState state, DateTimeOffset created, DateTimeOffset? answered)
    {
        _sent++;
        if (state is InvitationState.Accepted or InvitationState.Waiting or InvitationState.Refused)
            _accepted++;
        else if (state == InvitationState.Declined)
            _declined++;
        if (answered is { } at)
            _minutes.Add((int)Math.Max(0, (at - created).TotalMinutes));
    }

    /// <summary>The figures so far. The median of an even number is the mean of the middle two.</summary>
    public AnswerFigures Figures()
    {
        _minutes.Sort();
        var middle = _minutes.Count / 2;
        TimeSpan? median =
            _minutes.Count == 0 ? null
            : _minutes.Count % 2 == 1 ? TimeSpan.FromMinutes(_minutes[middle])
            : TimeSpan.FromMinutes((_minutes[middle - 1] + _minutes[middle]) / 2.0);
        return new AnswerFigures(
            _sent,
            _accepted,
            _declined,
            _sent == 0 ? null : (double)(_accepted + _declined) / _sent,
            median
        );
    }
}
