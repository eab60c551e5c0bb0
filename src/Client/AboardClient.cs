using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Text.Json;
using System.Text.Json.Serialization.Metadata;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Departures;
using ComeAboard.Client.Record;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

/// <summary>
/// The service's HTTP interface, typed. Every method throws <see cref="RefusedException"/> when the service refuses or
/// cannot be reached, and <see cref="OperationCanceledException"/> when cancelled.
/// </summary>
public sealed partial class AboardClient : IDisposable
{
    private readonly HttpClient _http;
    private readonly string _workspace;

    private string ReceiptKeysPath { get; }
    private readonly Func<CancellationToken, ValueTask<string>>? _token;

    /// <summary>Addresses a service.</summary>
    /// <param name="server">The service's base address.</param>
    /// <param name="workspace">The short name of the workspace that calls are about; empty where none is needed.</param>
    /// <param name="token">An API token, or null for the calls that need none.</param>
    /// <param name="program">The calling program and its version, as a product token (RFC 9110 section 10.1.5).</param>
    public AboardClient(Uri server, string workspace = "", string? token = null, string program = "aboard/0")
    {
        _http = new HttpClient { BaseAddress = server, Timeout = TimeSpan.FromMinutes(5) };
        _http.DefaultRequestHeaders.UserAgent.ParseAdd(program);
        if (token is not null)
            _http.DefaultRequestHeaders.Authorization = new AuthenticationHeaderValue("Bearer", token);
        _workspace = "api/v1/workspaces/" + Uri.EscapeDataString(workspace);
        ReceiptKeysPath = $"w/{Uri.EscapeDataString(workspace)}/receipt-keys.json";
    }

    /// <summary>Addresses a service with tokens that are renewed while it is used.</summary>
    /// <param name="server">The service's base address.</param>
    /// <param name="workspace">The short name of the workspace that calls are about; empty where none is needed.</param>
    /// <param name="token">The access token that counts now; asked before each call.</param>
    /// <param name="program">The calling program and its version, as a product token (RFC 9110 section 10.1.5).</param>
    public AboardClient(
        Uri server,
        string workspace,
        Func<CancellationToken, ValueTask<string>> token,
        string program = "aboard/0"
    )
        : this(server, workspace, (string?)null, program) => _token = token;

    /// <summary>Signs a program in; the answer holds the token.</summary>
    public Task<NewToken> SignInAsync(
        ProgramSignInRequest request,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            "api/v1/tokens",
            request,
            WireJson.Default.ProgramSignInRequest,
            WireJson.Default.NewToken,
            cancellation
        );

    /// <summary>Revokes the token in use.</summary>
    public Task SignOutAsync(CancellationToken cancellation = default) =>
        SendAsync(new HttpRequestMessage(HttpMethod.Delete, "api/v1/tokens/current"), cancellation);

    /// <summary>Tells who is signed in.</summary>
    public Task<MeView> WhoAmIAsync(CancellationToken cancellation = default) =>
        GetAsync("api/v1/me", WireJson.Default.MeView, cancellation);

