using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>
/// Parting accounts again that were merged: by the workspace that did it, as long as it holds the account that stayed. What
/// happened since stays with that one, unless it is about an address of the other, who has those back.
/// </summary>
public sealed class Partings(Database database, AccountWriter accounts, PartingDesk desk, TimeProvider clock)
{
    /// <summary>
    /// Parts them; refuses with <c>merge.not-found</c>, <c>merge.not-ours</c>, <c>account.not-held</c>, and as
    /// <see cref="AccountMerge.ForbidsUndoing"/> does.
    /// </summary>
    public async Task<Outcome<MergeView>> UndoAsync(Visitor visitor, UnmergeRequest request)
    {
        if (await FindAsync(visitor, request.Account) is not { } found)
            return NotFound;
        if (!found.IsOwn)
            return new Refusal(
                "merge.not-ours",
                "Whoever holds both accounts joined them.",
                "Only they can part them again, on their account page.",
                RefusalSort.NotAllowed
            );
        AccountMergeRow merge;
        IReadOnlyList<Guid> places;
        await using (var rows = database.Open(visitor.WorkspaceId))
        {
            merge = await rows.AccountMerges.AsNoTracking().FirstAsync(m => m.Id == found.Id);
            places = await PartingDesk.PlacesAsync(rows, merge);
        }
        var (kept, gone) = (merge.KeptId, merge.GoneId);
        return await accounts.WriteAsync<MergeView>(
            [kept, gone],
            [visitor.WorkspaceId, .. places],
            visitor.Caller,
            async held =>
            {
                if (await Resets.ForbidsAsync(held, visitor, held[kept]) is { } notHeld)
                    return notHeld;
                var allowed = await held.InAsync<bool>(
                    visitor.WorkspaceId,
                    async write => await ForbidsActorAsync(write, found) is { } beyond ? beyond : true
                );
                if (!allowed.Succeeded)
                    return allowed.Refusal!;
                if (!(await desk.PartAsync(held, merge.Id, places)).Try(out var remains, out var no))
                    return no;
                held.Rows.Turn(visitor.WorkspaceId);
                var row = await held.Rows.MemberMerges.AsNoTracking().FirstAsync(m => m.Id == merge.Id);
                return MergeViews.Of(row, clock.Now(), remains);
            }
        );
    }

    private static async Task<Refusal?> ForbidsActorAsync(WorkspaceWrite write, MemberMergeRow found)
    {
        if (!(await write.RequireAsync(Duties.Claims)).Try(out var actor, out var no))
            return no;
        var world = await write.WorldAsync();
        return found.KeptId is { } kept
            ? GivingRules.ForbidsActingOn(world, actor.Id, kept, write.Today)
            : null;
    }

    /// <summary>The newest merge that stands of an account, by an address of either or the id of either member; else the newest one.</summary>
    private async Task<MemberMergeRow?> FindAsync(Visitor visitor, string? account)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var isId = Guid.TryParse(account, out var id);
        if (!isId && !EmailAddress.Read(account).Try(out _, out _))
            return null;
        var key = isId ? "" : EmailAddress.Read(account).Value.Key;
        var all = isId
            ? await rows
                .MemberMerges.AsNoTracking()
                .Where(m => m.KeptId == id || m.GoneId == id || m.Id == id)
                .ToListAsync()
            :
            [
                .. (await rows.MemberMerges.AsNoTracking().ToListAsync()).Where(m =>
                    KeyOf(m.KeptAddress) == key || KeyOf(m.GoneAddress) == key
                ),
            ];
        return all.OrderByDescending(m => m.UndoneAt is null).ThenByDescending(m => m.Id).FirstOrDefault();

        static string KeyOf(string address) => EmailAddress.Read(address).Value.Key;
    }

    private static Refusal NotFound { get; } =
        new(
            "merge.not-found",
            "There is no merge of such an account here.",
            "Look at what was merged: aboard accounts merges",
            RefusalSort.NotFound,
            "account"
        );
}
