using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Accounts;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>What a merge came to.</summary>
/// <param name="Own">In the workspace that did it; null where the holder did.</param>
/// <param name="Places">In all others where the account that goes is a member.</param>
/// <param name="No">Why it cannot be done; null where it can.</param>
/// <param name="LosesSecondStep">Whether the account that goes asks for a second step, and the other does not.</param>
public sealed record MergeDone(
    MergedHere? Own,
    IReadOnlyList<MergedHere> Places,
    Refusal? No,
    bool LosesSecondStep
);

/// <summary>Merges two accounts, whoever decided it: in every workspace, then the accounts themselves, in one change.</summary>
public sealed class MergeDesk(MergePlace place, HolderNews holders)
{
    /// <summary>Refuses what nobody may merge, and what waits for an answer of the holder.</summary>
    public static async Task<Refusal?> ForbidsAsync(AccountWrite held, AccountRow kept, AccountRow gone)
    {
        if (MergeRules.Forbids(Of(kept), Of(gone)) is { } no)
            return no;
        return await held
            .Rows.Claims.IgnoreQueryFilters()
            .AnyAsync(c => (c.AccountId == kept.Id || c.AccountId == gone.Id) && c.State == ClaimState.Asked)
            ? new Refusal(
                "merge.asked",
                "A workspace has asked for one of the two accounts, and waits for an answer.",
                "Let that be answered first.",
                RefusalSort.Conflict
            )
            : null;

        static MergedAccount Of(AccountRow row) => new(row.Id, row.Address, row.Standing, row.CustodyId);
    }

    /// <summary>The workspaces in which an account is.</summary>
    public static Task<List<Guid>> HereAsync(ComeAboardContext rows, Guid account) =>
        rows
            .Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account && m.EndedAt == null)
            .Select(m => m.WorkspaceId)
            .ToListAsync();

    /// <summary>Does it, or only looks at it where the deal is stopped.</summary>
    /// <param name="held">The change; both accounts and all these workspaces are locked.</param>
    /// <param name="deal">What is merged.</param>
    /// <param name="places">Every workspace beside the one that does it in which the account that goes is or was.</param>
    public async Task<Outcome<MergeDone>> DoAsync(
        AccountWrite held,
        MergeDeal deal,
        IReadOnlyList<Guid> places
    )
    {
        var (kept, gone) = (deal.Kept, deal.Gone);
        var all = await Claims.OthersAsync(held.Rows, gone.Id, deal.By ?? Guid.Empty);
        if (all.Except(places).Any())
            return CommonRefusals.Stale;
        MergedHere? own = null;
        var stop = deal.Stop;
        if (deal.By is { } by)
        {
            if (!(await place.DoAsync(held, by, deal)).Try(out own, out var no))
                return no;
            stop ??= own.No;
        }
        var elsewhere = new List<MergedHere>();
        var members = own is null
            ? []
            : own.Passed.Select(id => new BroughtMember(deal.By!.Value, id)).ToList();
        foreach (var one in places.Order())
        {
            if (!(await place.DoAsync(held, one, deal with { Stop = stop })).Try(out var here, out var no))
                return no;
            stop ??= here.No;
            members.AddRange(here.Passed.Select(id => new BroughtMember(one, id)));
            if (here.Gone is not null)
                elsewhere.Add(here);
        }
        var loses = await HasSecondStepAsync(held, gone.Id) && !await HasSecondStepAsync(held, kept.Id);
        if (stop is not null)
            return new MergeDone(own, elsewhere, stop, loses);
        var brought = await AccountMoves.BringAsync(held, gone, kept, members);
        held.Rows.AccountMerges.Add(
            new AccountMergeRow
            {
                Id = deal.Id,
                KeptId = kept.Id,
                GoneId = gone.Id,
                At = held.Now,
                ByWorkspaceId = deal.By,
                Brought = brought.Write(),
            }
        );
        held.Note(kept.Id, "account.merged", ("address", gone.Address));
        held.Note(gone.Id, "account.merged-into", ("address", kept.Address));
        var home = deal.By ?? await HomeAsync(held, kept.Id, places);
        if (home is { } from)
            await held.InAsync<bool>(
                from,
                write =>
                {
                    holders.Tell(write, kept, "account.merged", ("address", gone.Address));
                    holders.Tell(write, gone, "account.merged-into", ("address", kept.Address));
                    return Task.FromResult<Outcome<bool>>(true);
                }
            );
        return new MergeDone(own, elsewhere, null, loses);
    }

    /// <summary>A workspace that is locked and one of the two is in: mails go out from it.</summary>
    internal static async Task<Guid?> HomeAsync(
        AccountWrite held,
        Guid account,
        IReadOnlyList<Guid> places
    ) =>
        await held
            .Rows.Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account && places.Contains(m.WorkspaceId))
            .OrderBy(m => m.EndedAt != null)
            .ThenBy(m => m.WorkspaceId)
            .Select(m => (Guid?)m.WorkspaceId)
            .FirstOrDefaultAsync();

    private static Task<bool> HasSecondStepAsync(AccountWrite held, Guid account) =>
        held.Rows.Credentials.AnyAsync(c => c.AccountId == account && c.Kind == CredentialKind.TimeCode);
}
