using ComeAboard.Client;
using ComeAboard.Core;

namespace ComeAboard.Service;

/// <summary>The one place where a refusal becomes RFC 9457 problem details.</summary>
public static class Problems
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

    private static int StatusOf(RefusalSort sort) =>
        sort switch
        {
            RefusalSort.Invalid => StatusCodes.Status422UnprocessableEntity,
            RefusalSort.NotSignedIn => StatusCodes.Status401Unauthorized,
            RefusalSort.NotAllowed => StatusCodes.Status403Forbidden,
            RefusalSort.NotFound => StatusCodes.Status404NotFound,
            RefusalSort.Conflict => StatusCodes.Status409Conflict,
            RefusalSort.Stale => StatusCodes.Status412PreconditionFailed,
            RefusalSort.Unseen => StatusCodes.Status428PreconditionRequired,
            RefusalSort.TooMany => StatusCodes.Status429TooManyRequests,
            _ => StatusCodes.Status503ServiceUnavailable,
        };
}
