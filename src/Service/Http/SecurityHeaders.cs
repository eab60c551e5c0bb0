namespace ComeAboard.Service.Http;

/// <summary>The headers every answer carries.</summary>
public static class SecurityHeaders
{
    private const string PagePolicy =
        "default-src 'none'; style-src 'self'; img-src 'self' data:; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    public static IApplicationBuilder UseSecurityHeaders(this IApplicationBuilder app, bool isPlain) =>
        app.Use(
            (http, next) =>
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
                return next(http);
            }
        );
}
