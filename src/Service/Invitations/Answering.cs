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
using ComeAboard.Storage.Workspaces;
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
        var account = NewAccount(name, at, found.Invitation.Language);
        var passwordHash = hasher.HashPassword(account, wish.Password!);
        var joined = await AcceptAsync(
            found.Workspace,
            null,
            Caller.Invitee(name, via),
            Behind(found),
            (begun, write) =>
                AdmitNewAsync(
                    begun,
                    write,
                    AddressOf(found),
                    found.IsHandedOver,
                    codeShown,
                    account,
                    () => begun.Begin(account, passwordHash)
                )
        );
        return joined.Then(came => came with { Proof = new Proof(ProofWay.Password, clock.Now()) });
    }

    /// <summary>Accepts, with a new account, the invitation of somebody for whose address a provider vouches.</summary>
    public Task<Outcome<Joined>> AcceptVouchedAsync(FoundInvitation found, Vouched newcomer, string via) =>
        ComeVouchedAsync(found.Workspace, newcomer, found.Invitation.Language, via, Behind(found));

    /// <summary>Joins by a link, with a new account, as somebody for whose address a provider vouches: nothing is mailed and waited for.</summary>
    public Task<Outcome<Joined>> JoinVouchedAsync(
        FoundLink found,
        Vouched newcomer,
        HeldLinks links,
        string via
    ) =>
        ComeVouchedAsync(
            found.Workspace,
            newcomer,
            found.Link.Language,
            via,
            async write =>
            {
                if (
                    !(await links.BeginAsync(write, found.Link, newcomer.At, newcomer.Name)).Try(
                        out var begun,
                        out var no
                    )
                )
                    return no;
                if (begun.Invitation is not { } invitation)
                    return new Refusal(
                        "outside.not-invited",
                        $"{newcomer.At} cannot join here.",
                        "Ask whoever looks after the workspace.",
                        RefusalSort.Conflict
                    );
                await write.SaveAsync();
                return await write.Rows.Invitations.FirstAsync(i => i.Id == invitation.Id);
            }
        );

    private Task<Outcome<Joined>> ComeVouchedAsync(
        WorkspaceRow workspace,
        Vouched newcomer,
        string language,
        string via,
        Func<WorkspaceWrite, Task<Outcome<InvitationRow>>> invited
    )
    {
        var account = NewAccount(newcomer.Name, newcomer.At, language);
        var way = newcomer.WayIn(account.Id);
        return AcceptAsync(
            workspace,
            null,
            Caller.Invitee(newcomer.Name, via),
            invited,
            (begun, write) =>
                AdmitNewAsync(
                    begun,
                    write,
                    newcomer.At,
                    false,
                    true,
                    account,
                    () =>
                    {
                        begun.Begin(account, null);
                        begun.Rows.Credentials.Add(way);
                        begun.Note(account.Id, "account.outside-added", ("provider", newcomer.Provider));
                    }
                )
        );
    }

    private AccountRow NewAccount(string name, EmailAddress at, string language) =>
        new()
        {
            Id = Guid.CreateVersion7(),
            Name = name,
            Address = at.ToString(),
            Language = language,
            CreatedAt = clock.Now(),
            SecurityStamp = Guid.NewGuid().ToString("N"),
        };

    private static async Task<Outcome<(AccountRow Account, Admission As)>> AdmitNewAsync(
        AccountWrite begun,
        WorkspaceWrite write,
        EmailAddress invited,
        bool isHandedOver,
        bool codeShown,
        AccountRow account,
        Action begin
    )
    {
        var at = EmailAddress.Read(account.Address).Value;
        var isTaken = await write.Rows.AccountAddresses.AnyAsync(a =>
            a.AddressKey == at.Key && a.ProvedAt != null
        );
        var arrival = new Arrival.WithNewAccount(at, codeShown, isTaken);
        if (!AcceptanceRules.Admit(invited, isHandedOver, arrival).Try(out var admission, out var no))
            return no;
        begin();
        return (account, admission);
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
            found.Workspace,
            account.Id,
            Caller.Invitee(account.Name, via),
            Behind(found),
            async (holder, write) =>
            {
                if (holder[account.Id].Standing.ForbidsSignIn() is { } shut)
                    return shut;
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

    /// <summary>Finds, while the workspace is locked, the invitation behind a link.</summary>
    private static Func<WorkspaceWrite, Task<Outcome<InvitationRow>>> Behind(FoundInvitation found) =>
        async write =>
        {
            var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == found.Invitation.Id);
            return WayOf(invitation, found.Hash) is null ? LinkRules.Unknown : invitation;
        };

    private async Task<Outcome<Joined>> AcceptAsync(
        WorkspaceRow workspace,
        Guid? held,
        Caller caller,
        Func<WorkspaceWrite, Task<Outcome<InvitationRow>>> invited,
        Func<AccountWrite, WorkspaceWrite, Task<Outcome<(AccountRow Account, Admission As)>>> admit
    ) =>
        await accounts.WriteAsync<Joined>(
            held is { } id ? [id] : [],
            [workspace.Id],
            caller,
            holder => holder.InAsync(workspace.Id, write => AcceptAsync(holder, write, invited, admit))
        );

    private async Task<Outcome<Joined>> AcceptAsync(
        AccountWrite holder,
        WorkspaceWrite write,
        Func<WorkspaceWrite, Task<Outcome<InvitationRow>>> invited,
        Func<AccountWrite, WorkspaceWrite, Task<Outcome<(AccountRow Account, Admission As)>>> admit
    )
    {
        if (!(await invited(write)).Try(out var invitation, out var no))
            return no;
        var world = await write.WorldAsync();
        // Under the workspace's lock, so that no two accepts can both take the last place of a link.
        var facts = await StepKnowledge.WithLinkAsync(
            write.Rows,
            StepKnowledge.Bare(write, invitation, world),
            invitation
        );
        // What stands in the way whoever comes is said before anybody's account is looked at.
        if (!InvitationCourse.Accept(facts).Try(out _, out no))
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
