using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Forgotten passwords and new ones, and proving an address an account bears. Whatever changes a password closes the
/// account's other sign-ins and tells its holder by mail.
/// </summary>
public sealed class Passwords(
    Database database,
    AccountWriter accounts,
    Outbox outbox,
    AccountLinks links,
    Budgets budgets,
    SignInDesk desk,
    ServiceSettings settings,
    TimeProvider clock,
    IPasswordHasher<AccountRow> hasher,
    ILogger<Passwords> log
)
{
    private const int MailsPerHour = 5;
    private static readonly TimeSpan RecoveryLifetime = TimeSpan.FromMinutes(30);

    /// <summary>
    /// Mails a link by which a forgotten password is replaced, if there is such an account. It is done after the answer, so
    /// that nobody learns from it, or from how long it takes, whether there is.
    /// </summary>
    public void Forget(string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out _))
            return;
        _ = Task.Run(async () =>
        {
            try
            {
                if (
                    await budgets.TakeAsync("forgotten", to.Key, MailsPerHour, TimeSpan.FromHours(1))
                    is not null
                )
                    return;
                foreach (var account in await HoldersAsync(to))
                    await links.MailAsync(account, to, AccountLinkPurpose.Password, via);
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "A link for a forgotten password could not be mailed");
            }
        });
    }

    /// <summary>Mails a link by which the holder of an account proves its main address.</summary>
    public async Task<Outcome<bool>> SendProofAsync(AccountRow account, string via)
    {
        var to = EmailAddress.Read(account.Address).Value;
        if (
            await budgets.TakeAsync("proof", account.Id.ToString(), MailsPerHour, TimeSpan.FromHours(1))
            is not null
        )
            return CommonRefusals.TooMany;
        await links.MailAsync(account, to, AccountLinkPurpose.Address, via);
        return true;
    }

    /// <summary>Replaces a forgotten password; the link counts once, and every sign-in of the account is closed.</summary>
    public async Task<Outcome<Shown>> ResetAsync(string? secret, string? password, string via)
    {
        if (
            !(await links.FindAsync(secret, AccountLinkPurpose.Password)).Try(
                out var account,
                out var refusal
            )
        )
            return refusal;
        if (PasswordRules.Forbids(password, account.Name, account.Address) is { } weak)
            return weak;
        var hash = hasher.HashPassword(account, password!);
        var used = await links.UseAsync(
            account,
            secret!,
            via,
            async (held, write) =>
            {
                await PutAsync(held, write, account, hash, null, null);
                return account;
            }
        );
        return used.Then(one => new Shown(one, new Proof(ProofWay.MailedLink, clock.Now())));
    }

    /// <summary>Proves the address a link was mailed to; the link counts once.</summary>
    public async Task<Outcome<AccountRow>> ProveAsync(string? secret, string via) =>
        (await links.FindAsync(secret, AccountLinkPurpose.Address)).Try(out var account, out var refusal)
            ? await links.UseAsync(
                account,
                secret!,
                via,
                (_, _) => Task.FromResult<Outcome<AccountRow>>(account)
            )
            : refusal;

    /// <summary>Changes a password: the old one is asked for, and the other sign-ins are closed.</summary>
    /// <param name="account">Whose.</param>
    /// <param name="old">The password as it was.</param>
    /// <param name="password">The new one.</param>
    /// <param name="asking">Where from; its own sign-in stays open.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> ChangeAsync(
        AccountRow account,
        string? old,
        string? password,
        Asking asking,
        string via
    )
    {
        if (!(await desk.ConfirmAsync(account, old, asking)).Try(out var before, out var refusal))
            return refusal;
        if (PasswordRules.Forbids(password, account.Name, account.Address) is { } weak)
            return weak;
        if (await links.HomeAsync(account.Id) is not { } home)
            return AccountLinks.Gone;
        var (hash, mine) = (hasher.HashPassword(account, password!), asking.Session);
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [home],
            Caller.Invitee(account.Name, via),
            held => held.InAsync(home, write => PutAsync(held, write, account, hash, before, mine))
        );
    }

    /// <summary>
    /// For the operator: a one-time link by which an administrator gets in again who has lost their password and their
    /// mailbox. The record of each workspace they administer says that it was made. It proves no address.
    /// </summary>
    public async Task<Outcome<string>> RecoverAsync(string? address)
    {
        if (!EmailAddress.Read(address).Try(out var to, out var refusal))
            return refusal;
        foreach (var account in await HoldersAsync(to))
        {
            var houses = await AdministeredAsync(account.Id);
            if (houses.Count == 0)
                continue;
            var secret = ApiTokens.NewSecret();
            var made = await accounts.WriteAsync<bool>(
                [account.Id],
                houses,
                Caller.Operator,
                async held =>
                {
                    held.Note(account.Id, "account.recovery-link");
                    held.Rows.AccountLinks.Add(
                        AccountLinks.LinkOf(
                            account,
                            secret,
                            AccountLinkPurpose.Password,
                            "",
                            held.Now + RecoveryLifetime
                        )
                    );
                    foreach (var house in houses.Order())
                    {
                        var told = await held.InAsync<bool>(
                            house,
                            write =>
                            {
                                write.Record(
                                    "account.recovery-link",
                                    account.Id,
                                    ("name", account.Name),
                                    ("address", account.Address)
                                );
                                return Task.FromResult<Outcome<bool>>(true);
                            }
                        );
                        if (!told.Succeeded)
                            return told;
                    }
                    return true;
                }
            );
            if (!made.Try(out _, out refusal))
                return refusal;
            return settings.Link("/new-password/" + secret.Reveal());
        }
        return new Refusal(
            "account.no-administrator",
            $"There is no administrator at {to}.",
            "Give the address with which an administrator of a workspace signs in.",
            RefusalSort.NotFound
        );
    }

    private async Task<Outcome<bool>> PutAsync(
        AccountWrite held,
        WorkspaceWrite write,
        AccountRow account,
        string hash,
        string? before,
        string? keptSession
    )
    {
        var kept = write.Rows.Credentials.Where(c =>
            c.AccountId == account.Id && c.Kind == CredentialKind.Password
        );
        var changed = await kept.Where(c => before == null || c.Secret == before)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(c => c.Secret, hash)
                    .SetProperty(c => c.MadeAt, write.Now)
                    .SetProperty(c => c.LastUsedAt, (DateTimeOffset?)null)
            );
        if (changed == 0 && (before is not null || await kept.AnyAsync()))
            return CommonRefusals.Stale;
        if (changed == 0)
            write.Insert(AccountWrite.PasswordOf(account.Id, hash, write.Now));
        await write
            .Rows.Accounts.Where(a => a.Id == account.Id)
            .ExecuteUpdateAsync(set =>
                set.SetProperty(a => a.FailedTries, 0).SetProperty(a => a.LockedUntil, (DateTimeOffset?)null)
            );
        var closed = await write
            .Rows.Sessions.Where(s => s.AccountId == account.Id && s.SecretHash != keptSession)
            .ExecuteDeleteAsync();
        held.Note(account.Id, "account.password-changed", ("other sign-ins closed", closed));
        write.Record(
            "account.password-changed",
            account.Id,
            ("name", account.Name),
            ("other sign-ins closed", closed)
        );
        outbox.Queue(
            write,
            Purposes.Notice,
            account.Address,
            Letters.PasswordChanged(account, write.Workspace, write.Now, settings.Link("/forgotten"))
        );
        return true;
    }

    /// <summary>The accounts whose holder an address is: the one that proved it, or those that only wrote it down.</summary>
    private async Task<List<AccountRow>> HoldersAsync(EmailAddress address)
    {
        await using var rows = database.Open();
        var bearers = await (
            from bears in rows.AccountAddresses
            join account in rows.Accounts on bears.AccountId equals account.Id
            where bears.AddressKey == address.Key
            select new { account, bears.ProvedAt }
        )
            .AsNoTracking()
            .ToListAsync();
        var proved = bearers.Where(b => b.ProvedAt is not null).Select(b => b.account).ToList();
        return proved.Count > 0 ? proved : [.. bearers.Select(b => b.account)];
    }

    private async Task<List<Guid>> AdministeredAsync(Guid account)
    {
        await using var rows = database.Open();
        var places = await rows
            .Members.IgnoreQueryFilters()
            .Where(m => m.AccountId == account && m.EndedAt == null)
            .Select(m => new { m.WorkspaceId, m.Id })
            .ToListAsync();
        var houses = new List<Guid>();
        foreach (var place in places)
        {
            await using var inside = database.Open(place.WorkspaceId);
            var world = (await Storage.Access.AccessPicture.ReadAsync(inside, 0)).World;
            var today = DateOnly.FromDateTime(clock.Now().UtcDateTime);
            if (Core.Departures.AdministratorRule.IsLasting(world, place.Id, today))
                houses.Add(place.WorkspaceId);
        }
        return houses;
    }
}
