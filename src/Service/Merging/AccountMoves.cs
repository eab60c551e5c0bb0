using System.Text.Json;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Merging;

/// <summary>An address that one account brought to another.</summary>
/// <param name="Key">The form in which it is compared.</param>
/// <param name="Address">As it is written.</param>
/// <param name="ProvedAt">When it was proved; null for never.</param>
/// <param name="TakesNotices">Whether notices went there.</param>
/// <param name="Had">Whether the other account bore it, too, unproved.</param>
public sealed record BroughtAddress(
    string Key,
    string Address,
    DateTimeOffset? ProvedAt,
    bool TakesNotices,
    bool Had
);

/// <summary>A membership that passed from one account to another.</summary>
/// <param name="Workspace">Where.</param>
/// <param name="Member">Which.</param>
public sealed record BroughtMember(Guid Workspace, Guid Member);

/// <summary>
/// What an account that goes brings to the one that stays. Its password, passkeys and second step stay with it and rest; what
/// rests on the word for an address – the identity another organisation vouches for – goes with the address.
/// </summary>
/// <param name="Addresses">Its addresses.</param>
/// <param name="Outside">Its outside identities.</param>
/// <param name="Members">Its memberships in workspaces where the other was not.</param>
/// <param name="Custody">The workspace that held it; null for its holder's own.</param>
/// <param name="CustodySince">Since when.</param>
public sealed record Brought(
    IReadOnlyList<BroughtAddress> Addresses,
    IReadOnlyList<Guid> Outside,
    IReadOnlyList<BroughtMember> Members,
    Guid? Custody,
    DateTimeOffset? CustodySince
)
{
    private static readonly JsonSerializerOptions Kept = new(JsonSerializerDefaults.Web);

    /// <summary>As it is kept.</summary>
    public string Write() => JsonSerializer.Serialize(this, Kept);

    /// <summary>As it was kept.</summary>
    public static Brought Read(string kept) => JsonSerializer.Deserialize<Brought>(kept, Kept)!;
}

