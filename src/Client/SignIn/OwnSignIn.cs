using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Serialization;

namespace ComeAboard.Client.SignIn;

/// <summary>What a device shows while it waits to be approved (RFC 8628 section 3.2).</summary>
/// <param name="DeviceCode">The device's own code; shown to nobody.</param>
/// <param name="UserCode">The code to be given in a browser.</param>
/// <param name="VerificationUri">The address of the page it is given on.</param>
/// <param name="VerificationUriComplete">The same with the code in it.</param>
/// <param name="ExpiresIn">How long it counts, in seconds.</param>
/// <param name="Interval">How long to wait between two questions, in seconds.</param>
public sealed record DeviceBegun(
    string DeviceCode,
    string UserCode,
    string VerificationUri,
    string? VerificationUriComplete,
    int ExpiresIn,
    int Interval
);

/// <summary>What a program is signed in with (RFC 6749 section 5.1).</summary>
/// <param name="AccessToken">What it shows with each call.</param>
/// <param name="RefreshToken">What it gets the next one with; it counts once.</param>
/// <param name="ExpiresIn">How long the access token counts, in seconds.</param>
public sealed record ProgramTokens(string AccessToken, string? RefreshToken, int ExpiresIn);

/// <summary>An error as OAuth 2.0 says it (RFC 6749 section 5.2).</summary>
internal sealed record OAuthError(string? Error, string? ErrorDescription);

/// <summary>
/// Signing <c>aboard</c> itself in by a browser (RFC 8628). Refusals come as <see cref="RefusedException"/> whose code is
/// <c>oauth.</c> and the standard's word: <c>oauth.access_denied</c>, <c>oauth.expired_token</c>, <c>oauth.invalid_grant</c>.
/// </summary>
public sealed class OwnSignIn : IDisposable
{
    private const string ClientId = "aboard";
    private const string Scope = "as_me offline_access";
    private const string DeviceGrant = "urn:ietf:params:oauth:grant-type:device_code";

    // What a device is told to wait longer by when it asked too soon (RFC 8628 section 3.5).
    private static readonly TimeSpan Slower = TimeSpan.FromSeconds(5);

    private readonly HttpClient _http;

    /// <summary>Addresses a service.</summary>
    /// <param name="server">The service's base address.</param>
    /// <param name="program">The calling program, its version and its machine, as whoever approves it sees them.</param>
    public OwnSignIn(Uri server, string program)
    {
        _http = new HttpClient { BaseAddress = server, Timeout = TimeSpan.FromSeconds(30) };
        _http.DefaultRequestHeaders.UserAgent.ParseAdd(program);
    }

    /// <summary>Begins to sign in.</summary>
    public Task<DeviceBegun> BeginAsync(CancellationToken cancellation = default) =>
        PostAsync(
            "oauth/device",
            [new("client_id", ClientId), new("scope", Scope)],
            OwnJson.Default.DeviceBegun,
            cancellation
        );

    /// <summary>Waits until somebody has approved it.</summary>
    /// <param name="begun">What was begun.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public async Task<ProgramTokens> WaitAsync(DeviceBegun begun, CancellationToken cancellation = default)
    {
        var pause = TimeSpan.FromSeconds(Math.Max(1, begun.Interval));
        while (true)
        {
            await Task.Delay(pause, cancellation).ConfigureAwait(false);
            try
            {
                return await PostAsync(
                        "oauth/token",
                        [
                            new("grant_type", DeviceGrant),
                            new("device_code", begun.DeviceCode),
                            new("client_id", ClientId),
                        ],
                        OwnJson.Default.ProgramTokens,
                        cancellation
                    )
                    .ConfigureAwait(false);
            }
            catch (RefusedException refused) when (refused.Problem.Code == "oauth.slow_down")
            {
                pause += Slower;
            }
            catch (RefusedException refused)
                when (refused.Problem.Code is "oauth.authorization_pending" or "server.unreachable")
            {
                // Not yet, or not to be reached just now; the code says when it is over.
            }
        }
    }

    /// <summary>Gets the next access token; the refresh token that was shown does not count any more.</summary>
    public Task<ProgramTokens> RefreshAsync(string refreshToken, CancellationToken cancellation = default) =>
        PostAsync(
            "oauth/token",
            [
                new("grant_type", "refresh_token"),
                new("refresh_token", refreshToken),
                new("client_id", ClientId),
            ],
            OwnJson.Default.ProgramTokens,
            cancellation
        );

    /// <inheritdoc/>
    public void Dispose() => _http.Dispose();

    private async Task<T> PostAsync<T>(
        string path,
        List<KeyValuePair<string, string>> form,
        System.Text.Json.Serialization.Metadata.JsonTypeInfo<T> type,
        CancellationToken cancellation
    )
    {
        try
        {
            using var content = new FormUrlEncodedContent(form);
            using var answer = await _http.PostAsync(path, content, cancellation).ConfigureAwait(false);
            if (answer.IsSuccessStatusCode)
                return await answer.Content.ReadFromJsonAsync(type, cancellation).ConfigureAwait(false)
                    ?? throw Refused("server_error", null, (int)answer.StatusCode);
            var error = answer.Content.Headers.ContentType?.MediaType is "application/json"
                ? await answer
                    .Content.ReadFromJsonAsync(OwnJson.Default.OAuthError, cancellation)
                    .ConfigureAwait(false)
                : null;
            throw Refused(
                error?.Error
                    ?? (
                        answer.StatusCode == System.Net.HttpStatusCode.TooManyRequests
                            ? "slow_down"
                            : "server_error"
                    ),
                error?.ErrorDescription,
                (int)answer.StatusCode
            );
        }
        catch (Exception fault)
            when (fault is HttpRequestException or JsonException
                || fault is TaskCanceledException && !cancellation.IsCancellationRequested
            )
        {
            throw new RefusedException(
                new Problem
                {
                    Title = $"The service at {_http.BaseAddress} cannot be reached: {fault.Message}",
                    Detail = "Check the address (--server or ABOARD_SERVER) and that the service runs.",
                    Code = "server.unreachable",
                    Status = 0,
                }
            );
        }
    }

    private static RefusedException Refused(string error, string? description, int status) =>
        new(
            new Problem
            {
                Title = error switch
                {
                    "access_denied" => "It was not allowed in the browser.",
                    "expired_token" => "Nobody allowed it in time.",
                    "invalid_grant" => "This sign-in was closed, or is over.",
                    _ => description ?? "The service does not sign this program in.",
                },
                Detail = "Sign in again: aboard sign-in",
                Code = "oauth." + error,
                Status =
                    error is "access_denied" ? 403
                    : error is "expired_token" or "invalid_grant" ? 401
                    : status,
            }
        );
}

/// <summary>JSON in the spelling of OAuth 2.0.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.SnakeCaseLower)]
[JsonSerializable(typeof(DeviceBegun))]
[JsonSerializable(typeof(ProgramTokens))]
[JsonSerializable(typeof(OAuthError))]
internal sealed partial class OwnJson : JsonSerializerContext;
