using ComeAboard.Client.Applications;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Applications that the workspace registers. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>The registered applications, by name.</summary>
    public Task<Page<ApplicationView>> ApplicationsAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/applications", WireJson.Default.PageApplicationView, cancellation);

    /// <summary>One application, by its name or id.</summary>
    public Task<ApplicationView> ApplicationAsync(
        string application,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/applications/{Part(application)}",
            WireJson.Default.ApplicationView,
            cancellation
        );

    /// <summary>
    /// Registers an application; refused with <c>application.exists</c>, <c>application.address-malformed</c>,
    /// <c>application.no-use</c>, <c>application.no-resource</c>, <c>application.no-duties</c>,
    /// <c>application.public-acts</c>, <c>application.acts-beyond</c> or <c>right.beyond-own</c>.
    /// </summary>
    /// <returns>The application, with its secret, which is shown this once.</returns>
    public Task<NewApplication> AddApplicationAsync(
        ApplicationRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/applications" + Dry(dryRun),
            request,
            WireJson.Default.ApplicationRequest,
            WireJson.Default.NewApplication,
            cancellation
        );

    /// <summary>Says anew what an application is; refused as registering is.</summary>
    /// <param name="application">Its name or id.</param>
    /// <param name="request">How it is to be from now on.</param>
    /// <param name="dryRun">Whether to decide only.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<ApplicationView> ChangeApplicationAsync(
        string application,
        ApplicationRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/applications/{Part(application)}{Dry(dryRun)}",
            request,
            WireJson.Default.ApplicationRequest,
            WireJson.Default.ApplicationView,
            cancellation
        );

    /// <summary>Gives an application another secret, which is shown this once; the one it had does not count any more.</summary>
    /// <param name="application">Its name or id.</param>
    /// <param name="dryRun">Whether to decide only.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<NewApplication> RenewApplicationSecretAsync(
        string application,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, NewApplication>(
            HttpMethod.Post,
            $"{_workspace}/applications/{Part(application)}/secret{Dry(dryRun)}",
            null,
            null,
            WireJson.Default.NewApplication,
            cancellation
        );

    /// <summary>Removes an application; nobody signs in to it any more, and every token of it is dead.</summary>
    /// <param name="application">Its name or id.</param>
    /// <param name="dryRun">Whether to decide only.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    /// <returns>The application as it was.</returns>
    public Task<ApplicationView> RemoveApplicationAsync(
        string application,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ApplicationView>(
            HttpMethod.Delete,
            $"{_workspace}/applications/{Part(application)}{Dry(dryRun)}",
            null,
            null,
            WireJson.Default.ApplicationView,
            cancellation
        );
}
