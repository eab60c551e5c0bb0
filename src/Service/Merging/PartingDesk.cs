using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>Parts two accounts, whoever decided it: in every workspace, then the accounts themselves, in one change.</summary>
public sealed class PartingDesk(MergeNews news, HolderNews holders)
{
    /// <summary>Every workspace that parting concerns: where memberships passed over, where two were laid over each other, and where somebody came in by an address of the other since.</summary>
    public static async Task<IReadOnlyList<Guid>> PlacesAsync(ComeAboardContext rows, AccountMergeRow merge)
    {
        var brought = Brought.Read(merge.Brought);
        var places = brought.Members.Select(m => m.Workspace).ToHashSet();
        places.UnionWith(
            await rows
                .MemberMerges.IgnoreQueryFilters()
                .Where(m => m.Id == merge.Id)
                .Select(m => m.WorkspaceId)
                .ToListAsync()
        );
        var keys = brought.Addresses.Select(a => a.Key).ToList();
        places.UnionWith(
            await rows
                .Members.IgnoreQueryFilters()
                .Where(m =>
                    m.AccountId == merge.KeptId && m.JoinedAt > merge.At && keys.Contains(m.AddressKey)
                )
                .Select(m => m.WorkspaceId)
                .ToListAsync()
        );
        return [.. places.Order()];
    }

    /// <summary>Parts them; what could not be brought back, in sentences.</summary>
    public async Task<Outcome<IReadOnlyList<string>>> PartAsync(
        AccountWrite held,
        Guid id,
        IReadOnlyList<Guid> places
    )
    {
        var merge = await held.Rows.AccountMerges.AsNoTracking().FirstAsync(m => m.Id == id);
        var (stayed, gone) = (held[merge.KeptId], held[merge.GoneId]);
        if (merge.Merge.ForbidsUndoing(held.Now, stayed.Standing) is { } over)
            return over;
        if (gone.MergedIntoId != stayed.Id)
            return CommonRefusals.Stale;
        if ((await PlacesAsync(held.Rows, merge)).Except(places).Any())
            return CommonRefusals.Stale;
        var brought = Brought.Read(merge.Brought);
        if (await ForbidsAddressAsync(held, stayed, brought) is { } last)
            return last;
        var remains = new List<string>();
        foreach (var place in places.Order())
        {
            if (
                !(await held.InAsync(place, write => PartHereAsync(write, merge, brought, gone))).Try(
                    out var here,
                    out var no
                )
            )
                return no;
            // What stands in other workspaces is for nobody here to read.
            if (place == (merge.ByWorkspaceId ?? place))
                remains.AddRange(here);
        }
        remains.AddRange(
            await AccountMoves.ReturnAsync(
                held,
                gone,
                stayed,
                brought,
                await IsHeldAgainAsync(held, gone, brought)
            )
        );
        await held
            .Rows.AccountMerges.Where(m => m.Id == id)
            .ExecuteUpdateAsync(set => set.SetProperty(m => m.UndoneAt, held.Now));
        held.Note(stayed.Id, "account.unmerged", ("address", gone.Address));
        held.Note(gone.Id, "account.unmerged", ("address", stayed.Address));
        if ((merge.ByWorkspaceId ?? await MergeDesk.HomeAsync(held, stayed.Id, places)) is { } home)
            await held.InAsync<bool>(
                home,
                write =>
                {
                    holders.Tell(write, stayed, "account.unmerged", ("address", gone.Address));
                    holders.Tell(write, gone, "account.unmerged", ("address", stayed.Address));
                    return Task.FromResult<Outcome<bool>>(true);
                }
            );
        return remains;
    }

