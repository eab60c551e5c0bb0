using System.Net;
using System.Net.Http.Headers;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json;
using System.Text.RegularExpressions;
using Microsoft.AspNetCore.Builder;
using Microsoft.AspNetCore.WebUtilities;

namespace ComeAboard.Service.Tests.World;

/// <summary>What a program does that is registered with us: it asks for tokens as the standards say, and shows them.</summary>
public sealed partial class Relying(
    WebApplication node,
    string clientId,
    string? secret = null,
    string redirect = Relying.Redirect
) : IDisposable
{
    public const string Redirect = "https://rigging.example/back";

    private readonly HttpClient _http = Make(node);
    private readonly string _verifier = WebEncoders.Base64UrlEncode(RandomNumberGenerator.GetBytes(32));

    public string State { get; } = Guid.NewGuid().ToString("N");
    public string Nonce { get; } = Guid.NewGuid().ToString("N");

    private static HttpClient Make(WebApplication node)
    {
        var http = new HttpClient(new HttpClientHandler { AllowAutoRedirect = false, UseCookies = false })
        {
            BaseAddress = Harbour.UrlOf(node),
        };
        http.DefaultRequestHeaders.UserAgent.ParseAdd("rigging/1.0 (Linux)");
        return http;
    }

    /// <summary>Where people are sent to sign in.</summary>
    public string Question(string scope, params (string Name, string? Value)[] more)
    {
        var asked = new Dictionary<string, string?>
        {
            ["response_type"] = "code",
            ["client_id"] = clientId,
            ["redirect_uri"] = redirect,
            ["scope"] = scope,
            ["state"] = State,
            ["nonce"] = Nonce,
            ["code_challenge"] = WebEncoders.Base64UrlEncode(
                SHA256.HashData(Encoding.ASCII.GetBytes(_verifier))
            ),
            ["code_challenge_method"] = "S256",
        };
        foreach (var (name, value) in more)
            asked[name] = value;
        return QueryHelpers.AddQueryString("/oauth/authorize", asked.Where(pair => pair.Value is not null));
    }

    /// <summary>Sends a browser there, and lets in what asks to be let in; what it comes back with.</summary>
    public async Task<IReadOnlyDictionary<string, string>> AskAsync(
        HttpClient browser,
        string scope,
        string answer = "yes",
        params (string Name, string? Value)[] more
    )
    {
        var asked = Question(scope, more);
        var shown = await browser.GetAsync(new Uri(asked, UriKind.Relative));
        // What cannot be sent back is said on a page of ours.
        if (shown.StatusCode == HttpStatusCode.UnprocessableEntity)
            return new Dictionary<string, string> { ["error"] = "said here" };
        if (shown.StatusCode == HttpStatusCode.OK)
        {
            var page = await shown.Content.ReadAsStringAsync();
            var form = HiddenPattern()
                .Matches(page)
                .ToDictionary(
                    match => WebUtility.HtmlDecode(match.Groups[1].Value),
                    match => WebUtility.HtmlDecode(match.Groups[2].Value)
                );
            form["answer"] = answer;
            shown = await browser.PostAsync(
                new Uri("/oauth/authorize", UriKind.Relative),
                new FormUrlEncodedContent(form)
            );
        }
        return BackWith(shown);
    }

    /// <summary>What stands in the address a browser is sent back to.</summary>
    public static IReadOnlyDictionary<string, string> BackWith(HttpResponseMessage answer) =>
        answer.Headers.Location is { } place
            ? QueryHelpers
                .ParseQuery(place.IsAbsoluteUri ? place.Query : "?" + place.OriginalString.Split('?').Last())
                .ToDictionary(pair => pair.Key, pair => pair.Value.ToString())
            : throw new InvalidOperationException($"{(int)answer.StatusCode}: nobody was sent anywhere");

    public Task<Answer> FetchAsync(string code, string? verifier = null) =>
        TokenAsync(
            ("grant_type", "authorization_code"),
            ("code", code),
            ("redirect_uri", redirect),
            ("code_verifier", verifier ?? _verifier)
        );

    public Task<Answer> RefreshAsync(string token) =>
        TokenAsync(("grant_type", "refresh_token"), ("refresh_token", token));

    public Task<Answer> ForItselfAsync(string? scope = null) =>
        scope is null
            ? TokenAsync(("grant_type", "client_credentials"))
            : TokenAsync(("grant_type", "client_credentials"), ("scope", scope));

    public Task<Answer> BeginDeviceAsync(string scope = "as_me offline_access") =>
        PostAsync("/oauth/device", ("client_id", clientId), ("scope", scope));

    public Task<Answer> DeviceAsync(string code) =>
        TokenAsync(
            ("grant_type", "urn:ietf:params:oauth:grant-type:device_code"),
            ("device_code", code),
            ("client_id", clientId)
        );

    public Task<Answer> RevokeAsync(string token) =>
        PostAsync("/oauth/revoke", ("client_id", clientId), ("token", token));

    /// <summary>Signs in, in one go.</summary>
    public async Task<Answer> SignInAsync(HttpClient browser, string scope) =>
        await FetchAsync((await AskAsync(browser, scope))["code"]);

    public async Task<Answer> WhoAsync(string access)
    {
        using var request = new HttpRequestMessage(HttpMethod.Get, "/oauth/userinfo");
        request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", access);
        return await Answer.OfAsync(await _http.SendAsync(request));
    }

    public Task<Answer> TokenAsync(params (string Name, string Value)[] form) =>
        PostAsync("/oauth/token", form);

    private async Task<Answer> PostAsync(string path, params (string Name, string Value)[] form)
    {
        using var request = new HttpRequestMessage(HttpMethod.Post, path)
        {
            Content = new FormUrlEncodedContent(
                form.Append(("client_id", clientId))
                    .DistinctBy(pair => pair.Item1)
                    .Select(pair => KeyValuePair.Create(pair.Item1, pair.Item2))
            ),
        };
        if (secret is not null)
            request.Headers.Authorization = new AuthenticationHeaderValue(
                "Basic",
                Convert.ToBase64String(Encoding.ASCII.GetBytes($"{clientId}:{secret}"))
            );
        return await Answer.OfAsync(await _http.SendAsync(request));
    }

    public void Dispose() => _http.Dispose();

    /// <summary>What came back, with its status.</summary>
    public sealed record Answer(HttpStatusCode Status, JsonElement? Json)
    {
        public string this[string name] =>
            Json is { } json && json.TryGetProperty(name, out var value) ? value.ToString() : "";

        public string Access => this["access_token"];
        public string Refresh => this["refresh_token"];

        /// <summary>The error, in the answer or (RFC 6750 section 3) in its header.</summary>
        public string Error => this["error"] is { Length: > 0 } error ? error : Header;

        private string Header { get; init; } = "";

        /// <summary>What the ID token says.</summary>
        public JsonElement Identity =>
            JsonDocument
                .Parse(WebEncoders.Base64UrlDecode(this["id_token"].Split('.')[1]))
                .RootElement.Clone();

        public static async Task<Answer> OfAsync(HttpResponseMessage answer)
        {
            var text = await answer.Content.ReadAsStringAsync();
            return new Answer(
                answer.StatusCode,
                text.StartsWith('{') ? JsonDocument.Parse(text).RootElement.Clone() : null
            )
            {
                Header = ErrorPattern().Match(answer.Headers.WwwAuthenticate.ToString()).Groups[1].Value,
            };
        }
    }

    [GeneratedRegex("error=\"([a-z_]+)\"")]
    private static partial Regex ErrorPattern();

    [GeneratedRegex("<input type=\"hidden\" name=\"([^\"]*)\" value=\"([^\"]*)\"")]
    private static partial Regex HiddenPattern();
}
