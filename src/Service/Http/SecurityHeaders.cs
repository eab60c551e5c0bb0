namespace ComeAboard.Service.Http;

/// <summary>The headers every answer carries.</summary>
public static class SecurityHeaders
{
    private const string PagePolicy =
        "default-src 'none'; style-src 'self'; img-src 'self' data:; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    /// <summary>Lets a page run our own script, which speaks to this service alone.</summary>
    public static void AllowOwnScript(this HttpContext http) =>
        http.Response.Headers.ContentSecurityPolicy = PagePolicy + "; script-src 'self'; connect-src 'self'";

    /// <summary>Lets a form of ours lead on to a place that was registered: browsers ask for that where an answer redirects.</summary>
    /// <param name="http">The request.</param>
    /// <param name="address">An address there; nothing is let for none.</param>
    public static void AllowFormTo(this HttpContext http, string? address)
    {
        if (Uri.TryCreate(address, UriKind.Absolute, out var place))
            http.Response.Headers.ContentSecurityPolicy = PagePolicy.Replace(
                "form-action 'self'",
                $"form-action 'self' {place.GetLeftPart(UriPartial.Authority)}",
                StringComparison.Ordinal
            );
    }

    public static IApplicationBuilder UseSecurityHeaders(this IApplicationBuilder app, bool isPlain) =>
        app.Use(
            (http, next) =>
            {
                Put(http, isPlain);
                // An answer that is begun anew, as when something failed, has lost them; a page of its own policy keeps that.
                http.Response.OnStarting(() =>
                {
                    if (!http.Response.Headers.ContainsKey("X-Content-Type-Options"))
                        Put(http, isPlain);
                    return Task.CompletedTask;
                });
                return next(http);
            }
        );

    private static void Put(HttpContext http, bool isPlain)
    {
        var headers = http.Response.Headers;
        headers.ContentSecurityPolicy = PagePolicy;
        headers.XContentTypeOptions = "nosniff";
        headers["Referrer-Policy"] = "no-referrer";
        headers["Cross-Origin-Opener-Policy"] = "same-origin";
        headers["Cross-Origin-Resource-Policy"] = "same-origin";
        headers["Permissions-Policy"] = "camera=(), geolocation=(), microphone=()";
        if (!isPlain)
            headers.StrictTransportSecurity = "max-age=31536000; includeSubDomains";
        if (!http.Request.Path.StartsWithSegments("/assets"))
            headers.CacheControl = "no-store";
    }
}
