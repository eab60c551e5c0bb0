using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>The invitee's side: reading the link, and accepting.</summary>
public sealed class Answering(
    Database database,
    AccountWriter accounts,
    AddressCodes codes,
    Consequences consequences,
    Ending ending,
    TimeProvider clock,
    IPasswordHasher<AccountRow> hasher
)
{
    /// <summary>The invitation behind a link, whatever its state.</summary>
    public async Task<Outcome<FoundInvitation>> FindAsync(string? secretText)
    {
        if (Secret.Read(secretText) is not { } secret)
            return LinkRules.Malformed;
        var hash = secret.Hash();
        await using var rows = database.Open();
        var found = await (
            from invitation in rows.Invitations.IgnoreQueryFilters()
            join workspace in rows.Workspaces on invitation.WorkspaceId equals workspace.Id
            where
                invitation.SecretHash == hash.Value
                || invitation.ExtraSecretHash == hash.Value
                || invitation.HandedSecretHash == hash.Value
            select new FoundInvitation(invitation, workspace)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        return found is not null && WayOf(found.Invitation, hash) is { } way
            ? found with
            {
                Hash = hash,
                IsHandedOver = way == LinkWay.HandedOver,
            }
            : LinkRules.Unknown;
    }

    private enum LinkWay
    {
        Mailed,
        HandedOver,
    }

    private static LinkWay? WayOf(InvitationRow invitation, SecretHash hash)
    {
        return Is(invitation.SecretHash) || Is(invitation.ExtraSecretHash) ? LinkWay.Mailed
            : Is(invitation.HandedSecretHash) ? LinkWay.HandedOver
            : null;

        bool Is(string? kept) => kept is not null && new SecretHash(kept).Matches(hash);
    }

    /// <summary>Accepts with a new account: at the invited address, or – by a link that was handed over – at one proved by a code.</summary>
    public async Task<Outcome<Joined>> AcceptAsNewAsync(string? secret, Newcomer wish, string via)
    {
        if (!(await FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        if (!PlainText.ReadPersonName(wish.Name).Try(out var name, out refusal))
            return refusal;
        if (name.Length == 0)
            return new Refusal(
                "name.missing",
                "A new account needs a name.",
                "Give the name others should see.",
                Field: "name"
            );
        var at = AddressOf(found);
        if (
            found.IsHandedOver
            && !string.IsNullOrWhiteSpace(wish.Address)
            && !EmailAddress.Read(wish.Address).Try(out at, out refusal)
        )
            return refusal;
        if (PasswordRules.Forbids(wish.Password, name, at.ToString()) is { } weak)
            return weak;
        if (!(await ShownAsync(found, at, null, wish.Code)).Try(out var codeShown, out refusal))
            return refusal;
        var account = new AccountRow
        {
            Id = Guid.CreateVersion7(),
            Name = name,
            Address = at.ToString(),
            Language = found.Invitation.Language,
            CreatedAt = clock.Now(),
            SecurityStamp = Guid.NewGuid().ToString("N"),
        };
        var passwordHash = hasher.HashPassword(account, wish.Password!);
        var joined = await AcceptAsync(
            found,
            null,
            Caller.Invitee(name, via),
            async (begun, write) =>
            {
                var isTaken = await write.Rows.AccountAddresses.AnyAsync(a =>
                    a.AddressKey == at.Key && a.ProvedAt != null
                );
                var arrival = new Arrival.WithNewAccount(at, codeShown, isTaken);
                if (
                    !AcceptanceRules
                        .Admit(AddressOf(found), found.IsHandedOver, arrival)
                        .Try(out var admission, out var no)
                )
                    return no;
                begun.Begin(account, passwordHash);
                return (account, admission);
            }
        );
        return joined.Then(came => came with { Proof = new Proof(ProofWay.Password, clock.Now()) });
    }

    /// <summary>Accepts with an account whose holder has signed in.</summary>
    public async Task<Outcome<Joined>> AcceptAsHeldAsync(
        string? secret,
        AccountRow account,
        string? code,
        string via
    )
    {
        if (!(await FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        if (!(await ShownAsync(found, AddressOf(found), account, code)).Try(out var codeShown, out refusal))
            return refusal;
        return await AcceptAsync(
            found,
            account.Id,
            Caller.Invitee(account.Name, via),
            async (_, write) =>
            {
                var key = found.Invitation.AddressKey;
                var bearers = await write
                    .Rows.AccountAddresses.AsNoTracking()
                    .Where(a => a.AddressKey == key || a.AccountId == account.Id)
                    .ToListAsync();
                var own = bearers.Where(b => b.AccountId == account.Id).ToList();
                var arrival = new Arrival.WithHeldAccount(
                    own.Any(b => b.AddressKey == key),
                    own.Any(b => b.AddressKey == key && b.ProvedAt is not null),
                    bearers.Any(b => b.AccountId != account.Id && b.ProvedAt is not null),
                    codeShown,
                    await IsMemberAsync(write, account),
                    own.Where(b => b.ProvedAt is not null)
                        .OrderByDescending(b => b.Address == account.Address)
                        .Select(b => EmailAddress.Read(b.Address).Value)
                        .FirstOrDefault()
                );
                return AcceptanceRules
                    .Admit(AddressOf(found), found.IsHandedOver, arrival)
                    .Try(out var admission, out var no)
                    ? (account, admission)
                    : no;
            }
        );
    }

    /// <summary>Mails a code to the invited address, for the holder of an account with another.</summary>
    public async Task<Outcome<bool>> SendCodeAsync(string? secret, AccountRow account, string via) =>
        (await FindAsync(secret)).Try(out var found, out var refusal)
            ? await codes.SendAsync(found, AddressOf(found), account, via)
            : refusal;

    /// <summary>Mails a code to the address of a new account, for somebody who came by a link that was handed over.</summary>
    public async Task<Outcome<bool>> SendCodeAsync(string? secret, string? address, string via)
    {
        if (!(await FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        if (!found.IsHandedOver)
            return new Refusal(
                "code.not-needed",
                "This link came by mail, and shows by itself that the mailbox is yours.",
                "Accept without a code.",
                RefusalSort.Conflict
            );
        var at = AddressOf(found);
        if (!string.IsNullOrWhiteSpace(address) && !EmailAddress.Read(address).Try(out at, out refusal))
            return refusal;
        return await codes.SendAsync(found, at, null, via);
    }

    /// <summary>Whether a code was shown that proves an address; refuses with <c>code.wrong</c>.</summary>
    private async Task<Outcome<bool>> ShownAsync(
        FoundInvitation found,
        EmailAddress at,
        AccountRow? account,
        string? code
    )
    {
        if (string.IsNullOrWhiteSpace(code))
            return false;
        return await codes.IsShownAsync(found, at, account, code) ? true : WrongCode;
    }

    /// <summary>For a code that proves nothing: <c>code.wrong</c>.</summary>
    public static Refusal WrongCode { get; } =
        new(
            "code.wrong",
            "The code is wrong, has expired, or was tried too often.",
            "Check it, or have a new one sent.",
            Field: "code"
        );

    private async Task<Outcome<Joined>> AcceptAsync(
        FoundInvitation found,
        Guid? held,
        Caller caller,
        Func<AccountWrite, WorkspaceWrite, Task<Outcome<(AccountRow Account, Admission As)>>> admit
    ) =>
        await accounts.WriteAsync<Joined>(
            held is { } id ? [id] : [],
            [found.Workspace.Id],
            caller,
            holder => holder.InAsync(found.Workspace.Id, write => AcceptAsync(holder, write, found, admit))
        );

    private async Task<Outcome<Joined>> AcceptAsync(
        AccountWrite holder,
        WorkspaceWrite write,
        FoundInvitation found,
        Func<AccountWrite, WorkspaceWrite, Task<Outcome<(AccountRow Account, Admission As)>>> admit
    )
    {
        var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == found.Invitation.Id);
        if (WayOf(invitation, found.Hash) is null)
            return LinkRules.Unknown;
        var world = await write.WorldAsync();
        // Under the workspace's lock, so that no two accepts can both take the last place of a link.
        var facts = await StepKnowledge.WithLinkAsync(
            write.Rows,
            StepKnowledge.Bare(write, invitation, world),
            invitation
        );
        // What stands in the way whoever comes is said before anybody's account is looked at.
        if (!InvitationCourse.Accept(facts).Try(out _, out var no))
            return no;
        if (!(await admit(holder, write)).Try(out var admitted, out no))
            return no;
        var (account, admission) = admitted;
        facts = facts with { CameAs = admission.CameAs };
        if (!InvitationCourse.Accept(facts).Try(out var what, out no))
            return no;
        if (admission.Proves is { } proved)
        {
            await AddressProofs.ProveAsync(write.Rows, account, proved, write.Now);
            holder.Note(account.Id, "account.address-proved", ("address", proved.ToString()));
        }
        holder.Note(account.Id, "account.accepted", ("workspace", write.Workspace.Name));
        invitation.AccountId = account.Id;
        invitation.CameAs = admission.CameAs?.ToString() ?? "";
        if (invitation.Name.Length == 0)
            invitation.Name = account.Name;
        var applied = await consequences.ApplyAsync(write, invitation, what, null, account);
        return new Joined(
            account,
            applied.Member,
            invitation,
            write.Workspace,
            Bundles.Sentence(
                Phrases.Of("en"),
                world,
                invitation.Bundle,
                [],
                invitation.OrganisationId,
                invitation.Kind
            )
        );
    }

    /// <summary>Whether an account is a member of the workspace; a stay that is over and not yet written down is finished first.</summary>
    private async Task<bool> IsMemberAsync(WorkspaceWrite write, AccountRow account)
    {
        var membership = await write.Rows.Members.FirstOrDefaultAsync(m =>
            m.AccountId == account.Id && m.EndedAt == null
        );
        if (membership is null || membership.IsHere(write.Now, write.Workspace.Zone))
            return membership is not null;
        await ending.FinishAsync(write, membership);
        await write.SaveAsync();
        return false;
    }

    private static EmailAddress AddressOf(FoundInvitation found) =>
        EmailAddress.Read(found.Invitation.Address).Value;
}
