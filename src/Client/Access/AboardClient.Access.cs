using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Who may do what: roles, resources, grants. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The roles.</summary>
    public NamedThings<RoleRequest, RoleDetail, RoleChange> Roles =>
        new(
            this,
            _workspace + "/roles",
            WireJson.Default.RoleRequest,
            WireJson.Default.RoleDetail,
            WireJson.Default.PageRoleDetail,
            WireJson.Default.RoleChange
        );

    /// <summary>The areas; they are listed, not looked at singly.</summary>
    public NamedThings<AreaRequest, AreaView, AreaView> Areas =>
        new(
            this,
            _workspace + "/areas",
            WireJson.Default.AreaRequest,
            WireJson.Default.AreaView,
            WireJson.Default.PageAreaView,
            WireJson.Default.AreaView
        );

    /// <summary>The resources.</summary>
    public NamedThings<ResourceRequest, ResourceView, ResourceView> Resources =>
        new(
            this,
            _workspace + "/resources",
            WireJson.Default.ResourceRequest,
            WireJson.Default.ResourceView,
            WireJson.Default.PageResourceView,
            WireJson.Default.ResourceView
        );

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

    /// <summary>Resources, by area and name.</summary>
    public Task<Page<ResourceView>> FindResourcesAsync(
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
    public Task<EditAnswer> SwitchOffAsync(
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
            WireJson.Default.EditAnswer,
            cancellation
        );

    /// <summary>Switches somebody on again for a resource.</summary>
    public Task<EditAnswer> SwitchOnAsync(
        string resource,
        Guid holder,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, EditAnswer>(
            HttpMethod.Delete,
            $"{_workspace}/resources/{Part(resource)}/off/{holder}" + Dry(dryRun),
            null,
            null,
            WireJson.Default.EditAnswer,
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
}
