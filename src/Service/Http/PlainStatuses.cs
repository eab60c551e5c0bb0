using ComeAboard.Core;
using ComeAboard.Service.Pages;

namespace ComeAboard.Service.Http;

/// <summary>Statuses that the framework sets by itself get a document too.</summary>
public static class PlainStatuses
{
    public static IApplicationBuilder UsePlainStatuses(this IApplicationBuilder app) =>
        app.UseStatusCodePages(context => ExplainAsync(context.HttpContext));

    private static Task ExplainAsync(HttpContext http) =>
        http.Response.StatusCode switch
        {
            StatusCodes.Status404NotFound => CommonRefusals.NotFound.WriteAsync(http),
            // Where a form is sent there may be no page to look at.
            StatusCodes.Status405MethodNotAllowed when RefusedPages.IsLookedAt(http) =>
                CommonRefusals.NotFound.WriteAsync(http, http.Response.StatusCode),
            StatusCodes.Status405MethodNotAllowed => WithStatus(
                http,
                "method.not-allowed",
                "This path does not take that method."
            ),
            StatusCodes.Status415UnsupportedMediaType => WithStatus(
                http,
                "media-type.unsupported",
                "This path does not take a body of that type."
            ),
            var status and >= 400 => WithStatus(
                http,
                "request.malformed",
                $"The request was refused with status {status}."
            ),
            _ => Task.CompletedTask,
        };

    private static Task WithStatus(HttpContext http, string code, string sentence) =>
        new Refusal(code, sentence, "Correct it as the interface's description says.").WriteAsync(
            http,
            http.Response.StatusCode
        );
}
