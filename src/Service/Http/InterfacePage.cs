namespace ComeAboard.Service.Http;

/// <summary>The description of the network interface as a page to read, without a request to anywhere else.</summary>
public static class InterfacePage
{
    private const string Policy =
        "default-src 'none'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; font-src 'self' data:; connect-src 'self'; base-uri 'none'; frame-ancestors 'none'";

    private const string Html = """
        <!doctype html>
        <html lang="en">
        <head>
          <meta charset="utf-8">
          <meta name="viewport" content="width=device-width, initial-scale=1">
          <title>Come Aboard: the network interface</title>
          <script type="module" src="/interface/reader.js"></script>
        </head>
        <body>
          <rapi-doc spec-url="/openapi/v1.json" render-style="read" load-fonts="false" show-header="false"
            allow-try="false" allow-authentication="false" allow-server-selection="false" allow-spec-file-download="true"
            use-path-in-nav-bar="false" schema-style="table" primary-color="#0b5563" bg-color="#fffdf8" text-color="#1b2a33"
            nav-bg-color="#f4f1ea" regular-font="'Source Sans 3 Variable', system-ui, sans-serif"></rapi-doc>
          <noscript><p>This page needs scripts; the description itself is at <a href="/openapi/v1.json">/openapi/v1.json</a>.</p></noscript>
        </body>
        </html>
        """;

    /// <summary>Serves it at <c>/interface</c>.</summary>
    /// <param name="app">The service.</param>
    /// <param name="directory">Where the console's files are; the reader is one of them.</param>
    public static void MapInterfacePage(this IEndpointRouteBuilder app, string directory)
    {
        var reader = Path.Combine(directory, "interface", "reader.js");
        app.MapGet(
                "/interface",
                (HttpContext http) =>
                {
                    http.Response.Headers.ContentSecurityPolicy = Policy;
                    return Results.Text(Html, "text/html; charset=utf-8");
                }
            )
            .ExcludeFromDescription();
        app.MapGet(
                "/interface/reader.js",
                () =>
                    File.Exists(reader)
                        ? Results.File(reader, "text/javascript; charset=utf-8")
                        : CommonRefusals.NotFound.ToResult()
            )
            .ExcludeFromDescription();
    }
}
