using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Providers (OpenID Connect) by which people at proved domains sign in. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The providers, by name.</summary>
    public Task<Page<ProviderView>> ProvidersAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/providers", WireJson.Default.PageProviderView, cancellation);

    /// <summary>
    /// Adds a provider, after asking it who it is; refused with <c>provider.exists</c>, <c>provider.issuer-malformed</c>,
    /// <c>provider.unreachable</c>, <c>provider.other-issuer</c>, <c>provider.no-domain</c> or <c>provider.domain-taken</c>.
    /// </summary>
    public Task<ProviderView> AddProviderAsync(
        ProviderRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/providers" + Dry(dryRun),
            request,
            WireJson.Default.ProviderRequest,
            WireJson.Default.ProviderView,
            cancellation
        );

    /// <summary>Changes a provider; its issuer stays.</summary>
    /// <param name="provider">Its name or id.</param>
    /// <param name="request">How it is to be from now on.</param>
    /// <param name="dryRun">Whether to decide only.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<ProviderView> ChangeProviderAsync(
        string provider,
        ProviderRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/providers/{Part(provider)}{Dry(dryRun)}",
            request,
            WireJson.Default.ProviderRequest,
            WireJson.Default.ProviderView,
            cancellation
        );

    /// <summary>Removes a provider; nobody signs in by it any more.</summary>
    /// <param name="provider">Its name or id.</param>
    /// <param name="dryRun">Whether to decide only.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    /// <returns>The provider as it was.</returns>
    public Task<ProviderView> RemoveProviderAsync(
        string provider,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ProviderView>(
            HttpMethod.Delete,
            $"{_workspace}/providers/{Part(provider)}{Dry(dryRun)}",
            null,
            null,
            WireJson.Default.ProviderView,
            cancellation
        );
}
