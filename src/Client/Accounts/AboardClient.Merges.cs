using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Making two accounts one, and parting them again.
public sealed partial class AboardClient
{
    /// <summary>
    /// Makes two accounts one that are both in the workspace's custody. Tried, it is the plan, which says itself where it cannot
    /// be done; done, it is refused with <c>merge.not-held</c>, <c>merge.own</c>, <c>merge.both-elsewhere</c>, with what
    /// <c>right.beyond-own</c> and <c>right.acting-on</c> stand for, and with <c>administrator.last</c>.
    /// </summary>
    public Task<MergeView> MergeAsync(
        MergeRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/merges{Dry(dryRun)}",
            request,
            WireJson.Default.MergeRequest,
            WireJson.Default.MergeView,
            cancellation
        );

    /// <summary>A page of the merges that concern people here, newest first.</summary>
    public Task<Page<MergeView>> MergesAsync(
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/merges?limit=200" + Query("cursor", cursor),
            WireJson.Default.PageMergeView,
            cancellation
        );

    /// <summary>
    /// Parts two accounts again that this workspace merged; what could not be brought back is in the notes. Refused with
    /// <c>merge.over</c> after 30 days, <c>merge.gone</c>, and <c>merge.not-ours</c> where their holder merged them.
    /// </summary>
    public Task<MergeView> UnmergeAsync(
        UnmergeRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/merges/undo{Dry(dryRun)}",
            request,
            WireJson.Default.UnmergeRequest,
            WireJson.Default.MergeView,
            cancellation
        );
}
