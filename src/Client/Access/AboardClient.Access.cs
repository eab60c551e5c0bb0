using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Who may do what: roles, resources, grants. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>All roles.</summary>
    public Task<Page<RoleDetail>> RolesAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/roles", WireJson.Default.PageRoleDetail, cancellation);

    /// <summary>One role, by name or id.</summary>
    public Task<RoleDetail> RoleAsync(string role, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/roles/{Part(role)}", WireJson.Default.RoleDetail, cancellation);

    /// <summary>Roles side by side; all of them when none is named.</summary>
    public Task<MatrixView> CompareRolesAsync(
        IReadOnlyList<string> roles,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/roles/compare?" + string.Join('&', roles.Select(role => "role=" + Part(role))),
            WireJson.Default.MatrixView,
            cancellation
        );

    /// <summary>Makes a role, or tries it.</summary>
    public Task<RoleChange> AddRoleAsync(
        RoleRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/roles" + Dry(dryRun),
            request,
            WireJson.Default.RoleRequest,
            WireJson.Default.RoleChange,
            cancellation
        );

    /// <summary>Changes a role, or shows what changing it would change.</summary>
    public Task<RoleChange> ChangeRoleAsync(
        string role,
        RoleRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/roles/{Part(role)}" + Dry(dryRun),
            request,
            WireJson.Default.RoleRequest,
            WireJson.Default.RoleChange,
            cancellation
        );

    /// <summary>The areas.</summary>
    public Task<Page<AreaView>> AreasAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/areas", WireJson.Default.PageAreaView, cancellation);

    /// <summary>Makes an area.</summary>
    public Task<AreaView> AddAreaAsync(
        AreaRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/areas" + Dry(dryRun),
            request,
            WireJson.Default.AreaRequest,
            WireJson.Default.AreaView,
            cancellation
        );

    /// <summary>Changes an area.</summary>
    public Task<AreaView> ChangeAreaAsync(
        string area,
        AreaRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/areas/{Part(area)}" + Dry(dryRun),
            request,
            WireJson.Default.AreaRequest,
            WireJson.Default.AreaView,
            cancellation
        );

    /// <summary>Resources, by area and name.</summary>
    public Task<Page<ResourceView>> ResourcesAsync(
        string? area = null,
        string? search = null,
        string? owner = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/resources?"
                + (Query("area", area) + Query("search", search) + Query("owner", owner)).TrimStart('&'),
            WireJson.Default.PageResourceView,
            cancellation
        );

    /// <summary>One resource, by name or id.</summary>
    public Task<ResourceView> ResourceAsync(string resource, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/resources/{Part(resource)}", WireJson.Default.ResourceView, cancellation);

    /// <summary>Makes a resource.</summary>
    public Task<ResourceView> AddResourceAsync(
        ResourceRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/resources" + Dry(dryRun),
            request,
            WireJson.Default.ResourceRequest,
            WireJson.Default.ResourceView,
            cancellation
        );

    /// <summary>Changes a resource.</summary>
    public Task<ResourceView> ChangeResourceAsync(
        string resource,
        ResourceRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/resources/{Part(resource)}" + Dry(dryRun),
            request,
            WireJson.Default.ResourceRequest,
            WireJson.Default.ResourceView,
            cancellation
        );

    /// <summary>Hands resources from one owner to another.</summary>
    public Task<HandoverAnswer> HandOverAsync(
        HandoverRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/resources/handover" + Dry(dryRun),
            request,
            WireJson.Default.HandoverRequest,
            WireJson.Default.HandoverAnswer,
            cancellation
        );

    /// <summary>Who has access to a resource.</summary>
    public Task<AccessPage> ResourceAccessAsync(
        string resource,
        string? search = null,
        string? kind = null,
        string? level = null,
        string? cursor = null,
        int limit = 50,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/resources/{Part(resource)}/access?limit={limit}"
                + Query("search", search)
                + Query("kind", kind)
                + Query("level", level)
                + Query("cursor", cursor),
            WireJson.Default.AccessPage,
            cancellation
        );

    /// <summary>Switches a person or an organisation off for a resource.</summary>
    public Task<GroupAnswer> SwitchOffAsync(
        string resource,
        SwitchRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/resources/{Part(resource)}/off" + Dry(dryRun),
            request,
            WireJson.Default.SwitchRequest,
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>Switches somebody on again for a resource.</summary>
    public Task<GroupAnswer> SwitchOnAsync(
        string resource,
        Guid holder,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GroupAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/resources/{Part(resource)}/off/{holder}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.GroupAnswer,
            cancellation
        );

    /// <summary>Gives a role.</summary>
    public Task<GrantAnswer> GrantAsync(
        GrantRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/grants" + Dry(dryRun),
            request,
            WireJson.Default.GrantRequest,
            WireJson.Default.GrantAnswer,
            cancellation
        );

    /// <summary>Changes a grant.</summary>
    public Task<GrantAnswer> ChangeGrantAsync(
        Guid id,
        GrantChangeRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/grants/{id}" + Dry(dryRun),
            request,
            WireJson.Default.GrantChangeRequest,
            WireJson.Default.GrantAnswer,
            cancellation
        );

    /// <summary>Takes a grant.</summary>
    public Task<GrantAnswer> TakeGrantAsync(
        Guid id,
        bool dryRun = false,
        bool tell = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GrantAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/grants/{id}" + Dry(dryRun) + (tell ? (dryRun ? "&tell=true" : "?tell=true") : ""),
            null,
            null,
            WireJson.Default.GrantAnswer,
            cancellation
        );

    /// <summary>Removes a role nobody is given.</summary>
    public Task RemoveRoleAsync(string role, CancellationToken cancellation = default) =>
        DeleteAsync($"{_workspace}/roles/{Part(role)}", cancellation);

    /// <summary>Removes an empty area.</summary>
    public Task RemoveAreaAsync(string area, CancellationToken cancellation = default) =>
        DeleteAsync($"{_workspace}/areas/{Part(area)}", cancellation);

    /// <summary>Removes a resource, and what is given at it.</summary>
    /// <param name="resource">Its name or id.</param>
    /// <param name="dryRun">Whether only to say what that changes.</param>
    /// <param name="tell">Whether a mail tells those whose access changes.</param>
    /// <param name="cancellation">Stops waiting.</param>
    /// <returns>How many grants are taken, and the difference.</returns>
    public Task<GroupAnswer> RemoveResourceAsync(
        string resource,
        bool dryRun = false,
        bool tell = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, GroupAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/resources/{Part(resource)}?dryRun={(dryRun ? "true" : "false")}&tell={(tell ? "true" : "false")}",
            null,
            null,
            WireJson.Default.GroupAnswer,
            cancellation
        );
}
