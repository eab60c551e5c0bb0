using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What goes with an account that is closed for good: everything by which one could still come in by it. Its history stays.</summary>
public static class ClosedAccounts
{
    /// <summary>Removes ways in, addresses and links of an account; its custody ends.</summary>
    public static async Task EmptyAsync(AccountWrite held, Guid account)
    {
        var rows = held.Rows;
        await rows.Sessions.Where(s => s.AccountId == account).ExecuteDeleteAsync();
        await rows.Credentials.Where(c => c.AccountId == account).ExecuteDeleteAsync();
        await rows.AccountAddresses.Where(a => a.AccountId == account).ExecuteDeleteAsync();
        await rows.AccountLinks.Where(l => l.AccountId == account).ExecuteDeleteAsync();
        await rows.MailedCodes.Where(c => c.AccountId == account).ExecuteDeleteAsync();
        await rows
            .Accounts.Where(a => a.Id == account)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.CustodyId, (Guid?)null)
                    .SetProperty(a => a.CustodySince, (DateTimeOffset?)null)
            );
    }
}