    private async Task<Outcome<IReadOnlyList<string>>> PartHereAsync(
        WorkspaceWrite write,
        AccountMergeRow merge,
        Brought brought,
        AccountRow gone
    )
    {
        var by = MergePlace.CallerOf(write, merge.ByWorkspaceId);
        var isOwn = merge.ByWorkspaceId == write.Workspace.Id;
        IReadOnlyList<string> remains = [];
        var row = await write.Rows.MemberMerges.FirstOrDefaultAsync(m => m.Id == merge.Id);
        if (row is not null)
        {
            (row.UndoneAt, row.UndoneByName) = (write.Now, by.Name);
            if (
                await write.Rows.Members.FirstOrDefaultAsync(m => m.Id == row.KeptId) is { } kept
                && await write.Rows.Members.FirstOrDefaultAsync(m => m.Id == row.GoneId) is { } other
                && other.MergedIntoId == kept.Id
            )
                remains = await MergeDeeds.UndoAsync(
                    write,
                    kept,
                    other,
                    MergeDeeds.Read(row.Steps),
                    merge.At
                );
        }
        var back = brought
            .Members.Where(m => m.Workspace == write.Workspace.Id)
            .Select(m => m.Member)
            .ToHashSet();
        var keys = brought.Addresses.Select(a => a.Key).ToList();
        back.UnionWith(
            await write
                .Rows.Members.Where(m =>
                    m.AccountId == merge.KeptId && m.JoinedAt > merge.At && keys.Contains(m.AddressKey)
                )
                .Select(m => m.Id)
                .ToListAsync()
        );
        var passed = await write
            .Rows.Members.AsNoTracking()
            .Where(m => back.Contains(m.Id) && m.AccountId == merge.KeptId)
            .ToListAsync();
        await AccountMoves.PassMembersAsync(write.Rows, [.. passed.Select(m => m.Id)], gone.Id);
        var here = passed.Where(m => m.EndedAt is null).ToList();
        if (row is not null || here.Count > 0)
            write.RecordBy(
                by,
                "people.unmerged",
                row?.KeptId ?? here.FirstOrDefault()?.Id ?? gone.Id,
                ("name", row?.KeptName ?? here[0].Name),
                ("address", row?.KeptAddress ?? here[0].Address),
                ("other", row?.GoneName ?? gone.Name),
                ("other address", row?.GoneAddress ?? gone.Address),
                ("not brought back", remains.Count > 0 ? string.Join(" ", remains) : null)
            );
        if (!isOwn)
            foreach (var member in here)
                await news.TellAdministratorsAsync(write, member, gone.Address, isParted: true);
        return Outcome.Of(remains);
    }

    /// <summary>The account that stayed goes on under an address that is its own; one of the other's was its main one, maybe.</summary>
    private static async Task<Refusal?> ForbidsAddressAsync(
        AccountWrite held,
        AccountRow stayed,
        Brought brought
    )
    {
        var back = brought.Addresses.Where(a => !a.Had).Select(a => a.Key).ToList();
        if (!back.Contains(EmailAddress.Read(stayed.Address).Value.Key))
            return null;
        var own = await held
            .Rows.AccountAddresses.Where(a =>
                a.AccountId == stayed.Id && a.ProvedAt != null && !back.Contains(a.AddressKey)
            )
            .OrderBy(a => a.AddressKey)
            .Select(a => a.Address)
            .FirstOrDefaultAsync();
        if (own is null)
            return new Refusal(
                "merge.last-address",
                "The account that stayed has no other proved address than those that would go back.",
                "Add one to it first.",
                RefusalSort.Conflict
            );
        await held
            .Rows.Accounts.Where(a => a.Id == stayed.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.Address, own));
        return null;
    }

    /// <summary>Whether the workspace that held the account that went may hold it again: its domain is proved still.</summary>
    private static async Task<bool> IsHeldAgainAsync(AccountWrite held, AccountRow gone, Brought brought)
    {
        var domain = EmailAddress.Read(gone.Address).Value.DomainKey;
        var row = await held
            .Rows.Domains.IgnoreQueryFilters()
            .AsNoTracking()
            .FirstOrDefaultAsync(d => d.WorkspaceId == brought.Custody && d.Domain == domain);
        return row is not null && row.Proof.Holds(held.Now);
    }
}
