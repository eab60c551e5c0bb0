using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Many at once: files, pasted lists, presets, join links.
public sealed partial class AboardClient
{
    /// <summary>The presets.</summary>
    public NamedThings<PresetRequest, PresetView, PresetView> Presets =>
        new(
            this,
            _workspace + "/presets",
            WireJson.Default.PresetRequest,
            WireJson.Default.PresetView,
            WireJson.Default.PagePresetView,
            WireJson.Default.PresetView
        );

    /// <summary>Hands in a CSV or XLSX file; it is judged in the background, and sent as well where that is asked.</summary>
    /// <param name="file">The file's content.</param>
    /// <param name="name">The file's name.</param>
    /// <param name="defaults">What every entry gets that does not say otherwise.</param>
    /// <param name="send">Whether good entries are sent as they are read.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public async Task<BatchView> AddBatchAsync(
        Stream file,
        string name,
        BatchDefaults defaults,
        bool send,
        CancellationToken cancellation = default
    )
    {
        using var message = Post($"{_workspace}/batches", FormOf(file, name, defaults, send));
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, WireJson.Default.BatchView, cancellation).ConfigureAwait(false);
    }

    /// <summary>Judges a file without keeping or sending anything.</summary>
    public async Task<BatchCheck> CheckBatchAsync(
        Stream file,
        string name,
        BatchDefaults defaults,
        CancellationToken cancellation = default
    )
    {
        using var message = Post($"{_workspace}/batches/check", FormOf(file, name, defaults, false));
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, WireJson.Default.BatchCheck, cancellation).ConfigureAwait(false);
    }

    /// <summary>The same with every entry, as CSV.</summary>
    public Task<byte[]> CheckBatchCsvAsync(
        Stream file,
        string name,
        BatchDefaults defaults,
        CancellationToken cancellation = default
    )
    {
        var message = Post($"{_workspace}/batches/check", FormOf(file, name, defaults, false));
        message.Headers.Accept.Add(new MediaTypeWithQualityHeaderValue("text/csv"));
        return BytesAsync(message, cancellation);
    }

    /// <summary>Keeps a pasted list and judges it in the background.</summary>
    public Task<BatchView> AddPastedAsync(PastedRequest request, CancellationToken cancellation = default) =>
        PostAsync(
            $"{_workspace}/batches/pasted",
            request,
            WireJson.Default.PastedRequest,
            WireJson.Default.BatchView,
            cancellation
        );

    /// <summary>Judges a pasted list without keeping anything.</summary>
    public Task<BatchCheck> CheckPastedAsync(
        PastedRequest request,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/batches/pasted/check",
            request,
            WireJson.Default.PastedRequest,
            WireJson.Default.BatchCheck,
            cancellation
        );

    /// <summary>A page of batches, newest first.</summary>
    public Task<Page<BatchView>> BatchesAsync(
        string? cursor = null,
        int limit = 50,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/batches?limit={limit}" + Query("cursor", cursor),
            WireJson.Default.PageBatchView,
            cancellation
        );

    /// <summary>One batch.</summary>
    public Task<BatchView> BatchAsync(Guid id, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/batches/{id}", WireJson.Default.BatchView, cancellation);

    /// <summary>A page of a batch's entries in their order.</summary>
    /// <param name="id">Which batch.</param>
    /// <param name="verdict">A verdict, <c>sent</c>, <c>open</c> for those to be mended, or null for all.</param>
    /// <param name="cursor">The cursor of the page before, or null for the first.</param>
    /// <param name="limit">At most so many, 1 to 200.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<Page<BatchEntryView>> BatchEntriesAsync(
        Guid id,
        string? verdict = null,
        string? cursor = null,
        int limit = 200,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/batches/{id}/entries?limit={limit}"
                + Query("verdict", verdict)
                + Query("cursor", cursor),
            WireJson.Default.PageBatchEntryView,
            cancellation
        );

    /// <summary>Mends one entry and has it judged anew.</summary>
    public async Task<BatchEntryView> MendAsync(
        Guid id,
        int number,
        MendRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    )
    {
        using var message = new HttpRequestMessage(
            HttpMethod.Patch,
            $"{_workspace}/batches/{id}/entries/{number}{(dryRun ? "?dryRun=true" : "")}"
        )
        {
            Content = JsonContent.Create(request, WireJson.Default.MendRequest),
        };
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, WireJson.Default.BatchEntryView, cancellation).ConfigureAwait(false);
    }

    /// <summary>Sends what can be sent of a batch, in the background.</summary>
    public Task<BatchView> SendBatchAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/batches/{id}/send", WireJson.Default.BatchView, cancellation);

    /// <summary>
    /// How far a batch has come, again and again until it rests or has stopped. A service that stops meanwhile is asked
    /// again when it said so, and for half a minute after.
    /// </summary>
    public async IAsyncEnumerable<BatchView> WatchBatchAsync(
        Guid id,
        [EnumeratorCancellation] CancellationToken cancellation = default
    )
    {
        var isOver = false;
        for (var tries = 0; !isOver && tries < 15; tries++)
        {
            if (tries > 0)
                await Task.Delay(TimeSpan.FromSeconds(2), cancellation).ConfigureAwait(false);
            await using var events = WatchOnceAsync(id, cancellation).GetAsyncEnumerator(cancellation);
            while (!isOver)
            {
                try
                {
                    if (!await events.MoveNextAsync().ConfigureAwait(false))
                        break;
                }
                catch (Exception fault)
                    when (tries > 0
                        && fault is IOException or RefusedException { Problem.Code: "server.unreachable" }
                    )
                {
                    break;
                }
                tries = 0;
                isOver = events.Current.State is "resting" or "stopped";
                yield return events.Current;
            }
        }
    }

    private async IAsyncEnumerable<BatchView> WatchOnceAsync(
        Guid id,
        [EnumeratorCancellation] CancellationToken cancellation
    )
    {
        using var message = new HttpRequestMessage(HttpMethod.Get, $"{_workspace}/batches/{id}/progress");
        using var answer = await SendAsync(message, cancellation, HttpCompletionOption.ResponseHeadersRead)
            .ConfigureAwait(false);
        await using var stream = await answer.Content.ReadAsStreamAsync(cancellation).ConfigureAwait(false);
        var events = SseParser.Create(
            stream,
            (_, data) => JsonSerializer.Deserialize(data, WireJson.Default.BatchView)
        );
        await foreach (var item in events.EnumerateAsync(cancellation).ConfigureAwait(false))
        {
            if (item.Data is { } view)
                yield return view;
        }
    }

    /// <summary>All entries of a batch and what came of them, as CSV.</summary>
    public Task<byte[]> BatchResultsAsync(Guid id, CancellationToken cancellation = default) =>
        BytesAsync(
            new HttpRequestMessage(HttpMethod.Get, $"{_workspace}/batches/{id}/entries?format=csv"),
            cancellation
        );

    /// <summary>An empty list with all headings.</summary>
    /// <param name="format">csv or xlsx.</param>
    /// <param name="language">The language of the headings; the workspace's when null.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<byte[]> BatchTemplateAsync(
        string format,
        string? language = null,
        CancellationToken cancellation = default
    ) =>
        BytesAsync(
            new HttpRequestMessage(
                HttpMethod.Get,
                $"{_workspace}/batches/template?format={format}&" + Query("language", language)
            ),
            cancellation
        );
}
