using ComeAboard.Client;
using ComeAboard.Core;
using ComeAboard.Service.Pages;

namespace ComeAboard.Service.Http;

/// <summary>Refusals and outcomes as answers.</summary>
public static class Refusals
{
    /// <summary>The refusal as an answer.</summary>
    /// <param name="refusal">Why not.</param>
    /// <param name="status">The status; null for the refusal's own.</param>
    public static IResult ToResult(this Refusal refusal, int? status = null)
    {
        var problem = refusal.ToProblem();
        problem = problem with { Status = status ?? problem.Status };
        return Results.Json(problem, WireJson.Default.Problem, Problem.MediaType, problem.Status);
    }

    /// <summary>The value as an answer, or the refusal.</summary>
    public static IResult ToResult<T>(this Outcome<T> outcome, Func<T, IResult>? success = null)
        where T : notnull =>
        outcome.Try(out var value, out var refusal)
            ? success?.Invoke(value) ?? Results.Ok(value)
            : refusal.ToResult();

    /// <summary>Writes the refusal as the answer: a document, or a page for whoever looks at it.</summary>
    /// <param name="refusal">Why not.</param>
    /// <param name="http">The request.</param>
    /// <param name="status">The status; null for the refusal's own.</param>
    public static Task WriteAsync(this Refusal refusal, HttpContext http, int? status = null) =>
        (
            RefusedPages.IsLookedAt(http) ? RefusedPages.Of(refusal, http, status) : refusal.ToResult(status)
        ).ExecuteAsync(http);
}
