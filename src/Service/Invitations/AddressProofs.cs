using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Addresses that accounts bear, and which of them were proved.</summary>
public static class AddressProofs
{
    /// <summary>
    /// An address was proved by an account. Nobody else's unproved claim to it survives – except where it is all that
    /// other account has to sign in with, for nobody loses their last way in by somebody else's act.
    /// </summary>
    public static async Task ProveAsync(
        ComeAboardContext rows,
        AccountRow account,
        EmailAddress address,
        DateTimeOffset now
    )
    {
        var known = await rows.AccountAddresses.Where(a => a.AddressKey == address.Key).ToListAsync();
        foreach (var claim in known.Where(a => a.AccountId != account.Id && a.ProvedAt is null))
        {
            if (
                await rows.AccountAddresses.AnyAsync(a =>
                    a.AccountId == claim.AccountId && a.AddressKey != address.Key
                )
            )
                rows.AccountAddresses.Remove(claim);
        }
        if (known.FirstOrDefault(a => a.AccountId == account.Id) is { } own)
            own.ProvedAt ??= now;
        else
            rows.AccountAddresses.Add(
                new AccountAddressRow
                {
                    AccountId = account.Id,
                    AddressKey = address.Key,
                    Address = address.ToString(),
                    ProvedAt = now,
                }
            );
    }
}
