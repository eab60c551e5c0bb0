using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// Signing in with a code that is mailed to an address the account has proved. Whoever wrote somebody's address down
/// without proving it gets nobody in by it. Answers alike whether or not there is such an account.
/// </summary>
public sealed class CodeDesk(
    Database database,
    AccountWriter accounts,
    AccountLinks links,
    MailedCodes codes,
    Outbox outbox,
    TimeProvider clock,
    ILogger<CodeDesk> log
)
{
    /// <summary>For every code that lets nobody in, whatever the reason.</summary>
    public static Refusal Wrong { get; } =
        new(
            "sign-in.code-wrong",
            "The code is wrong, has expired, or was tried too often.",
            "Check it, or have a new one mailed.",
            RefusalSort.NotSignedIn,
            "code"
        );

    /// <summary>
    /// Mails a code by which the holder of an account signs in, if there is such an account. It is done after the answer, so
    /// that nobody learns from it, or from how long it takes, whether there is.
    /// </summary>
    /// <param name="address">An address the account has proved.</param>
    /// <param name="via">Through what it is asked.</param>
    public void Mail(string? address, string via)
    {
        if (!EmailAddress.Read(address).Try(out var to, out _))
            return;
        _ = Task.Run(async () =>
        {
            try
            {
                await MailAsync(to, via);
            }
            catch (Exception fault)
            {
                log.LogWarning(fault, "A code to sign in with could not be mailed");
            }
        });
    }

    private async Task MailAsync(EmailAddress to, string via)
    {
        if (await HolderAsync(to) is not { } account || await links.HomeAsync(account.Id) is not { } home)
            return;
        var what = Of(account, to);
        if (await codes.ForbidsAnotherAsync(what) is not null)
            return;
        await accounts.WriteAsync<bool>(
            [account.Id],
            [home],
            Caller.Invitee(account.Name, via),
            async held =>
            {
                if (
                    !(await MailedCodes.RenewAsync(held.Rows, what, held.Now)).Try(
                        out var code,
                        out var refusal
                    )
                )
                    return refusal;
                held.Note(account.Id, "account.code-mailed", ("address", to.ToString()));
                return await held.InAsync<bool>(
                    home,
                    write =>
                    {
                        outbox.Queue(
                            write,
                            Purposes.Code,
                            to.ToString(),
                            Letters.SignInCode(account, write.Workspace, code)
                        );
                        return Task.FromResult<Outcome<bool>>(true);
                    }
                );
            }
        );
    }

    /// <summary>The account whose holder gives back the code that was mailed to an address, once; or <c>sign-in.code-wrong</c>.</summary>
    /// <param name="address">The address.</param>
    /// <param name="code">The code.</param>
    public async Task<Outcome<Shown>> CheckAsync(string? address, string? code)
    {
        if (!EmailAddress.Read(address).Try(out var to, out _))
            return Wrong;
        var account = await HolderAsync(to);
        // The same statements, whether or not there is an account.
        return await codes.IsShownAsync(Of(account, to), code, isOnce: true) && account is not null
            ? new Shown(account, new Proof(ProofWay.MailedCode, clock.Now()))
            : Wrong;
    }

    private static CodeFor Of(AccountRow? account, EmailAddress to) =>
        new(CodePurpose.SignIn, Guid.Empty, account?.Id ?? Guid.Empty, to);

    /// <summary>The account that has proved an address; null for none.</summary>
    private async Task<AccountRow?> HolderAsync(EmailAddress address)
    {
        await using var rows = database.Open();
        return await (
            from bears in rows.AccountAddresses
            join account in rows.Accounts on bears.AccountId equals account.Id
            where bears.AddressKey == address.Key && bears.ProvedAt != null
            select account
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
    }
}
