using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Links that are mailed to the holder of an account: each counts once, for a while, for one thing.</summary>
public sealed class AccountLinks(
    Database database,
    AccountWriter accounts,
    Outbox outbox,
    ServiceSettings settings,
    TimeProvider clock
)
{
    private static readonly TimeSpan ResetLifetime = TimeSpan.FromHours(1);
    private static readonly TimeSpan ProofLifetime = TimeSpan.FromDays(7);

    /// <summary>For a link that is none, was used, or is over.</summary>
    public static Refusal Gone { get; } =
        new(
            "link.used",
            "This link was used already, or its time is over.",
            "Ask for another one.",
            RefusalSort.Conflict
        );

    /// <summary>The account a link belongs to, while the link counts; refuses with <c>link.used</c>.</summary>
    public async Task<Outcome<AccountRow>> FindAsync(string? secretText, AccountLinkPurpose purpose)
    {
        if (Secret.Read(secretText) is not { } secret)
            return LinkRules.Malformed;
        var (hash, now) = (secret.Hash().Value, clock.Now());
        await using var rows = database.Open();
        return
            await (
                from link in rows.AccountLinks
                join account in rows.Accounts on link.AccountId equals account.Id
                where
                    link.SecretHash == hash
                    && link.Purpose == purpose
                    && link.UsedAt == null
                    && link.ExpiresAt > now
                select account
            )
                .AsNoTracking()
                .FirstOrDefaultAsync()
                is { } found
            ? found
            : Gone;
    }

    /// <summary>Queues a mail with a link for an account's holder within a change.</summary>
    public void Mail(WorkspaceWrite write, AccountRow account, EmailAddress to, AccountLinkPurpose purpose)
    {
        var secret = ApiTokens.NewSecret();
        var isReset = purpose == AccountLinkPurpose.Password;
        write.Rows.AccountLinks.Add(
            LinkOf(account, secret, purpose, to.Key, write.Now + (isReset ? ResetLifetime : ProofLifetime))
        );
        var link = settings.Link((isReset ? "/new-password/" : "/prove/") + secret.Reveal());
        outbox.Queue(
            write,
            Purposes.Account,
            to.ToString(),
            isReset
                ? Letters.NewPassword(account, write.Workspace, link)
                : Letters.ProveAddress(account, write.Workspace, to.ToString(), link)
        );
    }

    /// <summary>A link as it is kept.</summary>
    public static AccountLinkRow LinkOf(
        AccountRow account,
        Secret secret,
        AccountLinkPurpose purpose,
        string addressKey,
        DateTimeOffset until
    ) =>
        new()
        {
            SecretHash = secret.Hash().Value,
            AccountId = account.Id,
            Purpose = purpose,
            AddressKey = addressKey,
            ExpiresAt = until,
        };

    /// <summary>Mails a link to an account's holder.</summary>
    public async Task MailAsync(AccountRow account, EmailAddress to, AccountLinkPurpose purpose, string via)
    {
        if (await HomeAsync(account.Id) is not { } home)
            return;
        await accounts.WriteAsync<bool>(
            [account.Id],
            [home],
            Caller.Invitee(account.Name, via),
            write =>
            {
                write.Note(
                    account.Id,
                    purpose == AccountLinkPurpose.Password ? "account.password-link" : "account.proof-link",
                    ("address", to.ToString())
                );
                return write.InAsync<bool>(
                    home,
                    inHome =>
                    {
                        Mail(inHome, account, to, purpose);
                        return Task.FromResult<Outcome<bool>>(true);
                    }
                );
            }
        );
    }

    /// <summary>Uses a link up, by one statement, and does what it is for; what was mailed to proves its address.</summary>
    public async Task<Outcome<AccountRow>> UseAsync(
        AccountRow account,
        string secretText,
        string via,
        Func<AccountWrite, WorkspaceWrite, Task<Outcome<AccountRow>>> use
    )
    {
        if (await HomeAsync(account.Id) is not { } home)
            return Gone;
        var hash = Secret.Read(secretText)!.Hash().Value;
        return await accounts.WriteAsync<AccountRow>(
            [account.Id],
            [home],
            Caller.Invitee(account.Name, via),
            held => held.InAsync(home, write => UseAsync(held, write))
        );

        async Task<Outcome<AccountRow>> UseAsync(AccountWrite held, WorkspaceWrite write)
        {
            var now = write.Now;
            var used = await write
                .Rows.AccountLinks.Where(l => l.SecretHash == hash && l.UsedAt == null && l.ExpiresAt > now)
                .ExecuteUpdateAsync(set => set.SetProperty(l => l.UsedAt, now));
            if (used == 0)
                return Gone;
            var link = await write.Rows.AccountLinks.AsNoTracking().FirstAsync(l => l.SecretHash == hash);
            if (
                link.AddressKey.Length > 0
                && await write.Rows.AccountAddresses.FirstOrDefaultAsync(a =>
                    a.AccountId == account.Id && a.AddressKey == link.AddressKey
                )
                    is { ProvedAt: null } claim
                && !await write.Rows.AccountAddresses.AnyAsync(a =>
                    a.AddressKey == link.AddressKey && a.ProvedAt != null
                )
            )
            {
                await AddressProofs.ProveAsync(
                    write.Rows,
                    account,
                    EmailAddress.Read(claim.Address).Value,
                    now
                );
                write.Record("account.address-proved", account.Id, ("address", claim.Address));
                held.Note(account.Id, "account.address-proved", ("address", claim.Address));
            }
            return await use(held, write);
        }
    }

    /// <summary>The workspace through which an account's own mails go: the one it came to last, and is still in if any.</summary>
    public async Task<Guid?> HomeAsync(Guid account)
    {
        await using var rows = database.Open();
        return await rows
            .Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account)
            .OrderBy(m => m.EndedAt != null)
            .ThenByDescending(m => m.JoinedAt)
            .Select(m => (Guid?)m.WorkspaceId)
            .FirstOrDefaultAsync();
    }
}