/// <summary>Brings what one account is to another, and back again, under the locks of both.</summary>
public static class AccountMoves
{
    /// <summary>Brings everything; the account that goes is closed, its sign-ins and all that was mailed for it are void.</summary>
    /// <param name="held">The change.</param>
    /// <param name="goes">The account that goes.</param>
    /// <param name="stays">The account that stays.</param>
    /// <param name="members">Its memberships that passed over.</param>
    public static async Task<Brought> BringAsync(
        AccountWrite held,
        AccountRow goes,
        AccountRow stays,
        IReadOnlyList<BroughtMember> members
    )
    {
        var (rows, from, to) = (held.Rows, goes.Id, stays.Id);
        await rows.Sessions.Where(s => s.AccountId == from).ExecuteDeleteAsync();
        await rows.AccountLinks.Where(l => l.AccountId == from).ExecuteDeleteAsync();
        await rows.MailedCodes.Where(c => c.AccountId == from).ExecuteDeleteAsync();
        var own = await rows
            .AccountAddresses.AsNoTracking()
            .Where(a => a.AccountId == from)
            .OrderBy(a => a.AddressKey)
            .ToListAsync();
        var had = await rows
            .AccountAddresses.Where(a => a.AccountId == to)
            .Select(a => a.AddressKey)
            .ToListAsync();
        var addresses = own.Select(a => new BroughtAddress(
                a.AddressKey,
                a.Address,
                a.ProvedAt,
                a.TakesNotices,
                had.Contains(a.AddressKey)
            ))
            .ToList();
        await rows.AccountAddresses.Where(a => a.AccountId == from).ExecuteDeleteAsync();
        foreach (var one in addresses)
            await PutAsync(rows, to, one.Key, one.Address, one.ProvedAt, false);
        var outside = await rows
            .Credentials.Where(c => c.AccountId == from && c.Kind == CredentialKind.OutsideIdentity)
            .Select(c => c.Id)
            .Order()
            .ToListAsync();
        await MoveOutsideAsync(rows, outside, from, to);
        var brought = new Brought(addresses, outside, members, goes.CustodyId, goes.CustodySince);
        await rows
            .Accounts.Where(a => a.Id == from)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.ClosedAt, held.Now)
                    .SetProperty(a => a.MergedIntoId, to)
                    .SetProperty(a => a.CustodyId, (Guid?)null)
                    .SetProperty(a => a.CustodySince, (DateTimeOffset?)null)
                    .SetProperty(a => a.Version, a => a.Version + 1)
            );
        return brought;
    }

    /// <summary>Brings everything back that is still there; an address that somebody else has proved since stays theirs.</summary>
    /// <param name="held">The change.</param>
    /// <param name="gone">The account that went.</param>
    /// <param name="stayed">The account that stayed.</param>
    /// <param name="brought">What it had brought.</param>
    /// <param name="isHeldAgain">Whether the workspace that held it may hold it again.</param>
    /// <returns>What could not be brought back, in sentences.</returns>
    public static async Task<IReadOnlyList<string>> ReturnAsync(
        AccountWrite held,
        AccountRow gone,
        AccountRow stayed,
        Brought brought,
        bool isHeldAgain
    )
    {
        var (rows, from, to) = (held.Rows, stayed.Id, gone.Id);
        var remains = new List<string>();
        foreach (var one in brought.Addresses)
        {
            var borne = await rows
                .AccountAddresses.AsNoTracking()
                .FirstOrDefaultAsync(a => a.AccountId == from && a.AddressKey == one.Key);
            var proved = borne?.ProvedAt ?? one.ProvedAt;
            await rows
                .AccountAddresses.Where(a => a.AccountId == from && a.AddressKey == one.Key)
                .ExecuteDeleteAsync();
            if (one.Had)
                await PutAsync(rows, from, one.Key, one.Address, null, borne?.TakesNotices ?? false);
            var isTaken =
                proved is not null
                && await rows.AccountAddresses.AnyAsync(a =>
                    a.AddressKey == one.Key && a.ProvedAt != null && a.AccountId != from
                );
            if (isTaken)
                remains.Add($"{one.Address} is the address of another account by now.");
            await PutAsync(rows, to, one.Key, one.Address, isTaken ? null : proved, one.TakesNotices);
        }
        await MoveOutsideAsync(rows, brought.Outside, from, to);
        Guid? custody = isHeldAgain ? brought.Custody : null;
        DateTimeOffset? since = isHeldAgain ? brought.CustodySince : null;
        await rows
            .Accounts.Where(a => a.Id == to)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.ClosedAt, (DateTimeOffset?)null)
                    .SetProperty(a => a.MergedIntoId, (Guid?)null)
                    .SetProperty(a => a.CustodyId, custody)
                    .SetProperty(a => a.CustodySince, since)
                    .SetProperty(a => a.Version, a => a.Version + 1)
            );
        // Whoever came in by what is the other's again has no place among the sign-ins of the one.
        await rows.Sessions.Where(s => s.AccountId == from).ExecuteDeleteAsync();
        return remains;
    }

    /// <summary>Lets an account be what another is in a workspace: members, and the tokens they gave out.</summary>
    public static async Task PassMembersAsync(
        ComeAboardContext rows,
        IReadOnlyCollection<Guid> members,
        Guid to
    )
    {
        foreach (var member in await rows.Members.Where(m => members.Contains(m.Id)).ToListAsync())
            member.AccountId = to;
        foreach (var token in await rows.ApiTokens.Where(t => members.Contains(t.MemberId)).ToListAsync())
            token.AccountId = to;
    }

    private static async Task PutAsync(
        ComeAboardContext rows,
        Guid account,
        string key,
        string address,
        DateTimeOffset? provedAt,
        bool takesNotices
    )
    {
        var updated = await rows
            .AccountAddresses.Where(a => a.AccountId == account && a.AddressKey == key)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.ProvedAt, a => a.ProvedAt ?? provedAt));
        if (updated > 0)
            return;
        rows.AccountAddresses.Add(
            new AccountAddressRow
            {
                AccountId = account,
                AddressKey = key,
                Address = address,
                ProvedAt = provedAt,
                TakesNotices = takesNotices,
            }
        );
        await rows.SaveChangesAsync();
    }

    private static async Task MoveOutsideAsync(
        ComeAboardContext rows,
        IReadOnlyList<Guid> ids,
        Guid from,
        Guid to
    )
    {
        var ways = await rows
            .Credentials.AsNoTracking()
            .Where(c => c.AccountId == from && ids.Contains(c.Id))
            .ToListAsync();
        await rows.Credentials.Where(c => c.AccountId == from && ids.Contains(c.Id)).ExecuteDeleteAsync();
        foreach (var way in ways)
            rows.Credentials.Add(
                new CredentialRow
                {
                    AccountId = to,
                    Id = way.Id,
                    Kind = way.Kind,
                    Label = way.Label,
                    Handle = way.Handle,
                    Secret = way.Secret,
                    MadeAt = way.MadeAt,
                    LastUsedAt = way.LastUsedAt,
                }
            );
        await rows.SaveChangesAsync();
    }
}
