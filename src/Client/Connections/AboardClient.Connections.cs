using System.Net.Http.Headers;
using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Outside systems that people are read from. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The connections, by name.</summary>
    public Task<Page<ConnectionView>> ConnectionsAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/connections", WireJson.Default.PageConnectionView, cancellation);

    /// <summary>One connection, and how far the work on it has come.</summary>
    /// <param name="connection">Its name or id.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<ConnectionView> ConnectionAsync(
        string connection,
        CancellationToken cancellation = default
    ) => GetAsync(Connection(connection), WireJson.Default.ConnectionView, cancellation);

    /// <summary>
    /// Adds a connection; nothing is read as yet. Refused with <c>connection.exists</c>, <c>connection.place</c>,
    /// <c>connection.type-unknown</c>, <c>wins.unknown</c> or <c>name.missing</c>.
    /// </summary>
    public Task<ConnectionView> AddConnectionAsync(
        ConnectionRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/connections" + Dry(dryRun),
            request,
            WireJson.Default.ConnectionRequest,
            WireJson.Default.ConnectionView,
            cancellation
        );

    /// <summary>Changes a connection; its type stays, and its secret where none is given.</summary>
    public Task<ConnectionView> ChangeConnectionAsync(
        string connection,
        ConnectionRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            Connection(connection) + Dry(dryRun),
            request,
            WireJson.Default.ConnectionRequest,
            WireJson.Default.ConnectionView,
            cancellation
        );

    /// <summary>Removes a connection and what was read of it; nobody leaves by it.</summary>
    /// <returns>The connection as it was.</returns>
    public Task<ConnectionView> RemoveConnectionAsync(
        string connection,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ConnectionView>(
            HttpMethod.Delete,
            Connection(connection) + Dry(dryRun),
            null,
            null,
            WireJson.Default.ConnectionView,
            cancellation
        );

    /// <summary>Hands in the file of a connection that is one: LDIF, CSV or XLSX, at most 64 MB. It is read when that is asked for.</summary>
    public async Task<ConnectionView> HandInAsync(
        string connection,
        Stream file,
        string name,
        CancellationToken cancellation = default
    )
    {
        using var content = new MultipartFormDataContent();
        var part = new StreamContent(file);
        part.Headers.ContentType = new MediaTypeHeaderValue("application/octet-stream");
        content.Add(part, "file", name);
        using var message = Post(Connection(connection) + "/file", content);
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, WireJson.Default.ConnectionView, cancellation).ConfigureAwait(false);
    }

    /// <summary>Asks a connection whether it answers; refused with what stands in the way.</summary>
    public Task<ConnectionTest> TestConnectionAsync(
        string connection,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ConnectionTest>(
            HttpMethod.Post,
            Connection(connection) + "/test",
            null,
            null,
            WireJson.Default.ConnectionTest,
            cancellation
        );

    /// <summary>Has a connection read in the background; nobody here is changed by it.</summary>
    public Task<ConnectionView> ReadConnectionAsync(
        string connection,
        bool believe = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            Connection(connection) + "/read",
            new ReadRequest(believe),
            WireJson.Default.ReadRequest,
            WireJson.Default.ConnectionView,
            cancellation
        );

    /// <summary>A page of the match table: what needs somebody first.</summary>
    /// <param name="connection">The name or id of the connection.</param>
    /// <param name="verdict">same, likely, new, conflicting, leave-out, to-decide, refused or gone; null for all that are there.</param>
    /// <param name="search">A part of name, address or organisation.</param>
    /// <param name="cursor">The cursor of the page before.</param>
    /// <param name="limit">At most so many, 1 to 200.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<Page<SourceRecordView>> SourceRecordsAsync(
        string connection,
        string? verdict = null,
        string? search = null,
        string? cursor = null,
        int? limit = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{Connection(connection)}/records?limit={limit ?? 200}"
                + Query("verdict", verdict)
                + Query("search", search)
                + Query("cursor", cursor),
            WireJson.Default.PageSourceRecordView,
            cancellation
        );

    /// <summary>Decides what is to be done with records; it is kept for the next readings, and nothing is done as yet.</summary>
    public Task<DecideAnswer> DecideAsync(
        string connection,
        DecideRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            Connection(connection) + "/decisions" + Dry(dryRun),
            request,
            WireJson.Default.DecideRequest,
            WireJson.Default.DecideAnswer,
            cancellation
        );

    /// <summary>
    /// Has done what is decided, in the background: profiles are joined, new people invited or added. Refused with
    /// <c>connection.nothing-to-do</c>, <c>connection.working</c> or <c>too-many</c>.
    /// </summary>
    public Task<ConnectionView> RunConnectionAsync(
        string connection,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ConnectionView>(
            HttpMethod.Post,
            Connection(connection) + "/run" + Dry(dryRun),
            null,
            null,
            WireJson.Default.ConnectionView,
            cancellation
        );

    /// <summary>
    /// Adds a line to the mapping of a connected system; what follows is carried out from then on. Refused with <c>mapping.to</c>,
    /// <c>mapping.of</c>, <c>mapping.exists</c>, <c>connection.no-target</c>, or where there is no such role, group or resource.
    /// </summary>
    public Task<MappingView> AddMappingAsync(
        string connection,
        MappingRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            Connection(connection) + "/mapping" + Dry(dryRun),
            request,
            WireJson.Default.MappingRequest,
            WireJson.Default.MappingView,
            cancellation
        );

    /// <summary>Takes a line of a mapping away; whoever had something there by it alone loses it there.</summary>
    public Task<MappingView> RemoveMappingAsync(
        string connection,
        Guid line,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, MappingView>(
            HttpMethod.Delete,
            $"{Connection(connection)}/mapping/{line}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.MappingView,
            cancellation
        );

    /// <summary>Reads a connected system whole and shows what would be done there; nothing is done.</summary>
    public Task<PushPreview> PreviewCarryingAsync(
        string connection,
        PreviewRequest? request = null,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            Connection(connection) + "/preview",
            request ?? new PreviewRequest(),
            WireJson.Default.PreviewRequest,
            WireJson.Default.PushPreview,
            cancellation
        );

    /// <summary>How carrying out to a connected system stands: what waits, since when and why, and its mapping.</summary>
    public Task<LaneView> LaneAsync(string connection, CancellationToken cancellation = default) =>
        GetAsync(Connection(connection) + "/status", WireJson.Default.LaneView, cancellation);

    /// <summary>Has carrying out to a connected system wait, or go on.</summary>
    public Task<LaneView> PauseLaneAsync(
        string connection,
        bool pause,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, LaneView>(
            HttpMethod.Post,
            Connection(connection) + (pause ? "/pause" : "/resume"),
            null,
            null,
            WireJson.Default.LaneView,
            cancellation
        );

    /// <summary>A page of the accounts in a connected system, as they are known here.</summary>
    /// <param name="connection">The name or id of the connection.</param>
    /// <param name="state">due, stuck, confirmed, told or by hand; null for all.</param>
    /// <param name="cursor">The cursor of the page before.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<Page<AccountThereView>> AccountsThereAsync(
        string connection,
        string? state = null,
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            Connection(connection) + "/accounts?limit=200" + Query("state", state) + Query("cursor", cursor),
            WireJson.Default.PageAccountThereView,
            cancellation
        );

    /// <summary>Reads a connected system whole, has put right what is otherwise there, and lists what nobody ought to have.</summary>
    public Task<SweepView> SweepAsync(string connection, CancellationToken cancellation = default) =>
        CallAsync<object, SweepView>(
            HttpMethod.Post,
            Connection(connection) + "/sweep",
            null,
            null,
            WireJson.Default.SweepView,
            cancellation
        );

    /// <summary>A page of what the last sweep of a system found left over, by key.</summary>
    public Task<Page<LeftOverView>> LeftOversAsync(
        string connection,
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            Connection(connection) + "/left-overs?limit=200" + Query("cursor", cursor),
            WireJson.Default.PageLeftOverView,
            cancellation
        );

    /// <summary>Does with left-overs what is said: they are removed there and asked for again, somebody's from now on, or left until a day.</summary>
    public Task<LeftOverAnswer> DecideLeftOversAsync(
        string connection,
        LeftOverRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            Connection(connection) + "/left-overs" + Dry(dryRun),
            request,
            WireJson.Default.LeftOverRequest,
            WireJson.Default.LeftOverAnswer,
            cancellation
        );

    /// <summary>A page of what a system that is only told was told, newest first.</summary>
    public Task<Page<EventSentView>> EventsSentAsync(
        string connection,
        string? cursor = null,
        int? limit = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{Connection(connection)}/deliveries?limit={limit ?? 50}" + Query("cursor", cursor),
            WireJson.Default.PageEventSentView,
            cancellation
        );

    /// <summary>Sends an event again, as it was written and by the same id.</summary>
    public Task<EventSentView> SendEventAgainAsync(
        string connection,
        Guid delivery,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, EventSentView>(
            HttpMethod.Post,
            $"{Connection(connection)}/deliveries/{delivery}/send-again",
            null,
            null,
            WireJson.Default.EventSentView,
            cancellation
        );

    /// <summary>What somebody has in every connected system, asked there at this moment.</summary>
    public async Task<IReadOnlyList<PersonThereView>> ElsewhereAsync(
        string person,
        CancellationToken cancellation = default
    ) =>
        (
            await CallAsync<object, Page<PersonThereView>>(
                HttpMethod.Post,
                $"{_workspace}/people/{Part(person)}/sweep",
                null,
                null,
                WireJson.Default.PagePersonThereView,
                cancellation
            )
        ).Items;

    private string Connection(string connection) => $"{_workspace}/connections/{Part(connection)}";
}
