using System.Diagnostics;

namespace ComeAboard.Service.Http;

/// <summary>
/// One line for every request: method, route pattern, status, time. The pattern stands in for the path, since paths
/// can hold secrets and addresses; bodies and queries are never logged.
/// </summary>
public static class RequestLog
{
    public static IApplicationBuilder UseRequestLog(this IApplicationBuilder app)
    {
        var log = app
            .ApplicationServices.GetRequiredService<ILoggerFactory>()
            .CreateLogger("ComeAboard.Requests");
        return app.Use(
            async (http, next) =>
            {
                var started = Stopwatch.GetTimestamp();
                await next(http);
                var pattern = (http.GetEndpoint() as RouteEndpoint)?.RoutePattern.RawText ?? "(no route)";
                log.LogInformation(
                    "{Method} {Route} {Status} {Milliseconds}",
                    http.Request.Method,
                    pattern,
                    http.Response.StatusCode,
                    Math.Round(Stopwatch.GetElapsedTime(started).TotalMilliseconds, 1)
                );
            }
        );
    }
}
