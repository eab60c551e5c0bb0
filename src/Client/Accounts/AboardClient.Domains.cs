using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Mail domains the workspace has proved, or wants to. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The domains, by name.</summary>
    public Task<Page<DomainView>> DomainsAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/domains", WireJson.Default.PageDomainView, cancellation);

    /// <summary>Adds a domain and looks at once whether it is shown; refused with <c>domain.exists</c> or <c>domain.malformed</c>.</summary>
    public Task<DomainView> AddDomainAsync(
        DomainRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/domains" + Dry(dryRun),
            request,
            WireJson.Default.DomainRequest,
            WireJson.Default.DomainView,
            cancellation
        );

    /// <summary>Looks now whether a domain is shown.</summary>
    public Task<DomainView> CheckDomainAsync(string domain, CancellationToken cancellation = default) =>
        CallAsync<object, DomainView>(
            HttpMethod.Post,
            $"{_workspace}/domains/{Part(domain)}/check",
            null,
            null,
            WireJson.Default.DomainView,
            cancellation
        );

    /// <summary>Removes a domain; refused with <c>domain.in-use</c> while accounts at it are held.</summary>
    /// <returns>The domain as it was.</returns>
    public Task<DomainView> RemoveDomainAsync(
        string domain,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, DomainView>(
            HttpMethod.Delete,
            $"{_workspace}/domains/{Part(domain)}{Dry(dryRun)}",
            null,
            null,
            WireJson.Default.DomainView,
            cancellation
        );
}
