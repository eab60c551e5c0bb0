using System.Net;
using System.Text.RegularExpressions;

namespace ComeAboard.Cli.Tests;

/// <summary>Forms of the service's pages, sent as a browser sends them.</summary>
public static partial class Forms
{
    /// <summary>Opens a page, and sends a form from it with the token the page carries.</summary>
    public static async Task<HttpResponseMessage> FormAsync(
        this HttpClient browser,
        string page,
        string path,
        Dictionary<string, string> form
    )
    {
        var shown = await browser.GetStringAsync(new Uri(page, UriKind.Relative));
        form["__RequestVerificationToken"] = WebUtility.HtmlDecode(
            TokenPattern().Match(shown).Groups[1].Value
        );
        return await browser.PostAsync(new Uri(path, UriKind.Relative), new FormUrlEncodedContent(form));
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" value=\"([^\"]+)\"")]
    private static partial Regex TokenPattern();
}
