using ComeAboard.Core;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Antiforgery;

namespace ComeAboard.Service.Http;

/// <summary>What every endpoint reads from a request in the same way.</summary>
public static class Requests
{
    /// <summary>The version in <c>If-Match</c> (RFC 9110 section 13.1.1), or null when any will do.</summary>
    public static int? ExpectedVersion(this HttpRequest request) =>
        int.TryParse(request.Headers.IfMatch.ToString().Trim('"'), out var version) ? version : null;

    /// <summary>The key under which a request that is made again gets its first answer; null when there is none.</summary>
    public static string? IdempotencyKey(this HttpRequest request) =>
        request.Headers["Idempotency-Key"].ToString() is { Length: > 0 } key ? key : null;

    /// <summary>What is asked for, as JSON, where the kind of it is not known to whatever reads the request.</summary>
    /// <exception cref="BadHttpRequestException">There is nothing, or it is no JSON.</exception>
    public static async Task<T> BodyAsync<T>(this HttpContext http)
        where T : class =>
        (
            http.Request.HasJsonContentType()
                ? await http.Request.ReadFromJsonAsync<T>(http.RequestAborted)
                : null
        ) ?? throw new BadHttpRequestException("There is no JSON in the request.");

    /// <summary>How a change is asked for.</summary>
    public static Wanted Wanted(this HttpContext http, bool dryRun = false, bool tell = false) =>
        new(http.Request.ExpectedVersion(), dryRun, tell);

    /// <summary>
    /// Refuses an <c>If-Match</c> that names no version of ours: a weak one never matches (section 8.8.3.2), and one that is
    /// malformed must not be taken for none at all. What replaces something must carry one (RFC 6585 section 3).
    /// </summary>
    public static IApplicationBuilder UsePreconditions(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                var wanted = http.Request.Headers.IfMatch.ToString();
                // What no operation takes is refused for that, and not for what it does not say.
                var isApi =
                    http.GetEndpoint() is RouteEndpoint && http.Request.Path.StartsWithSegments("/api");
                if (wanted is "" && isApi && HttpMethods.IsPut(http.Request.Method))
                    await CommonRefusals.Unseen.WriteAsync(http);
                else if (
                    wanted is "" or "*"
                    || wanted is ['"', .. var digits, '"'] && int.TryParse(digits, out _)
                    || !isApi
                )
                    await next(http);
                else if (wanted.StartsWith("W/", StringComparison.Ordinal))
                    await CommonRefusals.Stale.WriteAsync(http);
                else
                    await CommonRefusals
                        .Malformed("If-Match must be one version in quotes.")
                        .WriteAsync(http);
            }
        );

    /// <summary>An answer that says which version it is.</summary>
    public static IResult Versioned<T>(this HttpContext http, T answer, int version)
    {
        http.Response.SayVersion(version);
        return Results.Ok(answer);
    }

    /// <summary>Says which version an answer is.</summary>
    public static void SayVersion(this HttpResponse response, int version) =>
        response.Headers.ETag = $"\"{version}\"";

    /// <summary>Points to the next page (RFC 8288).</summary>
    public static void SayNext(this HttpContext http, string? cursor)
    {
        // A file holds the whole list, and its answer has begun when its later pages are read.
        if (cursor is null || http.AsksForCsv())
            return;
        var query = QueryString.Create(
            http.Request.Query.Where(q => q.Key != "cursor").Append(new("cursor", cursor))
        );
        http.Response.Headers.Link = $"<{http.Request.Path}{query}>; rel=\"next\"";
    }

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
