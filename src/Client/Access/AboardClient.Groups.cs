using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Groups, organisations, seats. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The groups.</summary>
    public NamedThings<GroupRequest, GroupView, GroupView> Groups =>
        new(
            this,
            _workspace + "/groups",
            WireJson.Default.GroupRequest,
            WireJson.Default.GroupView,
            WireJson.Default.PageGroupView,
            WireJson.Default.GroupView
        );

    /// <summary>The organisations; each also by its code.</summary>
    public NamedThings<OrganisationRequest, OrganisationView, OrganisationView> Organisations =>
        new(
            this,
            _workspace + "/organisations",
            WireJson.Default.OrganisationRequest,
            WireJson.Default.OrganisationView,
            WireJson.Default.PageOrganisationView,
            WireJson.Default.OrganisationView
        );

    /// <summary>The seat pools.</summary>
    public NamedThings<PoolRequest, PoolView, PoolView> Pools =>
        new(
            this,
            _workspace + "/seats",
            WireJson.Default.PoolRequest,
            WireJson.Default.PoolView,
            WireJson.Default.PagePoolView,
            WireJson.Default.PoolView
        );

    /// <summary>Who is in a group.</summary>
    public Task<Page<PersonView>> GroupMembersAsync(
        string group,
        string? cursor = null,
        int limit = 200,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/groups/{Part(group)}/members?limit={limit}" + Query("cursor", cursor),
            WireJson.Default.PagePersonView,
            cancellation
        );

    /// <summary>Puts people into a group.</summary>
    public Task<EditAnswer> PutIntoGroupAsync(
        string group,
        PeopleRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/groups/{Part(group)}/members" + Dry(dryRun),
            request,
            WireJson.Default.PeopleRequest,
            WireJson.Default.EditAnswer,
            cancellation
        );

    /// <summary>
    /// Moves people who have a role directly under a group that has it then, all at once; refused with <c>move.loses</c> where
    /// somebody would lose something on any day, with <c>move.nobody</c> and with <c>move.no-grant</c>.
    /// </summary>
    public Task<MoveInAnswer> MoveIntoGroupAsync(
        string group,
        MoveInRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/groups/{Part(group)}/move-in" + Dry(dryRun),
            request,
            WireJson.Default.MoveInRequest,
            WireJson.Default.MoveInAnswer,
            cancellation
        );

    /// <summary>Undoes the last move into a group; refused with <c>move.none</c> and <c>move.changed</c>.</summary>
    public Task<MoveInAnswer> UndoMoveIntoGroupAsync(
        string group,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, MoveInAnswer>(
            HttpMethod.Post,
            $"{_workspace}/groups/{Part(group)}/move-in/undo" + Dry(dryRun),
            null,
            null,
            WireJson.Default.MoveInAnswer,
            cancellation
        );

    /// <summary>Takes somebody out of a group.</summary>
    public Task<EditAnswer> TakeFromGroupAsync(
        string group,
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, EditAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/groups/{Part(group)}/members/{Part(person)}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.EditAnswer,
            cancellation
        );

    /// <summary>Organisations of a kind with a part of their name, code, reference or domains.</summary>
    public Task<Page<OrganisationView>> FindOrganisationsAsync(
        string? search = null,
        string? kind = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/organisations?" + (Query("search", search) + Query("kind", kind)).TrimStart('&'),
            WireJson.Default.PageOrganisationView,
            cancellation
        );

    /// <summary>Who holds a seat of a pool, and for whom one is reserved.</summary>
    public Task<Page<SeatView>> SeatHoldersAsync(string pool, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/seats/{Part(pool)}/holders", WireJson.Default.PageSeatView, cancellation);

    /// <summary>Gives people seats; the answer says what remains.</summary>
    public Task<SeatAnswer> GiveSeatsAsync(
        string pool,
        PeopleRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/seats/{Part(pool)}/holders" + Dry(dryRun),
            request,
            WireJson.Default.PeopleRequest,
            WireJson.Default.SeatAnswer,
            cancellation
        );

    /// <summary>Takes somebody's seat.</summary>
    public Task<SeatAnswer> TakeSeatAsync(
        string pool,
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, SeatAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/seats/{Part(pool)}/holders/{Part(person)}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.SeatAnswer,
            cancellation
        );

    /// <summary>Passes a seat from one person to another.</summary>
    public Task<SeatAnswer> PassSeatAsync(
        string pool,
        PassRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/seats/{Part(pool)}/pass" + Dry(dryRun),
            request,
            WireJson.Default.PassRequest,
            WireJson.Default.SeatAnswer,
            cancellation
        );
}
