using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Who is here twice.
public sealed partial class AboardClient
{
    /// <summary>A page of the people here who may be one human, the likeliest first.</summary>
    /// <param name="least">likely or same: only what is at least so certain; null for likely.</param>
    /// <param name="said">open for those of whom nobody said anything, distinct for those who were said to be two; null for open.</param>
    /// <param name="cursor">The cursor of the page before; null for the first.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<Page<DuplicateView>> DuplicatesAsync(
        string? least = null,
        string? said = null,
        string? cursor = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/duplicates?limit=200"
                + Query("least", least)
                + Query("said", said)
                + Query("cursor", cursor),
            WireJson.Default.PageDuplicateView,
            cancellation
        );

    /// <summary>
    /// Says of two people here that they are two, or takes that back; refused with <c>duplicate.one</c> where both are the
    /// same, and with <c>duplicate.not-said</c> where there is nothing to take back.
    /// </summary>
    public Task<DuplicateView> DistinguishAsync(
        DistinctRequest request,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Post,
            $"{_workspace}/duplicates/distinct{Dry(dryRun)}",
            request,
            WireJson.Default.DistinctRequest,
            WireJson.Default.DuplicateView,
            cancellation
        );
}
