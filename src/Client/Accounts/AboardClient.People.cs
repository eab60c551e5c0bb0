using System.Net.Http.Json;
using System.Text.Json.Serialization.Metadata;
using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// People: what they may do and why, steps for many, access decisions.
public sealed partial class AboardClient
{
    /// <summary>What somebody may do, and why.</summary>
    public Task<PersonAccess> PersonAccessAsync(string person, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/people/{Part(person)}/access", WireJson.Default.PersonAccess, cancellation);

    /// <summary>What somebody would see; looking is recorded.</summary>
    public Task<SeenAs> SeeAsAsync(string person, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/people/{Part(person)}/see-as", WireJson.Default.SeenAs, cancellation);

    /// <summary>What somebody did lately, newest first.</summary>
    public Task<Page<RecordEntryView>> PersonActivityAsync(
        string person,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/people/{Part(person)}/activity",
            WireJson.Default.PageRecordEntryView,
            cancellation
        );

    /// <summary>Takes a step for several people.</summary>
    public Task<PeopleStepAnswer> PeopleStepsAsync(
        PeopleStepRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/people/steps" + Dry(dryRun),
            request,
            WireJson.Default.PeopleStepRequest,
            WireJson.Default.PeopleStepAnswer,
            cancellation
        );

    /// <summary>Whom a few letters may mean.</summary>
    public Task<Page<SuggestionView>> SuggestAsync(string text, CancellationToken cancellation = default) =>
        GetAsync(
            $"{_workspace}/suggestions?text={Part(text)}",
            WireJson.Default.PageSuggestionView,
            cancellation
        );

    /// <summary>Everything that would stop an invitation.</summary>
    public Task<ReadinessView> ReadinessAsync(
        ReadinessRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/readiness",
            request,
            WireJson.Default.ReadinessRequest,
            WireJson.Default.ReadinessView,
            cancellation
        );

    /// <summary>The people of the organisation one leads.</summary>
    public Task<ColleaguesView> ColleaguesAsync(CancellationToken cancellation = default) =>
        GetAsync(_workspace + "/colleagues", WireJson.Default.ColleaguesView, cancellation);

    /// <summary>Invites a colleague, as the lead of an organisation.</summary>
    public Task<InvitationView> InviteColleagueAsync(
        ColleagueRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/colleagues",
            request,
            WireJson.Default.ColleagueRequest,
            WireJson.Default.InvitationView,
            cancellation
        );

    /// <summary>Asks whether somebody may do something now (OpenID AuthZEN, section 6).</summary>
    public Task<EvaluationAnswer> EvaluateAsync(
        EvaluationRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/access/v1/evaluation",
            request,
            WireJson.Default.EvaluationRequest,
            WireJson.Default.EvaluationAnswer,
            cancellation
        );

    /// <summary>Asks several such questions at once (OpenID AuthZEN, section 7).</summary>
    public Task<EvaluationsAnswer> EvaluateAllAsync(
        EvaluationsRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            _workspace + "/access/v1/evaluations",
            request,
            WireJson.Default.EvaluationsRequest,
            WireJson.Default.EvaluationsAnswer,
            cancellation
        );

    /// <summary>Changes details of one person; what is null stays.</summary>
    /// <param name="person">Their address or id.</param>
    /// <param name="request">What to change.</param>
    /// <param name="version">The version as it was seen: refused with <c>version.stale</c> when somebody changed it since. Null for any.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<PersonView> ChangePersonAsync(
        string person,
        DetailsRequest request,
        int? version = null,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/people/{Part(person)}",
            request,
            WireJson.Default.DetailsRequest,
            WireJson.Default.PersonView,
            cancellation,
            version
        );

    /// <summary>A list as CSV, as the service filters it: <c>people?format=csv</c>, <c>roles?format=csv</c>.</summary>
    public Task<byte[]> CsvAsync(string list, CancellationToken cancellation = default) =>
        BytesAsync(new HttpRequestMessage(HttpMethod.Get, $"{_workspace}/{list}"), cancellation);

    internal async Task<TAnswer> CallAsync<TRequest, TAnswer>(
        HttpMethod method,
        string path,
        TRequest? request,
        JsonTypeInfo<TRequest>? requestType,
        JsonTypeInfo<TAnswer> answerType,
        CancellationToken cancellation,
        int? version = null
    )
    {
        using var message = new HttpRequestMessage(method, path);
        if (requestType is not null)
            message.Content = JsonContent.Create(request!, requestType);
        SayVersion(message, version);
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, answerType, cancellation).ConfigureAwait(false);
    }

    /// <summary>Says which version is changed; what replaces something must, and takes any when none is known.</summary>
    internal static void SayVersion(HttpRequestMessage message, int? version)
    {
        if (version is { } seen)
            message.Headers.TryAddWithoutValidation("If-Match", $"\"{seen}\"");
        else if (message.Method == HttpMethod.Put)
            message.Headers.TryAddWithoutValidation("If-Match", "*");
    }

    internal static string Part(string text) => Uri.EscapeDataString(text);

    internal static string Dry(bool dryRun) => dryRun ? "?dryRun=true" : "";
}
