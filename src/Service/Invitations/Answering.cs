using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
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
    WriteGate gate,
    WorkspaceWriter writer,
    Outbox outbox,
    AddressCodes codes,
    Joining joining,
    Ending ending,
    ServiceSettings settings,
    AccessWorlds worlds,
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
            where invitation.SecretHash == hash.Value || invitation.ExtraSecretHash == hash.Value
            select new FoundInvitation(invitation, workspace)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        return found is not null && IsOpenedBy(found.Invitation, hash)
            ? found with
            {
                Hash = hash,
            }
            : LinkRules.Unknown;
    }

    private static bool IsOpenedBy(InvitationRow invitation, SecretHash hash) =>
        invitation.SecretHash is { } first && new SecretHash(first).Matches(hash)
        || invitation.ExtraSecretHash is { } extra && new SecretHash(extra).Matches(hash);

    /// <summary>What a link offers, if it still counts.</summary>
    public async Task<Outcome<LandingView>> ReadAsync(string? secret)
    {
        if (!(await FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        var invitation = found.Invitation;
        if (LinkRules.Forbids(invitation.State, invitation.Deadline, clock.Now()) is { } closed)
            return closed;
        var world = await worlds.OfAsync(found.Workspace);
        await using var rows = database.Open();
        return new LandingView(
            found.Workspace.Name,
            invitation.InvitedByName,
            invitation.Address,
            invitation.Name,
            invitation.Kind.Word(),
            Bundles.Summary(invitation.Bundle, world),
            Bundles.Sentence(
                Phrases.Of(invitation.Language),
                world,
                invitation.Bundle,
                [],
                invitation.OrganisationId,
                invitation.Kind
            ),
            invitation.LastDay,
            invitation.Message,
            invitation.Deadline,
            await rows.AccountAddresses.AnyAsync(a =>
                a.AddressKey == invitation.AddressKey && a.ProvedAt != null
            )
        )
        {
            From = invitation.FirstDay,
            Host = invitation.HostName,
            Language = invitation.Language,
            NeedsApproval = invitation.NeedsApproval,
        };
    }

    /// <summary>Notes when the page of an invitation was first opened: a time, nothing more.</summary>
    public async Task NoteSeenAsync(InvitationRow invitation)
    {
        if (invitation.SeenAt is not null)
            return;
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open(invitation.WorkspaceId);
        await rows
            .Invitations.Where(i => i.Id == invitation.Id && i.SeenAt == null)
            .ExecuteUpdateAsync(set => set.SetProperty(i => i.SeenAt, clock.Now()));
    }

    /// <summary>Accepts with a new account at the invited address.</summary>
    public async Task<Outcome<Joined>> AcceptAsNewAsync(
        string? secret,
        string? name,
        string? password,
        string via
    )
    {
        if (!(await FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        if (!PlainText.ReadName(name).Try(out var goodName, out refusal))
            return refusal;
        if (goodName.Length == 0)
            return new Refusal(
                "name.missing",
                "A new account needs a name.",
                "Give the name others should see.",
                Field: "name"
            );
        if (PasswordRules.Forbids(password, goodName, found.Invitation.Address) is { } weak)
            return weak;
        var account = new AccountRow
        {
            Id = Guid.CreateVersion7(),
            Name = goodName,
            Address = found.Invitation.Address,
            Language = found.Invitation.Language,
            CreatedAt = clock.Now(),
            SecurityStamp = Guid.NewGuid().ToString("N"),
        };
        account.PasswordHash = hasher.HashPassword(account, password!);
        return await AcceptAsync(
            found,
            Caller.Invitee(goodName, via),
            async write =>
            {
                var isTaken = await write.Rows.AccountAddresses.AnyAsync(a =>
                    a.AddressKey == found.Invitation.AddressKey && a.ProvedAt != null
                );
                if (
                    AcceptanceRules.Forbids(AddressOf(found), new Arrival.WithNewAccount(isTaken)) is
                    { } forbidden
                )
                    return forbidden;
                write.Rows.Accounts.Add(account);
                return account;
            }
        );
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
        var codeShown = false;
        if (!string.IsNullOrWhiteSpace(code))
        {
            if (!(await codes.CheckAsync(found, account, code)).Try(out codeShown, out refusal))
                return refusal;
            if (!codeShown)
                return new Refusal(
                    "code.wrong",
                    "The code is wrong, has expired, or was tried too often.",
                    "Check it, or have a new one sent.",
                    Field: "code"
                );
        }
        return await AcceptAsync(
            found,
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var key = found.Invitation.AddressKey;
                var holders = await write
                    .Rows.AccountAddresses.AsNoTracking()
                    .Where(a => a.AddressKey == key)
                    .ToListAsync();
                var membership = await write.Rows.Members.FirstOrDefaultAsync(m =>
                    m.AccountId == account.Id && m.EndedAt == null
                );
                if (membership is not null && !membership.IsHere(write.Now, write.Workspace.Zone))
                {
                    await ending.FinishAsync(write, membership);
                    await write.Rows.SaveChangesAsync();
                    membership = null;
                }
                var arrival = new Arrival.WithHeldAccount(
                    holders.Any(h => h.AccountId == account.Id),
                    holders.Any(h => h.AccountId != account.Id && h.ProvedAt is not null),
                    codeShown,
                    membership is not null
                );
                if (AcceptanceRules.Forbids(AddressOf(found), arrival) is { } forbidden)
                    return forbidden;
                return account;
            }
        );
    }

    /// <summary>Mails a code to the invited address, for the holder of an account with another.</summary>
    public async Task<Outcome<bool>> SendCodeAsync(string? secret, AccountRow account, string via) =>
        (await FindAsync(secret)).Try(out var found, out var refusal)
            ? await codes.SendAsync(found, account, via)
            : refusal;

    private async Task<Outcome<Joined>> AcceptAsync(
        FoundInvitation found,
        Caller caller,
        Func<WorkspaceWrite, Task<Outcome<AccountRow>>> admit
    ) =>
        await writer.WriteAsync<Joined>(
            found.Workspace.Id,
            caller,
            async write =>
            {
                var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == found.Invitation.Id);
                if (!IsOpenedBy(invitation, found.Hash))
                    return LinkRules.Unknown;
                if (LinkRules.Forbids(invitation.State, invitation.Deadline, write.Now) is { } closed)
                    return closed;
                if (invitation.Stay.IsOver(write.Now, write.Workspace.Zone))
                    return new Refusal(
                        "stay.past",
                        "The time this invitation was for is over.",
                        "Ask whoever invited you for a new one.",
                        RefusalSort.Conflict
                    );
                var world = await write.WorldAsync();
                if (
                    invitation.OrganisationId is { } own
                    && world.Organisations.TryGetValue(own, out var organisation)
                    && organisation.IsOver(write.Today)
                )
                    return Visitors.AgreementOver;
                // Whoever invited may hold less by now than they gave then; somebody who does has to approve it.
                if (!StillGiven(world, invitation, write.Today))
                    invitation.NeedsApproval = true;
                var step = invitation.NeedsApproval ? InvitationStep.Wait : InvitationStep.Accept;
                if (
                    !InvitationLife
                        .Take(invitation.State, step, invitation.Deadline, write.Now)
                        .Try(out var next, out var no)
                )
                    return no;
                // Under the workspace's lock, so that no two accepts can both be the last.
                if (await JoinLinks.UseAsync(write, invitation) is { } full)
                    return full;
                if (!(await admit(write)).Try(out var account, out no))
                    return no;
                await ProveAddressAsync(write, account, invitation);
                InvitationSteps.Put(write, invitation, next);
                invitation.AnsweredAt = write.Now;
                invitation.AccountId = account.Id;
                if (invitation.Name.Length == 0)
                    invitation.Name = account.Name;
                await Outbox.WithdrawAsync(write, invitation);
                write.Record(
                    invitation.NeedsApproval ? "invitation.waiting" : "invitation.accepted",
                    invitation.Id,
                    ("address", invitation.Address),
                    ("name", account.Name)
                );
                if (invitation.NeedsApproval)
                {
                    await TellWaitingAsync(write, account, invitation);
                    return new Joined(account, null, invitation, write.Workspace, Can(world, invitation));
                }
                var member = await joining.JoinAsync(write, account, invitation);
                return new Joined(account, member, invitation, write.Workspace, Can(world, invitation));
            }
        );

    private static string Can(AccessWorld world, InvitationRow invitation) =>
        Bundles.Sentence(
            Phrases.Of("en"),
            world,
            invitation.Bundle,
            [],
            invitation.OrganisationId,
            invitation.Kind
        );

    private static bool StillGiven(AccessWorld world, InvitationRow invitation, DateOnly today)
    {
        var (inviter, bundle) = (invitation.InvitedBy, invitation.Bundle);
        if (!world.DutiesOf(inviter, today).HasFlag(Duties.Invite))
            return bundle.IsEmpty
                && invitation.OrganisationId is { } own
                && Readiness.LeadsOf(world, inviter, today)?.Id == own;
        var through =
            invitation.OrganisationId is { } of && world.Organisations.TryGetValue(of, out var their)
                ? their.Grants
                : [];
        return GivingRules.Forbids(world, inviter, bundle, today) is null
            && GivingRules.Forbids(world, inviter, through, today) is null;
    }

    private async Task TellWaitingAsync(WorkspaceWrite write, AccountRow account, InvitationRow invitation)
    {
        outbox.Queue(
            write,
            Purposes.Notice,
            invitation.Address,
            Letters.Waiting(account.Name, invitation, write.Workspace),
            invitation.Id
        );
        var link = settings.Link($"/w/{write.Workspace.ShortName}/invite/{invitation.Id}");
        await outbox.TellAsync(
            write,
            invitation.InvitedBy,
            reader => Letters.AwaitsApproval(reader.Name, account.Name, invitation, write.Workspace, link)
        );
    }

    /// <summary>The invited address now belongs to this account, and nobody else's unproved claim to it survives.</summary>
    private static async Task ProveAddressAsync(
        WorkspaceWrite write,
        AccountRow account,
        InvitationRow invitation
    )
    {
        var rows = write.Rows;
        var known = await rows
            .AccountAddresses.Where(a => a.AddressKey == invitation.AddressKey)
            .ToListAsync();
        rows.AccountAddresses.RemoveRange(known.Where(a => a.AccountId != account.Id));
        if (known.FirstOrDefault(a => a.AccountId == account.Id) is { } own)
            own.ProvedAt ??= write.Now;
        else
            rows.AccountAddresses.Add(
                new AccountAddressRow
                {
                    AccountId = account.Id,
                    AddressKey = invitation.AddressKey,
                    Address = invitation.Address,
                    ProvedAt = write.Now,
                }
            );
    }

    private static EmailAddress AddressOf(FoundInvitation found) =>
        EmailAddress.Read(found.Invitation.Address).Value;
}

/// <summary>An invitation with its workspace, found by the hash of its link.</summary>
public sealed record FoundInvitation(InvitationRow Invitation, WorkspaceRow Workspace)
{
    public SecretHash Hash { get; init; }
}

/// <summary>Who came in, and where; no member yet while approval is due.</summary>
public sealed record Joined(
    AccountRow Account,
    MemberRow? Member,
    InvitationRow? Invitation,
    WorkspaceRow Workspace,
    string Can
)
{
    public AcceptAnswer ToAnswer() =>
        Member is { } member
            ? new(
                Workspace.Name,
                Workspace.ShortName,
                member.Id,
                member.Name,
                member.Address,
                member.Kind.Word(),
                Can,
                member.LastDay
            )
            : new(
                Workspace.Name,
                Workspace.ShortName,
                null,
                Account.Name,
                Invitation!.Address,
                Invitation.Kind.Word(),
                Can,
                Invitation.LastDay
            );
}
