using ComeAboard.Core;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>The addresses of an account as its holder looks after them: another one proved by a code, the main one changed, one removed.</summary>
public sealed class YourAddresses(
    Database database,
    AccountWriter accounts,
    HolderCodes holderCodes,
    MailedCodes codes,
    ToldChanges told
)
{
    /// <summary>Mails a code to an address that is to be proved. Nothing tells whether it is another account's.</summary>
    public async Task<Outcome<bool>> SendCodeAsync(AccountRow account, string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        return await holderCodes.SendAsync(
            account,
            Of(account, to),
            via,
            (workspace, code) => Letters.AddressCode(account, workspace, to.ToString(), code)
        );
    }

    /// <summary>Adds an address with the code that was mailed to it; refuses with <c>address.code-wrong</c> or <c>address.taken</c>.</summary>
    public async Task<Outcome<bool>> AddAsync(AccountRow account, string? address, string? code, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        if (!await codes.IsShownAsync(Of(account, to), code, isOnce: true))
            return new Refusal(
                "address.code-wrong",
                "The code is wrong, has expired, or was tried too often.",
                "Check it, or have a new one mailed.",
                Field: "code"
            );
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async held =>
            {
                if (
                    await held.Rows.AccountAddresses.AnyAsync(a =>
                        a.AddressKey == to.Key && a.ProvedAt != null && a.AccountId != account.Id
                    )
                )
                    return new Refusal(
                        "address.taken",
                        $"{to} is the address of another account of yours.",
                        "Sign in with that one, or give another address.",
                        RefusalSort.Conflict,
                        "address"
                    );
                await AddressProofs.ProveAsync(held.Rows, account, to, held.Now);
                held.Note(account.Id, "account.address-proved", ("address", to.ToString()));
                return true;
            }
        );
    }

    /// <summary>
    /// Makes a proved address the main one; mail that went to the one before goes there. Refuses with
    /// <c>account.held</c> where a workspace holds the account.
    /// </summary>
    public Task<Outcome<bool>> MakeMainAsync(AccountRow account, string? address, string via) =>
        MakeMainAsync(account, address, via, null);

    /// <summary>Makes a proved address the main one because a workspace proposed it, together with what else follows from that.</summary>
    /// <param name="account">The account.</param>
    /// <param name="address">The address; refused with <c>proposal.unproved</c> while it is not proved.</param>
    /// <param name="via">Through what.</param>
    /// <param name="along">What is done along with it; null where its holder does it of their own accord.</param>
    internal async Task<Outcome<bool>> MakeMainAsync(
        AccountRow account,
        string? address,
        string via,
        Func<AccountWrite, Task<Outcome<bool>>>? along
    )
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        List<Guid> places;
        await using (var rows = database.Open())
            places = await Claims.OthersAsync(rows, account.Id, Guid.Empty);
        return await accounts.WriteAsync<bool>(
            [account.Id],
            places,
            Caller.Invitee(account.Name, via),
            async held =>
            {
                var row = held[account.Id];
                if (row.CustodyId is not null && along is null)
                    return new Refusal(
                        "account.held",
                        "A workspace holds this account, by its main address.",
                        "Ask the workspace to change it, or to give custody up.",
                        RefusalSort.Conflict
                    );
                if ((await Claims.OthersAsync(held.Rows, account.Id, Guid.Empty)).Except(places).Any())
                    return CommonRefusals.Stale;
                if (
                    await held.Rows.AccountAddresses.FirstOrDefaultAsync(a =>
                        a.AccountId == account.Id && a.AddressKey == to.Key && a.ProvedAt != null
                    )
                    is not { } proved
                )
                    return along is null
                        ? CommonRefusals.NotFound
                        : new Refusal(
                            "proposal.unproved",
                            $"It is not shown yet that {to} is yours.",
                            "Have a code mailed to it, and add it to your addresses.",
                            RefusalSort.Conflict
                        );
                if (along is not null && !(await along(held)).Try(out _, out var over))
                    return over;
                var (before, next) = (row.Address, proved.Address);
                await held
                    .Rows.Accounts.Where(a => a.Id == account.Id)
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(a => a.Address, next).SetProperty(a => a.Version, a => a.Version + 1)
                    );
                // A stand-in has done its duty.
                if (before.EndsWith("@" + ClaimDeeds.StandInDomain, StringComparison.Ordinal))
                    await held
                        .Rows.AccountAddresses.Where(a => a.AccountId == account.Id && a.Address == before)
                        .ExecuteDeleteAsync();
                held.Note(account.Id, "account.address-changed", ("before", before), ("after", next));
                foreach (var place in places.Order())
                {
                    var told = await held.InAsync<bool>(
                        place,
                        async write =>
                        {
                            foreach (
                                var member in await write
                                    .Rows.Members.Where(m => m.AccountId == account.Id)
                                    .ToListAsync()
                            )
                                ClaimDeeds.Readdress(write, member, before, to);
                            return true;
                        }
                    );
                    if (!told.Succeeded)
                        return told;
                }
                return true;
            }
        );
    }

    /// <summary>
    /// Has notices of the work sent to another proved address, or to the main one again; the main one is told of it, as
    /// everything about the account itself goes there. Refuses with <c>address.unproved</c>.
    /// </summary>
    /// <param name="account">The account.</param>
    /// <param name="address">The address; null for the main one.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> SendNoticesToAsync(AccountRow account, string? address, string via)
    {
        var to = account.Address;
        if (!string.IsNullOrWhiteSpace(address))
        {
            if (!EmailAddress.Read(address).Try(out var read, out var refusal))
                return refusal;
            to = read.ToString();
        }
        var key = EmailAddress.Read(to).Try(out var wanted, out _) ? wanted.Key : to;
        return await told.TellAsync<bool>(
            account,
            "account.notices-moved",
            via,
            async held =>
            {
                var isMain = to == held[account.Id].Address;
                if (
                    !isMain
                    && !await held.Rows.AccountAddresses.AnyAsync(a =>
                        a.AccountId == account.Id && a.AddressKey == key && a.ProvedAt != null
                    )
                )
                    return new Refusal(
                        "address.unproved",
                        $"It is not shown that {to} is yours.",
                        "Have a code mailed to it, and add it to your addresses.",
                        RefusalSort.Conflict,
                        "address"
                    );
                // One address at most takes them, at every moment: none does before another one does.
                await held
                    .Rows.AccountAddresses.Where(a => a.AccountId == account.Id && a.TakesNotices)
                    .ExecuteUpdateAsync(set => set.SetProperty(a => a.TakesNotices, false));
                if (!isMain)
                    await held
                        .Rows.AccountAddresses.Where(a => a.AccountId == account.Id && a.AddressKey == key)
                        .ExecuteUpdateAsync(set => set.SetProperty(a => a.TakesNotices, true));
                return true;
            },
            ("address", to)
        );
    }

    /// <summary>Removes an address that is not the main one; refuses with <c>address.main</c> and <c>address.last</c>.</summary>
    public async Task<Outcome<bool>> RemoveAsync(AccountRow account, string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async held =>
            {
                var all = await held
                    .Rows.AccountAddresses.Where(a => a.AccountId == account.Id)
                    .ToListAsync();
                if (all.FirstOrDefault(a => a.AddressKey == to.Key) is not { } gone)
                    return CommonRefusals.NotFound;
                if (gone.Address == held[account.Id].Address)
                    return new Refusal(
                        "address.main",
                        "That is the main address of the account.",
                        "Make another the main one first.",
                        RefusalSort.Conflict
                    );
                if (gone.ProvedAt is not null && all.Count(a => a.ProvedAt is not null) == 1)
                    return new Refusal(
                        "address.last",
                        "That is the only address shown to be yours.",
                        "Add another first.",
                        RefusalSort.Conflict
                    );
                held.Rows.AccountAddresses.Remove(gone);
                held.Note(account.Id, "account.address-removed", ("address", gone.Address));
                return true;
            }
        );
    }

    private static CodeFor Of(AccountRow account, EmailAddress to) =>
        new(CodePurpose.Address, Guid.Empty, account.Id, to);
}
