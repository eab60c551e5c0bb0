using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Groups, organisations, seats. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The groups.</summary>
    public Task<Page<GroupView>> GroupsAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/groups", WireJson.Default.PageGroupView, cancellation);

    /// <summary>One group, by name or id.</summary>
    public Task<GroupView> GroupAsync(string group, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/groups/{Part(group)}", WireJson.Default.GroupView, cancellation);

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

    /// <summary>Makes a group.</summary>
    public Task<GroupView> AddGroupAsync(
        GroupRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/groups" + Dry(dryRun),
            request,
            WireJson.Default.GroupRequest,
            WireJson.Default.GroupView,
            cancellation
        );

    /// <summary>Changes a group.</summary>
    public Task<GroupView> ChangeGroupAsync(
        string group,
        GroupRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/groups/{Part(group)}" + Dry(dryRun),
            request,
            WireJson.Default.GroupRequest,
            WireJson.Default.GroupView,
            cancellation
        );

    /// <summary>Removes a group, and what is given to it.</summary>
    public Task<GroupAnswer> RemoveGroupAsync(
        string group,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GroupAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/groups/{Part(group)}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>Puts people into a group.</summary>
    public Task<GroupAnswer> PutIntoGroupAsync(
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
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>Takes somebody out of a group.</summary>
    public Task<GroupAnswer> TakeFromGroupAsync(
        string group,
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GroupAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/groups/{Part(group)}/members/{Part(person)}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>The organisations.</summary>
    public Task<Page<OrganisationView>> OrganisationsAsync(
        string? search = null,
        string? kind = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/organisations?" + (Query("search", search) + Query("kind", kind)).TrimStart('&'),
            WireJson.Default.PageOrganisationView,
            cancellation
        );

    /// <summary>One organisation, by name, code or id.</summary>
    public Task<OrganisationView> OrganisationAsync(
        string organisation,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/organisations/{Part(organisation)}",
            WireJson.Default.OrganisationView,
            cancellation
        );

    /// <summary>Makes an organisation.</summary>
    public Task<OrganisationView> AddOrganisationAsync(
        OrganisationRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/organisations" + Dry(dryRun),
            request,
            WireJson.Default.OrganisationRequest,
            WireJson.Default.OrganisationView,
            cancellation
        );

    /// <summary>Changes an organisation.</summary>
    public Task<OrganisationView> ChangeOrganisationAsync(
        string organisation,
        OrganisationRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/organisations/{Part(organisation)}" + Dry(dryRun),
            request,
            WireJson.Default.OrganisationRequest,
            WireJson.Default.OrganisationView,
            cancellation
        );

    /// <summary>The seat pools.</summary>
    public Task<Page<PoolView>> PoolsAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/seats", WireJson.Default.PagePoolView, cancellation);

    /// <summary>One seat pool, by name or id.</summary>
    public Task<PoolView> PoolAsync(string pool, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/seats/{Part(pool)}", WireJson.Default.PoolView, cancellation);

    /// <summary>Who holds a seat of a pool, and for whom one is reserved.</summary>
    public Task<Page<SeatView>> SeatHoldersAsync(string pool, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/seats/{Part(pool)}/holders", WireJson.Default.PageSeatView, cancellation);

    /// <summary>Makes a seat pool.</summary>
    public Task<PoolView> AddPoolAsync(
        PoolRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/seats" + Dry(dryRun),
            request,
            WireJson.Default.PoolRequest,
            WireJson.Default.PoolView,
            cancellation
        );

    /// <summary>Changes a seat pool.</summary>
    public Task<PoolView> ChangePoolAsync(
        string pool,
        PoolRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/seats/{Part(pool)}" + Dry(dryRun),
            request,
            WireJson.Default.PoolRequest,
            WireJson.Default.PoolView,
            cancellation
        );

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

    /// <summary>Removes an organisation without people, and what is given to it.</summary>
    /// <param name="organisation">Its name, code or id.</param>
    /// <param name="dryRun">Whether only to say what that changes.</param>
    /// <param name="cancellation">Stops waiting.</param>
    /// <returns>How many grants are taken, and the difference.</returns>
    public Task<GroupAnswer> RemoveOrganisationAsync(
        string organisation,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GroupAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/organisations/{Part(organisation)}?dryRun={(dryRun ? "true" : "false")}",
            null,
            null,
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>Removes a seat pool nobody holds a seat of.</summary>
    public Task RemovePoolAsync(string pool, CancellationToken cancellation = default) =>
        DeleteAsync($"{_workspace}/seats/{Part(pool)}", cancellation);
}
