using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Merging;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>
/// Making two accounts one that are both in a workspace's custody. The plan that is shown is the deed, done and undone again;
/// what is done is one change of both accounts and of every workspace they are in.
/// </summary>
public sealed class Merges(Database database, AccountWriter accounts, MergeDesk desk, TimeProvider clock)
{
    /// <summary>A page of the merges that concern people here, newest first.</summary>
    public async Task<Outcome<Page<MergeView>>> ListAsync(Visitor visitor, Paging paging)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await rows
            .MemberMerges.AsNoTracking()
            .PageAsync(
                paging,
                page =>
                    Task.FromResult<IReadOnlyList<MergeView>>([
                        .. page.Select(row => MergeViews.Of(row, clock.Now())),
                    ])
            );
    }

    /// <summary>Merges two accounts, or plans it where it is only tried: the plan says itself where it cannot be done.</summary>
    public async Task<Outcome<MergeView>> MergeAsync(Visitor visitor, MergeRequest request)
    {
        if (!MergeFields.Read(request.Take).Try(out var take, out var refusal))
            return refusal;
        if (!(await Corrections.FindAsync(database, visitor, request.Left)).Try(out var left, out refusal))
            return refusal with { Field = "left" };
        if (!(await Corrections.FindAsync(database, visitor, request.Right)).Try(out var right, out refusal))
            return refusal with { Field = "right" };
        if (left == right)
            return new Refusal(
                "merge.one",
                "Both are one account already.",
                "Name two.",
                RefusalSort.Conflict,
                "right"
            );
        if (!(await WhoStaysAsync(visitor, request.Keep, left, right)).Try(out var stays, out refusal))
            return refusal;
        var (kept, gone) = stays.KeepsFirst ? (left, right) : (right, left);
        var wish = new MergeWish(take, request.WithGains, request.Gains?.ToHashSet());
        List<Guid> places;
        await using (var rows = database.Open())
            places = [.. await Claims.OthersAsync(rows, gone, visitor.WorkspaceId)];
        return await accounts.WriteAsync<MergeView>(
            [kept, gone],
            [visitor.WorkspaceId, .. places],
            visitor.Caller,
            async held =>
            {
                var deal = new MergeDeal(
                    Guid.CreateVersion7(held.Now),
                    held[kept],
                    held[gone],
                    visitor.WorkspaceId,
                    wish,
                    await ForbidsAsync(held, visitor, held[kept], held[gone])
                );
                if (deal.Stop is { } stop && !visitor.Caller.Rehearses)
                    return stop;
                if (!(await desk.DoAsync(held, deal, places)).Try(out var done, out var no))
                    return no;
                if (done.No is { } not && !visitor.Caller.Rehearses)
                    return not;
                return MergeViews.Of(deal, done, stays.Why, visitor.Caller.Rehearses ? null : held.Now);
            }
        );
    }

    /// <summary>Why the workspace cannot merge them, whatever they are here.</summary>
    private static async Task<Refusal?> ForbidsAsync(
        AccountWrite held,
        Visitor visitor,
        AccountRow kept,
        AccountRow gone
    )
    {
        if (await MergeDesk.ForbidsAsync(held, kept, gone) is { } no)
            return no;
        foreach (var one in new[] { kept, gone })
            if (await Resets.ForbidsAsync(held, visitor, one) is not null)
                return new Refusal(
                    "merge.not-held",
                    $"The account {one.Address} is not in the workspace's custody, or its domain is lost.",
                    "Whoever holds both joins them on their account page, where they show that both are theirs. To hold the account, ask: aboard claims ask ADDRESS",
                    RefusalSort.Conflict
                );
        if (visitor.Member.AccountId == kept.Id || visitor.Member.AccountId == gone.Id)
            return new Refusal(
                "merge.own",
                "One of the two is your own account.",
                "Join them on your account page, where you show that both are yours.",
                RefusalSort.NotAllowed
            );
        var (ours, theirs) = (
            await MergeDesk.HereAsync(held.Rows, kept.Id),
            await MergeDesk.HereAsync(held.Rows, gone.Id)
        );
        return ours.Intersect(theirs).Any(place => place != visitor.WorkspaceId)
            ? new Refusal(
                "merge.both-elsewhere",
                "Another workspace knows both accounts, and has a say in how they become one.",
                "Whoever holds both joins them on their account page.",
                RefusalSort.Conflict
            )
            : null;
    }

    private async Task<Outcome<(bool KeepsFirst, string Why)>> WhoStaysAsync(
        Visitor visitor,
        string? keep,
        Guid left,
        Guid right
    )
    {
        if (!string.IsNullOrWhiteSpace(keep))
        {
            if (!(await Corrections.FindAsync(database, visitor, keep)).Try(out var kept, out var refusal))
                return refusal with { Field = "keep" };
            return kept == left || kept == right
                ? (kept == left, "")
                : new Refusal(
                    "merge.keep-unknown",
                    $"\"{Words.Short(keep)}\" is neither of the two.",
                    "Say which of the two stays.",
                    Field: "keep"
                );
        }
        await using var rows = database.Open(visitor.WorkspaceId);
        var members = await rows
            .Members.AsNoTracking()
            .Where(m => (m.AccountId == left || m.AccountId == right) && m.EndedAt == null)
            .ToDictionaryAsync(m => m.AccountId);
        if (members.Count < 2)
            return members.ContainsKey(right) ? (false, "a member here") : (true, "named first");
        return MergePlan.WhoStays(Of(members[left]), Of(members[right]));

        static (Kind, DateTimeOffset?, DateTimeOffset) Of(MemberRow member) =>
            (member.Kind, member.LastSeenAt, member.JoinedAt);
    }
}
