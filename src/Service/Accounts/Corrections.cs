using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>
/// Correcting the name and address of accounts a workspace holds, and proposing them to people whose account is their own.
/// An address counts only once the holder of the account has shown that it is theirs.
/// </summary>
public sealed class Corrections(
    Database database,
    AccountWriter accounts,
    Outbox outbox,
    ServiceSettings settings
)
{
    private sealed record Wish(string Name, EmailAddress? Address, string Reason);

    /// <summary>Corrects a held account.</summary>
    public Task<Outcome<AccountCorrected>> CorrectAsync(Visitor visitor, AccountCorrection request) =>
        TakeAsync(visitor, request, isCorrection: true);

    /// <summary>Proposes something to the holder of an account of their own.</summary>
    public Task<Outcome<AccountCorrected>> ProposeAsync(Visitor visitor, AccountCorrection request) =>
        TakeAsync(visitor, request, isCorrection: false);

    private async Task<Outcome<AccountCorrected>> TakeAsync(
        Visitor visitor,
        AccountCorrection request,
        bool isCorrection
    )
    {
        if (!Read(request).Try(out var wish, out var refusal))
            return refusal;
        if (!(await FindAsync(database, visitor, request.Address)).Try(out var account, out refusal))
            return refusal;
        return await accounts.WriteAsync<AccountCorrected>(
            [account],
            [visitor.WorkspaceId],
            visitor.Caller,
            async held =>
            {
                var row = held[account];
                var isHeld = await Resets.ForbidsAsync(held, visitor, row) is not { } notHeld;
                if (isCorrection && !isHeld)
                    return Resets.NotHeld with
                    {
                        Remedy = $"Propose it: aboard accounts propose {request.Address}",
                    };
                if (!isCorrection && isHeld)
                    return new Refusal(
                        "account.held",
                        "The workspace holds this account.",
                        $"Correct it: aboard accounts correct {request.Address}",
                        RefusalSort.Conflict
                    );
                if (
                    ProposalRules.Forbids(
                        wish.Name,
                        wish.Address,
                        row.Name,
                        EmailAddress.Read(row.Address).Value
                    ) is
                    { } no
                )
                    return no;
                if (
                    isCorrection
                    && wish.Address is { } next
                    && await ForbidsAddressAsync(held, visitor, next) is { } other
                )
                    return other;
                var isNamed = isCorrection && wish.Name.Length > 0 && wish.Name != row.Name;
                if (isNamed)
                {
                    await held
                        .Rows.Accounts.Where(a => a.Id == account)
                        .ExecuteUpdateAsync(set =>
                            set.SetProperty(a => a.Name, wish.Name)
                                .SetProperty(a => a.Version, a => a.Version + 1)
                        );
                }
                held.Note(
                    account,
                    isCorrection ? "account.corrected" : "account.proposed",
                    ("workspace", visitor.Workspace.Name),
                    ("what", What(wish))
                );
                return await held.InAsync<AccountCorrected>(
                    visitor.WorkspaceId,
                    write => KeepAsync(write, visitor, row, wish, isCorrection, isNamed)
                );
            }
        );
    }

    private async Task<Outcome<AccountCorrected>> KeepAsync(
        WorkspaceWrite write,
        Visitor visitor,
        AccountRow account,
        Wish wish,
        bool isCorrection,
        bool isNamed
    )
    {
        var world = await write.WorldAsync();
        var members = await write
            .Rows.Members.Where(m => m.AccountId == account.Id && m.EndedAt == null)
            .ToListAsync();
        foreach (var member in members)
        {
            if (GivingRules.ForbidsActingOn(world, visitor.Member.Id, member.Id, write.Today) is { } beyond)
                return beyond;
            if (isNamed)
            {
                member.Name = wish.Name;
                member.WithSearchText();
                member.Version++;
            }
        }
        var (name, address) = (isCorrection ? "" : wish.Name, wish.Address?.ToString() ?? "");
        var waits = name.Length > 0 || address.Length > 0;
        var lapses = write.Now + ProposalRules.Lifetime;
        if (waits)
        {
            // What was proposed before and is not answered gives way.
            await write.Rows.Proposals.Where(p => p.AccountId == account.Id).ExecuteDeleteAsync();
            var proposal = new ProposalRow
            {
                WorkspaceId = visitor.WorkspaceId,
                Id = Guid.CreateVersion7(write.Now),
                AccountId = account.Id,
                Name = name,
                Address = address,
                Reason = wish.Reason,
                MadeByName = visitor.Member.Name,
                MadeAt = write.Now,
                LapsesAt = lapses,
            };
            write.Rows.Proposals.Add(proposal);
            outbox.Queue(
                write,
                Purposes.Notice,
                account.Address,
                Letters.Proposed(account, write.Workspace, proposal, settings.Link("/account"))
            );
        }
        write.Record(
            isCorrection ? "account.corrected" : "account.proposed",
            members.FirstOrDefault()?.Id ?? account.Id,
            ("address", account.Address),
            ("what", What(wish)),
            ("reason", wish.Reason.Length > 0 ? wish.Reason : null)
        );
        return new AccountCorrected(
            account.Address,
            isNamed ? wish.Name : account.Name,
            name,
            address,
            waits ? lapses : null
        );
    }

    private static string What(Wish wish) =>
        string.Join(
            ", ",
            new[] { wish.Name, wish.Address?.ToString() }.Where(one => !string.IsNullOrEmpty(one))
        );

    private static Outcome<Wish> Read(AccountCorrection request)
    {
        if (!PlainText.ReadPersonName(request.Name).Try(out var name, out var refusal))
            return refusal;
        if (!PlainText.ReadMessage(request.Reason).Try(out var reason, out refusal))
            return refusal with { Field = "reason" };
        EmailAddress? address = null;
        if (!string.IsNullOrWhiteSpace(request.NewAddress))
        {
            if (!EmailAddress.Read(request.NewAddress).Try(out address, out refusal))
                return refusal with { Field = "newAddress" };
        }
        return new Wish(name, address, reason);
    }

    /// <summary>The account of somebody here, or one in custody; of others nothing is told.</summary>
    internal static async Task<Outcome<Guid>> FindAsync(Database database, Visitor visitor, string? at)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if ((await People.HereAsync(rows, at ?? "")).Try(out var member, out var nobody))
            return member.AccountId;
        if (!EmailAddress.Read(at).Try(out var address, out _))
            return nobody;
        var found = await (
            from bears in rows.AccountAddresses
            join account in rows.Accounts on bears.AccountId equals account.Id
            where
                bears.AddressKey == address.Key
                && bears.Address == account.Address
                && account.CustodyId == visitor.WorkspaceId
            select (Guid?)account.Id
        ).FirstOrDefaultAsync();
        return found is { } id ? id : nobody;
    }

    /// <summary>The address of a held account stays at a domain of the workspace, and is nobody else's.</summary>
    private static async Task<Refusal?> ForbidsAddressAsync(
        AccountWrite held,
        Visitor visitor,
        EmailAddress address
    )
    {
        var (key, domain) = (address.Key, address.DomainKey);
        var at = await held
            .Rows.Domains.IgnoreQueryFilters()
            .AsNoTracking()
            .FirstOrDefaultAsync(d => d.WorkspaceId == visitor.WorkspaceId && d.Domain == domain);
        if (at is null || !at.Proof.Gains(held.Now))
            return new Refusal(
                "domain.not-shown",
                $"The domain {domain} is not proved by this workspace, or not shown at present.",
                "A held account stays at a domain of the workspace; release it first, to have it go elsewhere.",
                RefusalSort.Conflict,
                "newAddress"
            );
        return await held.Rows.AccountAddresses.AnyAsync(a => a.AddressKey == key && a.ProvedAt != null)
            ? new Refusal(
                "address.taken",
                $"{address} is the address of an account already.",
                "Give another address.",
                RefusalSort.Conflict,
                "newAddress"
            )
            : null;
    }
}
