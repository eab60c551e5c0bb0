using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Claims to personally held accounts at the proved domains. With dryRun everything is decided and nothing kept.
public sealed partial class AboardClient
{
    /// <summary>A page of the claims, the oldest account first.</summary>
    /// <param name="state">Only those that stand so; null for all.</param>
    /// <param name="cursor">The cursor of the page before; null for the first.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<Page<ClaimView>> ClaimsAsync(
        string? state = null,
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/claims?limit=200" + Query("state", state) + Query("cursor", cursor),
            WireJson.Default.PageClaimView,
            cancellation
        );

    /// <summary>The claim to the account at an address; refused with <c>claim.no-account</c> where there is none.</summary>
    public Task<ClaimView> ClaimAsync(string address, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/claims/{Part(address)}", WireJson.Default.ClaimView, cancellation);

    /// <summary>Takes a step with claims; each by itself, so that one that cannot be done holds no other up.</summary>
    public Task<ClaimStepAnswer> ClaimStepAsync(
        ClaimStepRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/claims/steps{Dry(dryRun)}",
            request,
            WireJson.Default.ClaimStepRequest,
            WireJson.Default.ClaimStepAnswer,
            cancellation
        );

    /// <summary>What a claim's link asks.</summary>
    /// <param name="secret">The last part of the link.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<ClaimOfferView> ClaimOfferAsync(string secret, CancellationToken cancellation = default) =>
        GetAsync($"api/v1/claim-links/{Part(secret)}", WireJson.Default.ClaimOfferView, cancellation);

    /// <summary>Mails a code to the address that is to keep the other workspaces.</summary>
    public Task<ClaimOfferView> SendClaimCodeAsync(
        string secret,
        ClaimCodeRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"api/v1/claim-links/{Part(secret)}/code",
            request,
            WireJson.Default.ClaimCodeRequest,
            WireJson.Default.ClaimOfferView,
            cancellation
        );

    /// <summary>The holder's answer.</summary>
    public Task<ClaimOfferView> AnswerClaimAsync(
        string secret,
        ClaimAnswerRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"api/v1/claim-links/{Part(secret)}/answer",
            request,
            WireJson.Default.ClaimAnswerRequest,
            WireJson.Default.ClaimOfferView,
            cancellation
        );
}
