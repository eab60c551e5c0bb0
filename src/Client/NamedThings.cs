using System.Text.Json.Serialization.Metadata;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

/// <summary>
/// Things of one sort with names that are unique in the workspace: listed, looked at, made, changed, removed. Wherever one
/// is named, its name in any case or its id will do. With <c>dryRun</c> everything is decided and nothing kept.
/// </summary>
/// <typeparam name="TRequest">What one is to be.</typeparam>
/// <typeparam name="TView">One as it is looked at.</typeparam>
/// <typeparam name="TAnswer">What making or changing one comes to.</typeparam>
public sealed class NamedThings<TRequest, TView, TAnswer>
{
    private readonly AboardClient _client;
    private readonly string _path;
    private readonly JsonTypeInfo<TRequest> _request;
    private readonly JsonTypeInfo<TView> _view;
    private readonly JsonTypeInfo<Page<TView>> _page;
    private readonly JsonTypeInfo<TAnswer> _answer;

    internal NamedThings(
        AboardClient client,
        string path,
        JsonTypeInfo<TRequest> request,
        JsonTypeInfo<TView> view,
        JsonTypeInfo<Page<TView>> page,
        JsonTypeInfo<TAnswer> answer
    )
    {
        (_client, _path) = (client, path);
        (_request, _view, _page, _answer) = (request, view, page, answer);
    }

    /// <summary>All of them, by name.</summary>
    public Task<Page<TView>> ListAsync(CancellationToken cancellation = default) =>
        _client.GetAsync(_path, _page, cancellation);

    /// <summary>One.</summary>
    public Task<TView> ShowAsync(string name, CancellationToken cancellation = default) =>
        _client.GetAsync($"{_path}/{AboardClient.Part(name)}", _view, cancellation);

    /// <summary>Makes one.</summary>
    public Task<TAnswer> AddAsync(
        TRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        _client.CallAsync(
            HttpMethod.Post,
            _path + AboardClient.Dry(dryRun),
            request,
            _request,
            _answer,
            cancellation
        );

    /// <summary>Changes one: what is not said is not kept.</summary>
    /// <param name="name">Which.</param>
    /// <param name="request">What it is to be.</param>
    /// <param name="dryRun">Whether only to say what that changes.</param>
    /// <param name="version">
    /// The version it was looked at; refused with <c>version.stale</c> when somebody changed it since. Null for whatever it is.
    /// </param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<TAnswer> ChangeAsync(
        string name,
        TRequest request,
        bool dryRun = false,
        int? version = null,
        CancellationToken cancellation = default
    ) =>
        _client.CallAsync(
            HttpMethod.Put,
            $"{_path}/{AboardClient.Part(name)}" + AboardClient.Dry(dryRun),
            request,
            _request,
            _answer,
            cancellation,
            version
        );

    /// <summary>Removes one, with what is given by it; refused while it is in use.</summary>
    /// <param name="name">Which.</param>
    /// <param name="dryRun">Whether only to say what that changes.</param>
    /// <param name="tell">Whether a mail tells those whose access changes.</param>
    /// <param name="cancellation">Stops waiting.</param>
    /// <returns>How many people or grants go with it, and the difference.</returns>
    public Task<EditAnswer> RemoveAsync(
        string name,
        bool dryRun = false,
        bool tell = false,
        CancellationToken cancellation = default
    ) =>
        _client.CallAsync<object, EditAnswer>(
            HttpMethod.Delete,
            $"{_path}/{AboardClient.Part(name)}?dryRun={(dryRun ? "true" : "false")}&tell={(tell ? "true" : "false")}",
            null,
            null,
            WireJson.Default.EditAnswer,
            cancellation
        );
}