    /// <summary>The workspace.</summary>
    public Task<WorkspaceView> WorkspaceAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace, WireJson.Default.WorkspaceView, cancellation);

    /// <summary>What waits and what ends soon.</summary>
    public Task<OverviewView> OverviewAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/overview", WireJson.Default.OverviewView, cancellation);

    /// <summary>A page of people, newest first.</summary>
    /// <param name="state"><c>active</c>, <c>ended</c>, or null for all.</param>
    /// <param name="search">Any part of a name or address, or null.</param>
    /// <param name="cursor">The cursor of the page before, or null for the first.</param>
    /// <param name="limit">At most so many, 1 to 200.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<Page<PersonView>> PeopleAsync(
        string? state = null,
        string? search = null,
        string? cursor = null,
        int limit = 50,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/people?limit={limit}"
                + Query("state", state)
                + Query("search", search)
                + Query("cursor", cursor),
            WireJson.Default.PagePersonView,
            cancellation
        );

    /// <summary>One person.</summary>
    /// <param name="person">A member's id, or an address; of several capacities at an address the active one, else the latest.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<PersonView> PersonAsync(string person, CancellationToken cancellation = default) =>
        GetAsync(
            $"{_workspace}/people/{Uri.EscapeDataString(person)}",
            WireJson.Default.PersonView,
            cancellation
        );

    /// <summary>What happened to one person, oldest first.</summary>
    public Task<Page<RecordEntryView>> PersonHistoryAsync(
        Guid id,
        CancellationToken cancellation = default
    ) => GetAsync($"{_workspace}/people/{id}/history", WireJson.Default.PageRecordEntryView, cancellation);

    /// <summary>Shows what ending somebody's access would do. Changes nothing.</summary>
    public Task<DeparturePlanView> PlanDepartureAsync(
        string person,
        DateOnly? on = null,
        string? to = null,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/people/{Uri.EscapeDataString(person)}/departure/plan",
            new DepartureRequest(on, to),
            WireJson.Default.DepartureRequest,
            WireJson.Default.DeparturePlanView,
            cancellation
        );

    /// <summary>Ends somebody's access, at once or after a last day.</summary>
    public Task<DepartureView> EndAsync(
        string person,
        DateOnly? on = null,
        string? to = null,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/people/{Uri.EscapeDataString(person)}/departure",
            new DepartureRequest(on, to),
            WireJson.Default.DepartureRequest,
            WireJson.Default.DepartureView,
            cancellation
        );

    /// <summary>Takes a planned end back, or shows that it could be; the stay that was agreed before goes on.</summary>
    public Task<DepartureView> WithdrawEndAsync(
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, DepartureView>(
            HttpMethod.Delete,
            $"{_workspace}/people/{Uri.EscapeDataString(person)}/departure{(dryRun ? "?dryRun=true" : "")}",
            null,
            null,
            WireJson.Default.DepartureView,
            cancellation
        );

    /// <summary>A page of the record, newest first.</summary>
    public Task<Page<RecordEntryView>> RecordAsync(
        string? cursor = null,
        int limit = 50,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/record?limit={limit}" + Query("cursor", cursor),
            WireJson.Default.PageRecordEntryView,
            cancellation
        );

    /// <summary>Has the service check the whole chain of the record.</summary>
    public Task<RecordVerification> VerifyRecordAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/record/verification", WireJson.Default.RecordVerification, cancellation);

    /// <inheritdoc/>
    public void Dispose() => _http.Dispose();

    internal async Task<T> GetAsync<T>(string path, JsonTypeInfo<T> type, CancellationToken cancellation)
    {
        using var answer = await SendAsync(new HttpRequestMessage(HttpMethod.Get, path), cancellation)
            .ConfigureAwait(false);
        return await ReadAsync(answer, type, cancellation).ConfigureAwait(false);
    }

    private async Task<TAnswer> PostAsync<TRequest, TAnswer>(
        string path,
        TRequest request,
        JsonTypeInfo<TRequest> requestType,
        JsonTypeInfo<TAnswer> answerType,
        CancellationToken cancellation,
        string? idempotencyKey = null
    )
    {
        using var message = Post(path, JsonContent.Create(request, requestType));
        if (idempotencyKey is not null)
            message.Headers.Add("Idempotency-Key", idempotencyKey);
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, answerType, cancellation).ConfigureAwait(false);
    }

    private async Task<T> StepAsync<T>(string path, JsonTypeInfo<T> type, CancellationToken cancellation)
    {
        using var answer = await SendAsync(Post(path, null), cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, type, cancellation).ConfigureAwait(false);
    }

    private async Task<byte[]> BytesAsync(HttpRequestMessage message, CancellationToken cancellation)
    {
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await answer.Content.ReadAsByteArrayAsync(cancellation).ConfigureAwait(false);
    }

    private async Task DeleteAsync(string path, CancellationToken cancellation)
    {
        using var _ = await SendAsync(new HttpRequestMessage(HttpMethod.Delete, path), cancellation)
            .ConfigureAwait(false);
    }

    private static HttpRequestMessage Post(string path, HttpContent? content) =>
        new(HttpMethod.Post, path) { Content = content };

    private static string Query(string name, string? value) =>
        value is null ? "" : $"&{name}={Uri.EscapeDataString(value)}";

    private async Task<HttpResponseMessage> SendAsync(
        HttpRequestMessage message,
        CancellationToken cancellation,
        HttpCompletionOption completion = HttpCompletionOption.ResponseContentRead
    )
    {
        if (_token is not null)
            message.Headers.Authorization = new AuthenticationHeaderValue(
                "Bearer",
                await _token(cancellation).ConfigureAwait(false)
            );
        HttpResponseMessage answer;
        try
        {
            answer = await _http.SendAsync(message, completion, cancellation).ConfigureAwait(false);
        }
        catch (HttpRequestException fault)
        {
            throw Unreachable(fault.Message);
        }
        catch (TaskCanceledException) when (!cancellation.IsCancellationRequested)
        {
            throw Unreachable("It did not answer in time.");
        }
        if (answer.IsSuccessStatusCode)
            return answer;
        using (answer)
            throw new RefusedException(await ReadProblemAsync(answer, cancellation).ConfigureAwait(false));
    }

    private RefusedException Unreachable(string why) =>
        new(
            new Problem
            {
                Title = $"The service at {_http.BaseAddress} cannot be reached: {why}",
                Detail = "Check the address (--server or ABOARD_SERVER) and that the service runs.",
                Code = "server.unreachable",
                Status = 0,
            }
        );

    private static async Task<T> ReadAsync<T>(
        HttpResponseMessage answer,
        JsonTypeInfo<T> type,
        CancellationToken cancellation
    )
    {
        try
        {
            return await answer.Content.ReadFromJsonAsync(type, cancellation).ConfigureAwait(false)
                ?? throw Unreadable(answer);
        }
        catch (JsonException)
        {
            throw Unreadable(answer);
        }
    }

    private static async Task<Problem> ReadProblemAsync(
        HttpResponseMessage answer,
        CancellationToken cancellation
    )
    {
        try
        {
            if (answer.Content.Headers.ContentType?.MediaType == Problem.MediaType)
            {
                var problem = await answer
                    .Content.ReadFromJsonAsync(WireJson.Default.Problem, cancellation)
                    .ConfigureAwait(false);
                if (problem is not null)
                    return problem;
            }
        }
        catch (JsonException)
        {
            // Falls through to the plain words below: what answered is not this service.
        }
        return Unreadable(answer).Problem;
    }

    private static RefusedException Unreadable(HttpResponseMessage answer) =>
        new(
            new Problem
            {
                Title = $"The answer (HTTP {(int)answer.StatusCode}) is not one this client understands.",
                Detail = "Check that the address is that of a Come Aboard service of the same version.",
                Code = "server.answer",
                Status = (int)answer.StatusCode,
            }
        );
}
