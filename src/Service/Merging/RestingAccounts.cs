using ComeAboard.Core.Merging;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>Forgets the ways in of accounts that were made one with others, once they cannot be parted any more.</summary>
public sealed class RestingAccounts(Database database, AccountWriter accounts, TimeProvider clock)
{
    private const int AtOnce = 50;

    /// <summary>Forgets what is due; how many accounts there were.</summary>
    public async Task<int> CatchUpAsync()
    {
        var over = clock.Now() - AccountMerge.Grace;
        await using var rows = database.Open();
        var due = await rows
            .AccountMerges.AsNoTracking()
            .Where(m => m.UndoneAt == null && m.ForgottenAt == null && m.At <= over)
            .OrderBy(m => m.At)
            .Take(AtOnce)
            .Select(m => new { m.Id, m.GoneId })
            .ToListAsync();
        foreach (var one in due)
            await accounts.WriteAsync<bool>(
                [one.GoneId],
                [],
                Caller.Clock,
                async held =>
                {
                    var still = await held
                        .Rows.AccountMerges.Where(m =>
                            m.Id == one.Id && m.UndoneAt == null && m.ForgottenAt == null
                        )
                        .ExecuteUpdateAsync(set => set.SetProperty(m => m.ForgottenAt, held.Now));
                    if (still == 0)
                        return true;
                    await held.Rows.Credentials.Where(c => c.AccountId == one.GoneId).ExecuteDeleteAsync();
                    held.Note(one.GoneId, "account.forgotten");
                    return true;
                }
            );
        return due.Count;
    }
}
