using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using ComeAboard.Storage.Workspaces;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>Making a workspace and its first administrator.</summary>
public sealed class SettingUp(
    Database database,
    WriteGate gate,
    AccountWriter accounts,
    TimeProvider clock,
    AccountLinks links,
    IPasswordHasher<AccountRow> hasher
)
{
    private static readonly TimeSpan LinkLifetime = TimeSpan.FromDays(2);

    /// <summary>Makes an empty workspace; the secret is that of the one-time set-up link.</summary>
    public async Task<Outcome<(WorkspaceRow Workspace, Secret Secret)>> MakeAsync(WorkspaceSettings wish)
    {
        using var pass = await gate.EnterAsync();
        await using var rows = database.Open();
        var now = clock.Now();
        if (await rows.Workspaces.AnyAsync(w => w.ShortName == wish.ShortName))
            return new Refusal(
                "workspace.exists",
                $"There is a workspace with the short name {wish.ShortName} already.",
                "Choose another with --short-name.",
                RefusalSort.Conflict
            );
        var workspace = new WorkspaceRow
        {
            Id = Guid.CreateVersion7(now),
            ShortName = wish.ShortName,
            Name = wish.Name,
            TimeZone = wish.Zone.Id,
            Language = wish.Language,
            SenderName = wish.Name,
            AnswerSeconds = (long)WorkspaceSettings.DefaultAnswerTime.TotalSeconds,
            CreatedAt = now,
        };
        var secret = ApiTokens.NewSecret();
        rows.Workspaces.Add(workspace);
        rows.SetUpLinks.Add(
            new SetUpLinkRow
            {
                WorkspaceId = workspace.Id,
                SecretHash = secret.Hash().Value,
                ExpiresAt = now + LinkLifetime,
            }
        );
        await rows.SaveChangesAsync();
        return (workspace, secret);
    }

    /// <summary>The workspace a set-up link belongs to, while it counts.</summary>
    public async Task<Outcome<WorkspaceRow>> FindAsync(string? secretText)
    {
        if (Secret.Read(secretText) is not { } secret)
            return LinkRules.Malformed;
        var hash = secret.Hash().Value;
        await using var rows = database.Open();
        var link = await rows.SetUpLinks.AsNoTracking().FirstOrDefaultAsync(l => l.SecretHash == hash);
        if (link is null)
            return LinkRules.Unknown;
        if (link.UsedAt is not null || clock.Now() >= link.ExpiresAt)
            return Used;
        return await rows.Workspaces.AsNoTracking().FirstAsync(w => w.Id == link.WorkspaceId);
    }

    /// <summary>Makes the first administrator; the link counts once.</summary>
    public async Task<Outcome<Joined>> TakeAsync(
        string? secretText,
        string? name,
        string? address,
        string? password,
        string via
    )
    {
        if (!(await FindAsync(secretText)).Try(out var workspace, out var refusal))
            return refusal;
        if (!EmailAddress.Read(address).Try(out var goodAddress, out refusal))
            return refusal;
        if (!PlainText.ReadPersonName(name).Try(out var goodName, out refusal))
            return refusal;
        if (goodName.Length == 0)
            return new Refusal(
                "name.missing",
                "An account needs a name.",
                "Give the name others should see.",
                Field: "name"
            );
        if (PasswordRules.Forbids(password, goodName, goodAddress.ToString()) is { } weak)
            return weak;
        var hash = Secret.Read(secretText)!.Hash().Value;
        var account = new AccountRow
        {
            Id = Guid.CreateVersion7(),
            Name = goodName,
            Address = goodAddress.ToString(),
            Language = workspace.Language,
            CreatedAt = clock.Now(),
            SecurityStamp = Guid.NewGuid().ToString("N"),
        };
        var passwordHash = hasher.HashPassword(account, password!);
        return await accounts.WriteAsync<Joined>(
            [],
            [workspace.Id],
            Caller.Operator with
            {
                Via = via,
            },
            begun =>
                begun.InAsync(
                    workspace.Id,
                    async write =>
                    {
                        var joined = await JoinAsync(begun, write, hash, account, passwordHash, goodAddress);
                        // Mail may not work yet; it waits until it does.
                        if (joined.Succeeded)
                            links.Mail(write, account, goodAddress, AccountLinkPurpose.Address);
                        return joined;
                    }
                )
        );
    }

    private static Refusal Used { get; } =
        new(
            "link.used",
            "This set-up link was used already, or its two days are over.",
            "Sign in, or have the operator make the workspace anew under another short name.",
            RefusalSort.Conflict
        );

    private static async Task<Outcome<Joined>> JoinAsync(
        AccountWrite begun,
        WorkspaceWrite write,
        string hash,
        AccountRow account,
        string passwordHash,
        EmailAddress address
    )
    {
        var link = await write.Rows.SetUpLinks.FirstAsync(l => l.SecretHash == hash);
        if (link.UsedAt is not null)
            return Used;
        if (await write.Rows.AccountAddresses.AnyAsync(a => a.AddressKey == address.Key))
            return new Refusal(
                "account.exists",
                $"There is already an account at {address}.",
                "Use another address for this workspace's first administrator, and invite the account from there.",
                RefusalSort.Conflict,
                "address"
            );
        link.UsedAt = write.Now;
        var member = new MemberRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            AccountId = account.Id,
            Address = address.ToString(),
            AddressKey = address.Key,
            Name = account.Name,
            Kind = Kind.Staff,
            LastDay = null,
            JoinedAt = write.Now,
        }.WithSearchText();
        begun.Begin(account, passwordHash);
        // Nobody has shown that the mailbox is theirs, so the address is not proved by this.
        write.Rows.AccountAddresses.Add(
            new AccountAddressRow
            {
                AccountId = account.Id,
                AddressKey = address.Key,
                Address = address.ToString(),
            }
        );
        write.Rows.Members.Add(member);
        write.Rows.Grants.Add(
            new GrantRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = member.Id,
                HolderKind = HolderKind.Member,
                HolderId = member.Id,
                RoleId = Role.Manage.Id,
                GivenAt = write.Now,
                GivenByName = write.Caller.Name,
            }
        );
        write.Record(
            "workspace.made",
            write.Workspace.Id,
            ("name", write.Workspace.Name),
            ("short name", write.Workspace.ShortName)
        );
        write.Record(
            "member.joined",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("kind", member.Kind.Word()),
            ("gives", Role.Manage.Name)
        );
        return new Joined(account, member, null, write.Workspace, Role.Manage.SentenceFor(member.Kind))
        {
            Proof = new Proof(ProofWay.Password, write.Now),
        };
    }
}
