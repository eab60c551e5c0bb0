using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

/// <content>API tokens, and what touches the safety of a workspace.</content>
public sealed partial class AboardClient
{
    /// <summary>The caller's own API tokens, newest first; with the duty <c>settings</c> everybody's.</summary>
    public Task<Page<TokenView>> TokensAsync(CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/tokens", WireJson.Default.PageTokenView, cancellation);

    /// <summary>Makes an API token; its secret is shown this once, and is empty when it is only tried.</summary>
    public Task<NewToken> AddTokenAsync(
        TokenRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/tokens" + Dry(dryRun),
            request,
            WireJson.Default.TokenRequest,
            WireJson.Default.NewToken,
            cancellation
        );

    /// <summary>Revokes an API token; it is dead at once, and within a second on every other node.</summary>
    public Task RevokeTokenAsync(Guid id, bool dryRun = false, CancellationToken cancellation = default) =>
        DeleteAsync($"{_workspace}/tokens/{id}" + Dry(dryRun), cancellation);

    /// <summary>What touched the safety of the workspace lately, newest first.</summary>
    public Task<Page<SecurityEventView>> SecurityEventsAsync(CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/security-events", WireJson.Default.PageSecurityEventView, cancellation);
}
