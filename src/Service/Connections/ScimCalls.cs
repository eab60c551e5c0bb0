using System.Net;
using System.Net.Http.Headers;
using System.Text;
using System.Text.Json;
using System.Text.Json.Nodes;
using ComeAboard.Core;

namespace ComeAboard.Service.Connections;

/// <summary>Calls of a SCIM service (RFC 7644, section 3), and what its answers mean. Nothing is sent twice by it.</summary>
internal sealed class ScimCalls(HttpClient client, string place, TimeProvider clock) : IDisposable
{
    private const int PageSize = 200;
    private const int MostPages = 5_000;

    /// <inheritdoc/>
    public void Dispose() => client.Dispose();

    /// <summary>All of a list, each once: asked for until as many came as it says there are.</summary>
    public async Task<IReadOnlyList<JsonElement>> ListAsync(string path, CancellationToken stop)
    {
        var all = new Dictionary<string, JsonElement>(StringComparer.Ordinal);
        for (var pages = 0; ; pages++)
        {
            using var page = await SendAsync(
                HttpMethod.Get,
                $"{path}startIndex={all.Count + 1}&count={PageSize}",
                null,
                stop
            );
            var total =
                page.RootElement.ValueKind == JsonValueKind.Object
                && page.RootElement.TryGetProperty("totalResults", out var said)
                && said.TryGetInt32(out var many)
                    ? many
                    : throw NoScim();
            var before = all.Count;
            foreach (var one in UsersOf(page.RootElement))
                all.TryAdd(ScimJson.Text(one, "id"), one.Clone());
            if (all.Count >= total)
                return [.. all.Values];
            if (all.Count == before || pages == MostPages)
                throw new TargetException(
                    Trouble.Away,
                    $"It says that there are {total}, and gave {all.Count}."
                );
        }
    }

    /// <summary>Sends a request about something that is there.</summary>
    public async Task<JsonDocument> SendAsync(
        HttpMethod method,
        string path,
        JsonNode? body,
        CancellationToken stop,
        string? tag = null
    ) =>
        await TryAsync(method, path, body, stop, tag)
        ?? throw new TargetException(Trouble.ThisOne, "It does not have what was asked for (404).");

    /// <summary>Sends a request; null where what it is about is not there.</summary>
    public async Task<JsonDocument?> TryAsync(
        HttpMethod method,
        string path,
        JsonNode? body,
        CancellationToken stop,
        string? tag = null
    )
    {
        try
        {
            return await HttpTrouble.AskedAsync(() => AnswerAsync(method, path, body, tag, stop), stop);
        }
        catch (JsonException)
        {
            throw NoScim();
        }
    }

    private async Task<JsonDocument?> AnswerAsync(
        HttpMethod method,
        string path,
        JsonNode? body,
        string? tag,
        CancellationToken stop
    )
    {
        using var request = new HttpRequestMessage(method, place + path);
        if (body is not null)
            request.Content = new StringContent(body.ToJsonString(), Encoding.UTF8, "application/scim+json");
        if (tag is not null && EntityTagHeaderValue.TryParse(tag, out var known))
            request.Headers.IfMatch.Add(known);
        using var answer = await client.SendAsync(request, stop);
        if (answer.StatusCode == HttpStatusCode.NotFound)
            return null;
        var read = await answer.Content.ReadAsByteArrayAsync(stop);
        return answer.IsSuccessStatusCode
            ? JsonDocument.Parse(read.Length > 0 ? read : "{}"u8.ToArray())
            : throw HttpTrouble.Of(answer, DetailOf(read), clock);
    }

    private static TargetException NoScim() =>
        new(Trouble.Away, "It does not answer as a SCIM service does.");

    private static string DetailOf(byte[] body)
    {
        try
        {
            using var read = JsonDocument.Parse(body);
            return Words.Short(
                string.Join(
                    ' ',
                    ScimJson
                        .Text(read.RootElement, "detail")
                        .Split((char[]?)null, StringSplitOptions.RemoveEmptyEntries)
                )
            );
        }
        catch (JsonException)
        {
            return "";
        }
    }

    /// <summary>What a page of a list holds, as far as it has an id.</summary>
    public static IEnumerable<JsonElement> UsersOf(JsonElement page) =>
        ScimJson.Each(page, "Resources").Where(one => ScimJson.Text(one, "id").Length > 0);
}
