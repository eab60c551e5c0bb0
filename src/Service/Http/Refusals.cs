using ComeAboard.Client;
using ComeAboard.Core;

namespace ComeAboard.Service.Http;

/// <summary>The one place where a refusal becomes RFC 9457 problem details.</summary>
public static class Refusals
{
    /// <summary>The refusal as a document.</summary>
    public static Problem ToProblem(this Refusal refusal) =>
        new()
        {
            Type = "urn:come-aboard:problem:" + refusal.Code,
            Title = refusal.Sentence,
            Detail = refusal.Remedy,
            Status = StatusOf(refusal.Sort),
            Code = refusal.Code,
            Field = refusal.Field,
            Related = refusal.Related,
        };

    /// <summary>The refusal as an answer.</summary>
    public static IResult ToResult(this Refusal refusal)
    {
        var problem = refusal.ToProblem();
        return Results.Json(problem, WireJson.Default.Problem, Problem.MediaType, problem.Status);
    }

    /// <summary>The value as an answer, or the refusal.</summary>
    public static IResult ToResult<T>(this Outcome<T> outcome, Func<T, IResult>? success = null)
        where T : notnull =>
        outcome.Try(out var value, out var refusal)
            ? success?.Invoke(value) ?? Results.Ok(value)
            : refusal.ToResult();

    /// <summary>Writes the refusal as the answer.</summary>
    public static Task WriteAsync(this Refusal refusal, HttpContext http) =>
        refusal.ToResult().ExecuteAsync(http);

    private static int StatusOf(RefusalSort sort) =>
        sort switch
        {
            RefusalSort.Invalid => StatusCodes.Status422UnprocessableEntity,
            RefusalSort.NotSignedIn => StatusCodes.Status401Unauthorized,
            RefusalSort.NotAllowed => StatusCodes.Status403Forbidden,
            RefusalSort.NotFound => StatusCodes.Status404NotFound,
            RefusalSort.Conflict => StatusCodes.Status409Conflict,
            RefusalSort.Stale => StatusCodes.Status412PreconditionFailed,
            RefusalSort.TooMany => StatusCodes.Status429TooManyRequests,
            _ => StatusCodes.Status503ServiceUnavailable,
        };
}

/// <summary>The refusals that belong to no step of the work.</summary>
public static class CommonRefusals
{
    public static Refusal NotFound { get; } =
        new(
            "not-found",
            "There is nothing here by that name.",
            "Check the address or the id.",
            RefusalSort.NotFound
        );

    public static Refusal SignInRequired { get; } =
        new(
            "sign-in.required",
            "Nobody is signed in, or the sign-in has ended.",
            "Sign in and try again.",
            RefusalSort.NotSignedIn
        );

    public static Refusal TooMany { get; } =
        new(
            "too-many",
            "That was asked too often in a short time.",
            "Wait a little and try again.",
            RefusalSort.TooMany
        );

    public static Refusal Stale { get; } =
        new(
            "version.stale",
            "Somebody else changed this meanwhile.",
            "Look at it again and repeat what is still wanted.",
            RefusalSort.Stale
        );

    public static Refusal Malformed(string why) =>
        new(
            "request.malformed",
            "The request cannot be read: " + why,
            "Correct it as the interface's description says."
        );

    public static Refusal Antiforgery { get; } =
        new(
            "antiforgery.missing",
            "The request does not carry this session's antiforgery token.",
            "Load the page again and repeat the step.",
            RefusalSort.NotAllowed
        );
}
