using ComeAboard.Client;
using ComeAboard.Core;

namespace ComeAboard.Service.Http;

/// <summary>Refusals and outcomes as answers.</summary>
public static class Refusals
{
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
}
