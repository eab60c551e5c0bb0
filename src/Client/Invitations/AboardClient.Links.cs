using System.Net.Http.Headers;
using System.Net.Http.Json;
using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Join links, and the workspace's own rules, looks and wordings.
public sealed partial class AboardClient
{
    /// <summary>A page of join links, newest first.</summary>
    /// <param name="cursor">The cursor of the page before, or null for the first.</param>
    /// <param name="limit">At most so many, 1 to 200.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<Page<JoinLinkView>> LinksAsync(
        string? cursor = null,
        int limit = 50,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/links?limit={limit}" + Query("cursor", cursor),
            WireJson.Default.PageJoinLinkView,
            cancellation
        );

    /// <summary>One join link.</summary>
    public Task<JoinLinkView> LinkAsync(Guid id, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/links/{id}", WireJson.Default.JoinLinkView, cancellation);

    /// <summary>Makes a join link; its address is shown once.</summary>
    public Task<NewJoinLink> AddLinkAsync(
        JoinLinkRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/links{(dryRun ? "?dryRun=true" : "")}",
            request,
            WireJson.Default.JoinLinkRequest,
            WireJson.Default.NewJoinLink,
            cancellation
        );

    /// <summary>Gives a join link another address; the one handed out is dead.</summary>
    public Task<NewJoinLink> RenewLinkAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/links/{id}/renew", WireJson.Default.NewJoinLink, cancellation);

    /// <summary>Closes a join link.</summary>
    public Task<JoinLinkView> CloseLinkAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/links/{id}/close", WireJson.Default.JoinLinkView, cancellation);

    /// <summary>Ends everybody who came in by a join link, or tells whose access that would be.</summary>
    public Task<LinkDeparture> EndLinkPeopleAsync(
        Guid id,
        bool dryRun,
        CancellationToken cancellation = default
    ) =>
        StepAsync(
            $"{_workspace}/links/{id}/end?dryRun={(dryRun ? "true" : "false")}",
            WireJson.Default.LinkDeparture,
            cancellation
        );

    /// <summary>What a join link offers.</summary>
    public Task<JoinOfferView> ReadJoinLinkAsync(string secret, CancellationToken cancellation = default) =>
        PostAsync(
            "api/v1/join-links/read",
            new LinkRequest(secret),
            WireJson.Default.LinkRequest,
            WireJson.Default.JoinOfferView,
            cancellation
        );

    /// <summary>Asks to come in by a join link: a personal invitation is mailed to the address if it can.</summary>
    public Task AskByLinkAsync(JoinRequest request, CancellationToken cancellation = default) =>
        SendAsync(
            Post("api/v1/join-links/ask", JsonContent.Create(request, WireJson.Default.JoinRequest)),
            cancellation
        );

    /// <summary>The rules of the house.</summary>
    public Task<RulesView> RulesAsync(CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/rules", WireJson.Default.RulesView, cancellation);

    /// <summary>Replaces the rules of the house.</summary>
    public Task<RulesView> ChangeRulesAsync(
        RulesView rules,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/rules" + Dry(dryRun),
            rules,
            WireJson.Default.RulesView,
            WireJson.Default.RulesView,
            cancellation,
            rules.Version == 0 ? null : rules.Version
        );

    /// <summary>Changes how the workspace shows itself to invitees.</summary>
    public Task<AppearanceView> ChangeAppearanceAsync(
        AppearanceView appearance,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/appearance" + Dry(dryRun),
            appearance,
            WireJson.Default.AppearanceView,
            WireJson.Default.AppearanceView,
            cancellation,
            appearance.Version == 0 ? null : appearance.Version
        );

    /// <summary>The wordings of invitations and reminders in all languages.</summary>
    public Task<Page<WordingView>> WordingsAsync(CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/wordings", WireJson.Default.PageWordingView, cancellation);

    /// <summary>Words a mail of the workspace's own.</summary>
    public Task<WordingView> ChangeWordingAsync(
        string letter,
        string language,
        WordingRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/wordings/{letter}/{language}",
            request,
            WireJson.Default.WordingRequest,
            WireJson.Default.WordingView,
            cancellation
        );

    /// <summary>Takes a mail back to the wording that ships.</summary>
    public Task RemoveWordingAsync(
        string letter,
        string language,
        CancellationToken cancellation = default
    ) => DeleteAsync($"{_workspace}/wordings/{letter}/{language}", cancellation);

    private static MultipartFormDataContent FormOf(
        Stream file,
        string name,
        BatchDefaults defaults,
        bool send
    ) =>
        new()
        {
            { new StreamContent(file), "file", name },
            {
                new StringContent(JsonSerializer.Serialize(defaults, WireJson.Default.BatchDefaults)),
                "defaults"
            },
            { new StringContent(send ? "true" : "false"), "send" },
        };
}
