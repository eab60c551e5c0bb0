using ComeAboard.Client.Departures;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Departures: several at once, how far they have come, and their receipts.
public sealed partial class AboardClient
{
    /// <summary>A page of departures, newest first.</summary>
    /// <param name="state">planned, running, stuck, done or undone; null for all.</param>
    /// <param name="cursor">The cursor of the page before.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<Page<DepartureView>> DeparturesAsync(
        string? state = null,
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/departures?limit=200" + Query("state", state) + Query("cursor", cursor),
            WireJson.Default.PageDepartureView,
            cancellation
        );

    /// <summary>One departure, step by step.</summary>
    public Task<DepartureView> DepartureAsync(Guid id, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/departures/{id}", WireJson.Default.DepartureView, cancellation);

    /// <summary>
    /// Shows what ending the access of several would do. Changes nothing. Refused with <c>departure.who</c>, <c>departure.nobody</c>,
    /// <c>departure.too-many</c> or <c>person.not-found</c>; what stands in the way of one is said with their plan.
    /// </summary>
    public Task<DeparturesPlan> PlanDeparturesAsync(
        DeparturesRequest request,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            _workspace + "/departures/plan",
            request,
            WireJson.Default.DeparturesRequest,
            WireJson.Default.DeparturesPlan,
            cancellation
        );

    /// <summary>How far the departures of everybody have come.</summary>
    public Task<DepartureProgress> DepartureProgressAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/departures/progress", WireJson.Default.DepartureProgress, cancellation);

    /// <summary>Ends the access of several, at once or after a last day; each by itself, and those that are refused are named.</summary>
    public Task<DeparturesAnswer> StartDeparturesAsync(
        DeparturesRequest request,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            _workspace + "/departures",
            request,
            WireJson.Default.DeparturesRequest,
            WireJson.Default.DeparturesAnswer,
            cancellation
        );

    /// <summary>Has what is due of a departure tried now; refused with <c>departure.nothing-due</c>.</summary>
    public Task<DepartureView> RetryDepartureAsync(Guid id, CancellationToken cancellation = default) =>
        CallAsync<object, DepartureView>(
            HttpMethod.Post,
            $"{_workspace}/departures/{id}/retry",
            null,
            null,
            WireJson.Default.DepartureView,
            cancellation
        );

    /// <summary>Says, with a reason that stands in the receipt, that a step is so which did not confirm.</summary>
    /// <param name="id">The departure.</param>
    /// <param name="step">The number of the step, or the name of the connected system.</param>
    /// <param name="reason">Why, 1 to 500 characters.</param>
    /// <param name="file">A file beside it; null for none.</param>
    /// <param name="dryRun">Whether it is only tried.</param>
    /// <param name="cancellation">Breaks off waiting for the answer.</param>
    public Task<DepartureView> ConfirmStepAsync(
        Guid id,
        string step,
        string reason,
        StepFile? file = null,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/departures/{id}/steps/{Part(step)}/confirm" + Dry(dryRun),
            new ConfirmRequest(reason) { File = file },
            WireJson.Default.ConfirmRequest,
            WireJson.Default.DepartureView,
            cancellation
        );

    /// <summary>
    /// Takes an end back that came about: exactly as it was, minus what has been given to others since. Refused with
    /// <c>reinstate.here</c>, <c>reinstate.too-late</c>, <c>reinstate.over</c>, <c>reinstate.here-again</c> or <c>person.not-found</c>.
    /// </summary>
    public Task<ReinstateView> ReinstateAsync(
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ReinstateView>(
            HttpMethod.Post,
            $"{_workspace}/people/{Part(person)}/reinstate" + Dry(dryRun),
            null,
            null,
            WireJson.Default.ReinstateView,
            cancellation
        );

    /// <summary>
    /// Takes a person's data away once they have left everywhere: the record keeps that something was done, when and in which order.
    /// Refused with <c>erase.here</c>, <c>erase.running</c>, <c>erase.merged</c>, <c>erase.done</c> or <c>person.not-found</c>.
    /// </summary>
    public Task<ErasedView> EraseAsync(
        string person,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync<object, ErasedView>(
            HttpMethod.Post,
            $"{_workspace}/people/{Part(person)}/erase" + Dry(dryRun),
            null,
            null,
            WireJson.Default.ErasedView,
            cancellation
        );

    /// <summary>The file beside somebody's word that a step is so; refused with <c>not-found</c> where there is none.</summary>
    public Task<StepFile> StepFileAsync(Guid id, string step, CancellationToken cancellation = default) =>
        GetAsync(
            $"{_workspace}/departures/{id}/steps/{Part(step)}/file",
            WireJson.Default.StepFile,
            cancellation
        );

    /// <summary>The keys with which receipts of this workspace can be verified (RFC 7517), as JSON; nobody has to sign in for them.</summary>
    public Task<ReceiptKeys> ReceiptKeysAsync(CancellationToken cancellation = default) =>
        GetAsync(ReceiptKeysPath, WireJson.Default.ReceiptKeys, cancellation);
}
