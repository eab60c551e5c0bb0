using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>A split that can still be undone, as the holder of both accounts sees it.</summary>
/// <param name="From">The account it was split off from.</param>
/// <param name="Custody">The workspace that holds that one; empty for nobody.</param>
/// <param name="Row">The split.</param>
public sealed record FoundSplit(AccountRow From, string Custody, AccountSplitRow Row);

/// <summary>
/// Undoing a split: the account of somebody's own goes, and all it is goes back to the first. Only its holder can, who shows
/// both accounts to be theirs: this one by a fresh proof, the first by a code mailed to its address.
/// </summary>
public sealed class Splits(
    Database database,
    AccountWriter accounts,
    HolderCodes holderCodes,
    MailedCodes codes,
    HolderNews news,
    TimeProvider clock
)
{
    /// <summary>The split by which an account came to be, while it can be undone; null for none.</summary>
    public async Task<FoundSplit?> FindAsync(Guid account)
    {
        await using var rows = database.Open();
        var row = await rows.AccountSplits.AsNoTracking().FirstOrDefaultAsync(s => s.ToId == account);
        if (row is null)
            return null;
        var from = await rows.Accounts.AsNoTracking().FirstAsync(a => a.Id == row.FromId);
        if (row.Split.ForbidsUndoing(clock.Now(), from.Standing, 0) is not null)
            return null;
        var custody = from.CustodyId is { } held
            ? await rows.Workspaces.Where(w => w.Id == held).Select(w => w.Name).FirstAsync()
            : "";
        return new FoundSplit(from, custody, row);
    }

    /// <summary>Mails a code to the address of the first account.</summary>
    public async Task<Outcome<bool>> SendCodeAsync(AccountRow account, string via)
    {
        if (await FindAsync(account.Id) is not { } found)
            return CommonRefusals.NotFound;
        return await holderCodes.SendAsync(
            account,
            Of(found),
            via,
            (workspace, code) => Letters.AddressCode(account, workspace, found.From.Address, code)
        );
    }

    /// <summary>
    /// Brings the two accounts together again; refuses with <c>split.code-wrong</c>, with <c>proof.stale</c>, and as
    /// <see cref="AccountSplit.ForbidsUndoing"/> does.
    /// </summary>
    /// <returns>The address of the account that stays.</returns>
    public async Task<Outcome<string>> UndoAsync(AccountRow account, Proof proof, string? code, string via)
    {
        if (proof.ForbidsDangerous(clock.Now()) is { } stale)
            return stale;
        if (await FindAsync(account.Id) is not { } found)
            return CommonRefusals.NotFound;
        if (!await codes.IsShownAsync(Of(found), code, isOnce: false))
            return new Refusal(
                "split.code-wrong",
                "The code is wrong, has expired, or was tried too often.",
                "Check it, or have a new one mailed.",
                Field: "code"
            );
        var (own, first) = (account.Id, found.From.Id);
        List<Guid> places;
        await using (var rows = database.Open())
            places = await Claims.OthersAsync(rows, own, Guid.Empty);
        return await accounts.WriteAsync<string>(
            [own, first],
            places,
            Caller.Invitee(account.Name, via),
            held => UndoAsync(held, own, first, places)
        );
    }

    private async Task<Outcome<string>> UndoAsync(
        AccountWrite held,
        Guid own,
        Guid first,
        IReadOnlyList<Guid> places
    )
    {
        var (goes, stays) = (held[own], held[first]);
        var split = await held.Rows.AccountSplits.FirstAsync(s => s.ToId == own);
        var both = (await Claims.OthersAsync(held.Rows, first, Guid.Empty)).Intersect(places).Count();
        if (split.Split.ForbidsUndoing(held.Now, stays.Standing, both) is { } no)
            return no;
        // A workspace it came to at this very moment is not locked.
        if ((await Claims.OthersAsync(held.Rows, own, Guid.Empty)).Except(places).Any())
            return CommonRefusals.Stale;
        split.UndoneAt = held.Now;
        var brought = await held.Rows.AccountAddresses.Where(a => a.AccountId == own).ToListAsync();
        foreach (var place in places.Order())
        {
            var moved = await MoveAsync(held, place, goes, stays);
            if (!moved.Succeeded)
                return moved.Refusal!;
        }
        held.Note(first, "account.joined-again", ("address", goes.Address));
        held.Note(own, "account.joined-into", ("address", stays.Address));
        await ClosedAccounts.EmptyAsync(held, own);
        await held
            .Rows.Accounts.Where(a => a.Id == own)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.ClosedAt, held.Now));
        // Its addresses lead to the account that stays.
        foreach (var one in brought)
            if (
                !await held.Rows.AccountAddresses.AnyAsync(a =>
                    a.AccountId == first && a.AddressKey == one.AddressKey
                )
            )
                held.Rows.AccountAddresses.Add(
                    new AccountAddressRow
                    {
                        AccountId = first,
                        AddressKey = one.AddressKey,
                        Address = one.Address,
                        ProvedAt = one.ProvedAt,
                    }
                );
        return stays.Address;
    }

    /// <summary>Lets the account that stays take what the other is in a workspace, and tells it so.</summary>
    private Task<Outcome<bool>> MoveAsync(AccountWrite held, Guid place, AccountRow goes, AccountRow stays) =>
        held.InAsync<bool>(
            place,
            async write =>
            {
                foreach (
                    var member in await write.Rows.Members.Where(m => m.AccountId == goes.Id).ToListAsync()
                )
                {
                    ClaimDeeds.Readdress(write, member, goes.Address, EmailAddress.Read(stays.Address).Value);
                    member.AccountId = stays.Id;
                }
                foreach (
                    var token in await write.Rows.ApiTokens.Where(t => t.AccountId == goes.Id).ToListAsync()
                )
                    token.AccountId = stays.Id;
                news.Tell(write, goes, "account.joined-into", ("address", stays.Address));
                return true;
            }
        );

    private static CodeFor Of(FoundSplit found) =>
        new(CodePurpose.Address, found.From.Id, found.Row.ToId, EmailAddress.Read(found.From.Address).Value);
}
