using System.Text.Json;
using ComeAboard.Core;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Http;

/// <summary>Turns what went wrong unexpectedly into an answer with a code; nothing was written when it comes, unless it says so.</summary>
public static class Faults
{
    /// <summary>Catches exceptions of everything behind it.</summary>
    public static IApplicationBuilder UseFaults(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                using var patience = Storage.Patience.Within(Storage.Patience.OfRequest);
                try
                {
                    await next(http);
                }
                catch (OperationCanceledException) when (http.RequestAborted.IsCancellationRequested)
                {
                    // The caller left; nobody reads an answer.
                }
                catch (Exception fault) when (!http.Response.HasStarted)
                {
                    http.Response.Clear();
                    await Explain(fault, http).WriteAsync(http);
                }
            }
        );

    /// <summary>The refusal that explains a fault; unknown ones are logged.</summary>
    public static Refusal Explain(Exception fault, HttpContext http)
    {
        if (StorageFaults.Find<BadHttpRequestException>(fault) is { } bad)
            return bad.StatusCode == StatusCodes.Status413PayloadTooLarge
                    ? new Refusal("request.too-large", "The request is too large.", "Send less at once.")
                : bad.InnerException is JsonException json ? Unreadable(json)
                : CommonRefusals.Malformed("a value is missing or of the wrong form.");
        if (StorageFaults.Find<JsonException>(fault) is { } unread)
            return Unreadable(unread);
        // Whoever reads a form that is not the visitor's any more – they were signed out since it was shown – is told so.
        if (
            StorageFaults.Find<AntiforgeryValidationException>(fault) is not null
            || fault is InvalidOperationException
                && http.Features.Get<IAntiforgeryValidationFeature>() is { IsValid: false }
        )
            return CommonRefusals.Antiforgery;
        if (StorageFaults.Find<DbUpdateConcurrencyException>(fault) is not null)
            return CommonRefusals.Stale;

        var log = http.RequestServices.GetRequiredService<ILoggerFactory>().CreateLogger("ComeAboard.Faults");
        log.LogError(fault, "A request failed");
        return StorageFaults.Explain(fault)
            ?? new Refusal(
                "service.fault",
                "The service failed at this request; nothing was changed.",
                "Try again; if it stays so, tell the operator the time it happened.",
                RefusalSort.Unavailable
            );
    }

    private static Refusal Unreadable(JsonException json) =>
        json.Path is { Length: > 1 } path
            ? CommonRefusals.Malformed($"the value at {path} is of the wrong form.") with
            {
                Field = path.StartsWith("$.", StringComparison.Ordinal) ? path[2..] : null,
            }
            : CommonRefusals.Malformed("it is not the JSON expected here.");
}
