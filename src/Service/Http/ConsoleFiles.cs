using System.Security.Cryptography;
using Microsoft.Extensions.FileProviders;

namespace ComeAboard.Service.Http;

/// <summary>Serves the console: its files as they were built, and its one page for every path below <c>/w/</c>.</summary>
public static class ConsoleFiles
{
    private const string NoncePlaceholder = "{{nonce}}";

    public static void MapConsole(this WebApplication app, string directory)
    {
        var page = Path.Combine(directory, "index.html");
        if (!File.Exists(page))
        {
            app.MapGet(
                    "/w/{**path}",
                    () => Results.Text("The console's files are not here; run `make build`.", statusCode: 503)
                )
                .ExcludeFromDescription();
            return;
        }
        app.UseWhen(
            http => http.Request.Path.StartsWithSegments("/assets"),
            assets => assets.UseResponseCompression()
        );
        app.UseStaticFiles(
            new StaticFileOptions
            {
                FileProvider = new PhysicalFileProvider(Path.Combine(Path.GetFullPath(directory), "assets")),
                RequestPath = "/assets",
                OnPrepareResponse = file =>
                    file.Context.Response.Headers.CacheControl = "public, max-age=31536000, immutable",
            }
        );
        var html = File.ReadAllText(page);
        app.MapGet(
                "/w/{**path}",
                (HttpContext http) => Results.Text(WithNonce(http, html), "text/html; charset=utf-8")
            )
            .ExcludeFromDescription();
    }

    /// <summary>
    /// Style sheets made by scripts carry a nonce of this answer. Style attributes are allowed for the sake of mail
    /// previews, whose sandboxed frames inherit this policy; scripts in line are not allowed at all.
    /// </summary>
    private static string WithNonce(HttpContext http, string html)
    {
        var nonce = Convert.ToBase64String(RandomNumberGenerator.GetBytes(18));
        http.Response.Headers.ContentSecurityPolicy =
            $"default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; style-src-attr 'unsafe-inline'; img-src 'self' data:; font-src 'self'; "
            + "connect-src 'self'; frame-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";
        http.Response.Headers.CacheControl = "no-store";
        return html.Replace(NoncePlaceholder, nonce, StringComparison.Ordinal);
    }
}
