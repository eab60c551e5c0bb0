using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Accounts that a workspace makes outright, in its custody.</summary>
public sealed class HeldAccounts(AccountWriter accounts, Outbox outbox, ServiceSettings settings)
{
    private static readonly TimeSpan SetUpLifetime = TimeSpan.FromDays(14);

    /// <summary>
    /// Makes an account at a proved domain, in custody, and its holder a member without access. No password is chosen for
    /// anybody: a link sets it up, once, by mail or on a sheet.
    /// </summary>
    /// <param name="workspace">Where.</param>
    /// <param name="caller">Who makes it.</param>
    /// <param name="request">Whom for.</param>
    /// <param name="along">What is written down along with it, given the new member; null for nothing.</param>
    public async Task<Outcome<HeldAccountView>> AddAsync(
        Guid workspace,
        Caller caller,
        HeldAccountRequest request,
        Func<WorkspaceWrite, MemberRow, Task<Refusal?>>? along = null
    )
    {
        if (!EmailAddress.Read(request.Address).Try(out var address, out var refusal))
            return refusal with { Field = "address" };
        if (!PlainText.ReadPersonName(request.Name).Try(out var name, out refusal) || name.Length == 0)
            return refusal
                ?? new Refusal(
                    "name.missing",
                    "No name was given.",
                    "Give the person's name.",
                    Field: "name"
                );
        var domain = address.DomainKey;
        return await accounts.WriteAsync<HeldAccountView>(
            [],
            [workspace],
            caller,
            held =>
                held.InAsync<HeldAccountView>(
                    workspace,
                    async write =>
                    {
                        var row = await write
                            .Rows.Domains.AsNoTracking()
                            .FirstOrDefaultAsync(d => d.Domain == domain);
                        if (row is null || !row.Proof.Gains(write.Now))
                            return new Refusal(
                                "domain.not-shown",
                                $"The domain {domain} is not proved by this workspace, or not shown at present.",
                                "Prove it: aboard domains add " + domain,
                                RefusalSort.Conflict,
                                "address"
                            );
                        if (
                            await write.Rows.AccountAddresses.AnyAsync(a =>
                                a.AddressKey == address.Key && a.ProvedAt != null
                            )
                        )
                            return new Refusal(
                                "account.exists",
                                $"There is an account at {address} already: it is held personally, or by you.",
                                $"Look at it: aboard claims show {address}",
                                RefusalSort.Conflict,
                                "address"
                            );
                        if (
                            await write.Rows.Members.AnyAsync(m =>
                                m.AddressKey == address.Key && m.EndedAt == null
                            )
                        )
                            return new Refusal(
                                "person.exists",
                                $"Somebody at {address} is here already.",
                                $"Look at them: aboard people show {address}",
                                RefusalSort.Conflict,
                                "address"
                            );
                        return await MakeAsync(held, write, address, name, request.OnPaper, along);
                    }
                )
        );
    }

    private async Task<Outcome<HeldAccountView>> MakeAsync(
        AccountWrite held,
        WorkspaceWrite write,
        EmailAddress address,
        string name,
        bool onPaper,
        Func<WorkspaceWrite, MemberRow, Task<Refusal?>>? along
    )
    {
        var account = new AccountRow
        {
            Id = Guid.CreateVersion7(write.Now),
            Name = name,
            Address = address.ToString(),
            Language = write.Workspace.Language,
            CreatedAt = write.Now,
            CustodyId = write.Workspace.Id,
            CustodySince = write.Now,
        };
        held.Begin(account, null);
        write.Rows.AccountAddresses.Add(
            new AccountAddressRow
            {
                AccountId = account.Id,
                AddressKey = address.Key,
                Address = address.ToString(),
            }
        );
        var member = new MemberRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            AccountId = account.Id,
            Address = address.ToString(),
            AddressKey = address.Key,
            Name = name,
            Kind = Kind.Staff,
            LastDay = null,
            JoinedAt = write.Now,
            InvitedByName = write.Caller.Name,
        }.WithSearchText();
        write.Rows.Members.Add(member);
        await write.Rows.SaveChangesAsync();
        if (await HeldSeats.GiveAsync(write, account.Id) is { } full)
            return full;
        if (along is not null && await along(write, member) is { } no)
            return no;
        var (secret, ends) = (ApiTokens.NewSecret(), write.Now + SetUpLifetime);
        // What is handed over on paper proves no mailbox.
        write.Rows.AccountLinks.Add(
            AccountLinks.LinkOf(
                account,
                secret,
                AccountLinkPurpose.Password,
                onPaper ? "" : address.Key,
                ends
            )
        );
        var link = settings.Link("/new-password/" + secret.Reveal());
        if (!onPaper)
            outbox.Queue(
                write,
                Purposes.Account,
                address.ToString(),
                Letters.AccountMade(account, write.Workspace, write.Caller.Name, link)
            );
        write.Record(
            "account.made-outright",
            member.Id,
            ("name", name),
            ("address", address.ToString()),
            ("set up by", onPaper ? "sheet" : "mail")
        );
        held.Note(account.Id, "account.held", ("workspace", write.Workspace.Name));
        return new HeldAccountView(
            address.ToString(),
            name,
            member.Id,
            ends,
            onPaper
                ? SetUpSheet.Write(
                    Phrases.Of(account.Language),
                    write.Workspace.Name,
                    name,
                    address.ToString(),
                    link,
                    Phrases.Of(account.Language).Instant(ends, write.Workspace.Zone)
                )
                : null
        );
    }
}
