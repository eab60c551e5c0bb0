using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What workspaces propose to the holder of an account, or correct with their help: accepted, or set aside.</summary>
public sealed class YourProposals(
    Database database,
    AccountWriter accounts,
    YourAddresses addresses,
    TimeProvider clock
)
{
    private static Refusal Gone { get; } =
        new("proposal.gone", "That is not proposed any more.", "Nothing needs doing.", RefusalSort.Conflict);

    /// <summary>What waits for an answer.</summary>
    public async Task<IReadOnlyList<ProposalView>> ListAsync(Guid account)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        return await (
            from proposal in rows.Proposals.IgnoreQueryFilters()
            join workspace in rows.Workspaces on proposal.WorkspaceId equals workspace.Id
            where proposal.AccountId == account && proposal.LapsesAt > now
            orderby proposal.MadeAt
            select new ProposalView(
                proposal.Id,
                workspace.Name,
                proposal.MadeByName,
                proposal.Name,
                proposal.Address,
                proposal.Reason,
                proposal.LapsesAt
            )
        ).ToListAsync();
    }

    /// <summary>
    /// Accepts one: the name counts at once, the address as the main one. Refuses with <c>proposal.gone</c>, or with
    /// <c>proposal.unproved</c> while the account has not proved that address.
    /// </summary>
    /// <param name="account">The account.</param>
    /// <param name="id">Which.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> AcceptAsync(AccountRow account, Guid id, string via)
    {
        if (await FindAsync(account.Id, id) is not { } proposal)
            return Gone;
        if (proposal.Address.Length > 0)
            return await addresses.MakeMainAsync(
                account,
                proposal.Address,
                via,
                held => TakeAsync(held, proposal)
            );
        return await accounts.WriteAsync(
            [account.Id],
            [proposal.WorkspaceId],
            Caller.Invitee(account.Name, via),
            held => TakeAsync(held, proposal)
        );
    }

    /// <summary>Sets one aside; nobody is told.</summary>
    /// <param name="account">The account.</param>
    /// <param name="id">Which.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> SetAsideAsync(AccountRow account, Guid id, string via)
    {
        if (await FindAsync(account.Id, id) is not { } proposal)
            return Gone;
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async held =>
            {
                if (
                    await held
                        .Rows.Proposals.IgnoreQueryFilters()
                        .Where(p => p.Id == proposal.Id)
                        .ExecuteDeleteAsync() == 0
                )
                    return Gone;
                held.Note(account.Id, "account.proposal-set-aside");
                return true;
            }
        );
    }

    /// <summary>Takes a proposal away, once, and the name it holds over.</summary>
    private static async Task<Outcome<bool>> TakeAsync(AccountWrite held, ProposalRow proposal)
    {
        var account = proposal.AccountId;
        if (
            await held
                .Rows.Proposals.IgnoreQueryFilters()
                .Where(p => p.Id == proposal.Id && p.LapsesAt > held.Now)
                .ExecuteDeleteAsync() == 0
        )
            return Gone;
        if (proposal.Name.Length > 0)
            await held
                .Rows.Accounts.Where(a => a.Id == account)
                .ExecuteUpdateAsync(set =>
                    set.SetProperty(a => a.Name, proposal.Name)
                        .SetProperty(a => a.Version, a => a.Version + 1)
                );
        held.Note(
            account,
            "account.proposal-accepted",
            (
                "what",
                string.Join(", ", new[] { proposal.Name, proposal.Address }.Where(one => one.Length > 0))
            )
        );
        return await held.InAsync<bool>(
            proposal.WorkspaceId,
            async write =>
            {
                var members = await write
                    .Rows.Members.Where(m => m.AccountId == account && m.EndedAt == null)
                    .ToListAsync();
                foreach (var member in members.Where(_ => proposal.Name.Length > 0))
                {
                    member.Name = proposal.Name;
                    member.WithSearchText();
                    member.Version++;
                }
                write.Record(
                    "account.proposal-accepted",
                    members.FirstOrDefault()?.Id ?? account,
                    ("name", proposal.Name.Length > 0 ? proposal.Name : null),
                    ("address", proposal.Address.Length > 0 ? proposal.Address : null)
                );
                return true;
            }
        );
    }

    private async Task<ProposalRow?> FindAsync(Guid account, Guid id)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        return await rows
            .Proposals.IgnoreQueryFilters()
            .AsNoTracking()
            .FirstOrDefaultAsync(p => p.Id == id && p.AccountId == account && p.LapsesAt > now);
    }
}
