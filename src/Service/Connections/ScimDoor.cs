using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using ComeAboard.Core;

namespace ComeAboard.Service.Connections;

/// <summary>The way to a SCIM service provider (RFC 7644), for reading from it and for carrying out there.</summary>
internal static class ScimDoor
{
    private const int LargestAnswer = 32 * 1024 * 1024;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(20);
    private static readonly TimeSpan TokenMargin = TimeSpan.FromSeconds(30);

    /// <summary>Reads where one is; refuses with <c>connection.place</c>.</summary>
    public static Outcome<string> ReadPlace(ServiceSettings settings, string? url) =>
        IsPlace(url, settings.IsPlain, out var place)
            ? place.ToString().TrimEnd('/')
            : new Refusal(
                "connection.place",
                $"\"{Words.Short(url ?? "")}\" is no address of a SCIM service.",
                "Give its https address, without /Users and without ? or #.",
                Field: "url"
            );

    /// <summary>Whether a text is an address that may be asked: https, or http where the service itself is plain.</summary>
    public static bool IsPlace(string? url, bool isPlain, out Uri place) =>
        Uri.TryCreate(url?.Trim(), UriKind.Absolute, out place!)
        && (place.Scheme == Uri.UriSchemeHttps || isPlain && place.Scheme == Uri.UriSchemeHttp)
        && place.UserInfo.Length + place.Query.Length + place.Fragment.Length == 0;

    /// <summary>A client that shows the secret, or the token it gets for it; whoever gets it disposes of it.</summary>
    public static HttpClient Open(Reach reach, SourceAccess access, bool isPlain)
    {
        HttpMessageHandler handler = reach.Handler(
            access.Settings.Certificate,
            access.Settings.AllowPrivate ?? true
        );
        if (access.Settings.TokenUrl.Length > 0)
            handler = new TokenHandler(access, isPlain, handler);
        var client = new HttpClient(handler)
        {
            Timeout = Patience,
            MaxResponseContentBufferSize = LargestAnswer,
        };
        client.DefaultRequestHeaders.Accept.Add(new MediaTypeWithQualityHeaderValue("application/scim+json"));
        client.DefaultRequestHeaders.Accept.Add(new MediaTypeWithQualityHeaderValue("application/json", 0.8));
        if (access.Secret.Length > 0 && access.Settings.TokenUrl.Length == 0)
            client.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue(
                "Bearer",
                access.Secret
            );
        return client;
    }

    /// <summary>How long an answer asks to be left alone (RFC 9110, 10.2.3: seconds, or until when); null where it does not say.</summary>
    public static TimeSpan? WaitOf(HttpResponseMessage answer, TimeProvider clock) =>
        answer.Headers.RetryAfter?.Delta ?? answer.Headers.RetryAfter?.Date - clock.GetUtcNow();

    /// <summary>Gets a token by client credentials (RFC 6749, 4.4) and shows it as long as it holds.</summary>
    private sealed class TokenHandler(SourceAccess access, bool isPlain, HttpMessageHandler inner)
        : DelegatingHandler(inner)
    {
        private readonly SemaphoreSlim _one = new(1);
        private string _token = "";
        private long _until;

        protected override async Task<HttpResponseMessage> SendAsync(
            HttpRequestMessage request,
            CancellationToken stop
        )
        {
            await _one.WaitAsync(stop);
            try
            {
                if (_token.Length == 0 || Environment.TickCount64 >= _until)
                    await AskAsync(stop);
            }
            finally
            {
                _one.Release();
            }
            request.Headers.Authorization = new AuthenticationHeaderValue("Bearer", _token);
            var answer = await base.SendAsync(request, stop);
            if (answer.StatusCode == HttpStatusCode.Unauthorized)
                _token = "";
            return answer;
        }

        protected override void Dispose(bool disposing)
        {
            _one.Dispose();
            base.Dispose(disposing);
        }

        private async Task AskAsync(CancellationToken stop)
        {
            if (!IsPlace(access.Settings.TokenUrl, isPlain, out var place))
                throw new HttpRequestException("the address that gives tokens is no https address.");
            using var ask = new HttpRequestMessage(HttpMethod.Post, place);
            ask.Content = new FormUrlEncodedContent([new("grant_type", "client_credentials")]);
            ask.Headers.Authorization = new AuthenticationHeaderValue(
                "Basic",
                Convert.ToBase64String(
                    Encoding.UTF8.GetBytes(
                        $"{Uri.EscapeDataString(access.Settings.ClientId)}:{Uri.EscapeDataString(access.Secret)}"
                    )
                )
            );
            using var answer = await base.SendAsync(ask, stop);
            if (!answer.IsSuccessStatusCode)
                throw new HttpRequestException($"whoever gives tokens answered {(int)answer.StatusCode}.");
            using var read = JsonDocument.Parse(await answer.Content.ReadAsByteArrayAsync(stop));
            _token = read.RootElement.TryGetProperty("access_token", out var token)
                ? token.GetString() ?? ""
                : "";
            if (_token.Length == 0)
                throw new HttpRequestException("whoever gives tokens gave none.");
            var lasts =
                read.RootElement.TryGetProperty("expires_in", out var seconds)
                && seconds.TryGetInt32(out var many)
                    ? TimeSpan.FromSeconds(many)
                    : TimeSpan.FromMinutes(5);
            _until = Environment.TickCount64 + (long)(lasts - TokenMargin).TotalMilliseconds;
        }
    }
}
