using System.Net;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Core;
using ComeAboard.Core.Connections;

namespace ComeAboard.Service.Connections;

/// <summary>
/// A SCIM 2.0 source (RFC 7644). Pages are asked for until as many users came as it says there are: a page that is empty, or one
/// that repeats, before that is no end.
/// </summary>
public sealed class ScimSource(Reach reach, ServiceSettings settings, TimeProvider clock) : ISource
{
    private const int PageSize = 200;
    private const int MostTries = 4;
    private static readonly TimeSpan LongestWait = TimeSpan.FromSeconds(30);

    /// <inheritdoc/>
    public string Type => "scim";

    /// <inheritdoc/>
    public Outcome<string> ReadPlace(string? url) => ScimDoor.ReadPlace(settings, url);

    /// <inheritdoc/>
    public async IAsyncEnumerable<IReadOnlyList<SourceRecord>> PagesAsync(
        SourceAccess access,
        [EnumeratorCancellation] CancellationToken stop
    )
    {
        using var client = ScimDoor.Open(reach, access, settings.IsPlain);
        var filter = access.Settings.Filter;
        var seen = new HashSet<string>(StringComparer.Ordinal);
        int total;
        do
        {
            var url =
                $"{access.Place}/Users?startIndex={seen.Count + 1}&count={PageSize}"
                + (filter.Length > 0 ? "&filter=" + Uri.EscapeDataString(filter) : "");
            using var page = await AskAsync(client, url, stop);
            total = TotalOf(page.RootElement);
            var fresh = RecordsOf(page.RootElement).Where(record => seen.Add(record.Key)).ToList();
            if (fresh.Count == 0 && seen.Count < total)
                throw SourceException.Partial($"it says that there are {total}, and gave {seen.Count}.");
            yield return fresh;
        } while (seen.Count < total);
        if (seen.Count > total)
            throw SourceException.Partial($"it says that there are {total}, and gave {seen.Count}.");
    }

    private static int TotalOf(JsonElement page) =>
        page.ValueKind == JsonValueKind.Object
        && page.TryGetProperty("totalResults", out var total)
        && total.TryGetInt32(out var count)
        && count >= 0
            ? count
            : throw SourceException.Unreachable("it does not answer as a SCIM source does.");

    private static IEnumerable<SourceRecord> RecordsOf(JsonElement page)
    {
        if (!page.TryGetProperty("Resources", out var users) || users.ValueKind != JsonValueKind.Array)
            yield break;
        foreach (var user in users.EnumerateArray())
            yield return ScimUsers.Read(user)
                ?? throw SourceException.Partial("it has a user without an id.");
    }

    private async Task<JsonDocument> AskAsync(HttpClient client, string url, CancellationToken stop)
    {
        for (var tries = 1; ; tries++)
        {
            try
            {
                using var answer = await client.GetAsync(url, stop);
                if (answer.IsSuccessStatusCode)
                    return JsonDocument.Parse(await answer.Content.ReadAsByteArrayAsync(stop));
                var isBusy =
                    answer.StatusCode is HttpStatusCode.TooManyRequests or HttpStatusCode.ServiceUnavailable;
                if (!isBusy || tries == MostTries)
                    throw Refused(answer.StatusCode);
                await Task.Delay(WaitOf(answer), clock, stop);
            }
            catch (Exception fault) when (fault is HttpRequestException or IOException)
            {
                throw SourceException.Unreachable(fault.InnerException?.Message ?? fault.Message);
            }
            catch (JsonException)
            {
                throw SourceException.Unreachable("it does not answer as a SCIM source does.");
            }
            catch (OperationCanceledException) when (!stop.IsCancellationRequested)
            {
                throw SourceException.Unreachable("it does not answer in time.");
            }
        }
    }

    /// <summary>How long it asks to be left alone (RFC 9110, 10.2.3: seconds, or until when); longer than anybody waits is a fault.</summary>
    private TimeSpan WaitOf(HttpResponseMessage answer)
    {
        var wait =
            answer.Headers.RetryAfter?.Delta
            ?? answer.Headers.RetryAfter?.Date - clock.GetUtcNow()
            ?? TimeSpan.FromSeconds(1);
        return wait <= LongestWait
            ? (wait < TimeSpan.Zero ? TimeSpan.Zero : wait)
            : throw SourceException.Unreachable(
                $"it asks to be left alone for {Math.Ceiling(wait.TotalMinutes)} minutes."
            );
    }

    private static SourceException Refused(HttpStatusCode status) =>
        status is HttpStatusCode.Unauthorized or HttpStatusCode.Forbidden
            ? new SourceException(
                new Refusal(
                    "connection.refused",
                    "It does not let this token read.",
                    "Give another: aboard connections change NAME --secret-stdin. Nothing was changed.",
                    RefusalSort.Conflict
                )
            )
            : SourceException.Unreachable($"it answered {(int)status}.");
}
