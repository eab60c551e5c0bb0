namespace ComeAboard.Client;

/// <summary>A refusal on the wire: RFC 9457 problem details with this service's own members.</summary>
public sealed record Problem
{
    /// <summary>The media type of the document.</summary>
    public const string MediaType = "application/problem+json";

    /// <summary>A URI that names the code.</summary>
    public string? Type { get; init; }

    /// <summary>What is wrong, as a sentence.</summary>
    public required string Title { get; init; }

    /// <summary>The HTTP status.</summary>
    public required int Status { get; init; }

    /// <summary>What to do, as a sentence.</summary>
    public string? Detail { get; init; }

    /// <summary>The stable code, such as <c>address.malformed</c>.</summary>
    public required string Code { get; init; }

    /// <summary>The input at fault, where there is exactly one.</summary>
    public string? Field { get; init; }

    /// <summary>The id of the thing to look at instead, where there is one.</summary>
    public Guid? Related { get; init; }
}

/// <summary>Thrown by <see cref="AboardClient"/> when the service refuses, or cannot be reached (status 0).</summary>
/// <param name="problem">The refusal.</param>
public sealed class RefusedException(Problem problem) : Exception(problem.Title)
{
    /// <summary>The refusal as it came.</summary>
    public Problem Problem { get; } = problem;
}
