using System.Net;
using System.Net.Http.Json;
using System.Text.RegularExpressions;
using ComeAboard.Client.SignIn;
using Microsoft.AspNetCore.Builder;

namespace ComeAboard.Service.Tests.World;

/// <summary>What a browser does: it keeps cookies, sends forms back with their token, and follows no redirection unasked.</summary>
public static partial class Browser
{
    /// <summary>A browser in which nobody is signed in.</summary>
    public static HttpClient At(WebApplication node) =>
        new(new HttpClientHandler { AllowAutoRedirect = false, CookieContainer = new CookieContainer() })
        {
            BaseAddress = Harbour.UrlOf(node),
        };

    /// <summary>Sends a form with the token of the page it stands on.</summary>
    public static async Task<HttpResponseMessage> FormAsync(
        this HttpClient browser,
        string page,
        string path,
        Dictionary<string, string> form
    )
    {
        var shown = await browser.GetAsync(new Uri(page, UriKind.Relative));
        var token = TokenPattern().Match(await shown.Content.ReadAsStringAsync()).Groups[1].Value;
        form["__RequestVerificationToken"] = WebUtility.HtmlDecode(token);
        return await browser.PostAsync(new Uri(path, UriKind.Relative), new FormUrlEncodedContent(form));
    }

    /// <summary>Calls the interface as a page's script does, with the token that shows it.</summary>
    public static async Task<HttpResponseMessage> SendAsync<T>(
        this HttpClient browser,
        HttpMethod method,
        string path,
        T body
    )
    {
        var token = (await browser.GetFromJsonAsync<AntiforgeryView>("/api/v1/antiforgery"))!.Token;
        using var request = new HttpRequestMessage(method, new Uri(path, UriKind.Relative))
        {
            Content = JsonContent.Create(body),
        };
        request.Headers.Add("X-Antiforgery", token);
        return await browser.SendAsync(request);
    }

    [GeneratedRegex("name=\"__RequestVerificationToken\" value=\"([^\"]+)\"")]
    public static partial Regex TokenPattern();
}
