using ComeAboard.Client;

namespace ComeAboard.Cli;

/// <summary>The exit statuses; the only place where a refusal becomes one.</summary>
public static class ExitStatus
{
    public const int Done = 0;
    public const int Failed = 1;
    public const int WrongUsage = 2;
    public const int NotSignedIn = 3;
    public const int NotFound = 4;
    public const int Refused = 5;
    public const int DoneInPart = 6;

    /// <summary>The status for a refusal.</summary>
    public static int Of(Problem problem) =>
        problem.Status switch
        {
            401 => NotSignedIn,
            404 => NotFound,
            // A value that would be wrong for everybody is wrong usage.
            400 or 422 => WrongUsage,
            403 or 409 or 412 or 428 or 429 => Refused,
            _ => Failed,
        };

    /// <summary>The status of several steps: the common one when all ended alike, else "in part".</summary>
    public static int Of(IReadOnlyCollection<int> steps)
    {
        if (steps.Distinct().Count() <= 1)
            return steps.FirstOrDefault();
        return steps.Contains(Done) ? DoneInPart : Refused;
    }
}
