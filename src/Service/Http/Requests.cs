using ComeAboard.Core;
using ComeAboard.Service.SignIn;
using Microsoft.AspNetCore.Antiforgery;

namespace ComeAboard.Service.Http;

/// <summary>What every endpoint reads from a request in the same way.</summary>
public static class Requests
{
    /// <summary>The largest page of a list.</summary>
    public const int LargestPage = 200;

    /// <summary>A page size within bounds.</summary>
    public static int PageSize(int? limit) => Math.Clamp(limit ?? 50, 1, LargestPage);

    /// <summary>The version in <c>If-Match</c> (RFC 9110 section 13.1.1), or null when any will do.</summary>
    public static int? ExpectedVersion(this HttpRequest request) =>
        int.TryParse(request.Headers.IfMatch.ToString().Trim('"'), out var version) ? version : null;

    /// <summary>Says which version an answer is.</summary>
    public static void SayVersion(this HttpResponse response, int version) =>
        response.Headers.ETag = $"\"{version}\"";

    /// <summary>Points to the next page (RFC 8288).</summary>
    public static void SayNext(this HttpContext http, string? cursor)
    {
        if (cursor is null)
            return;
        var query = QueryString.Create(
            http.Request.Query.Where(q => q.Key != "cursor").Append(new("cursor", cursor))
        );
        http.Response.Headers.Link = $"<{http.Request.Path}{query}>; rel=\"next\"";
    }

    /// <summary>The id in a cursor; refuses with <c>cursor.malformed</c>.</summary>
    public static Outcome<Guid> ReadCursor(string cursor) =>
        Guid.TryParseExact(cursor, "N", out var id) ? id : BadCursor;

    /// <summary>For a cursor that no page of the list gave out.</summary>
    public static Refusal BadCursor { get; } =
        new(
            "cursor.malformed",
            "The cursor is not one of this list.",
            "Start from the first page.",
            Field: "cursor"
        );

    /// <summary>
    /// Refuses changes by a browser session that do not carry its antiforgery token; programs with a token are not
    /// carried by a browser and need none.
    /// </summary>
    public static IApplicationBuilder UseAntiforgeryForSessions(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                var changes = !(
                    HttpMethods.IsGet(http.Request.Method) || HttpMethods.IsHead(http.Request.Method)
                );
                var isSession = http.User.Identity?.AuthenticationType == SessionSignIn.Scheme;
                if (changes && isSession && http.Request.Path.StartsWithSegments("/api"))
                    await http.RequestServices.GetRequiredService<IAntiforgery>().ValidateRequestAsync(http);
                await next(http);
            }
        );
}
