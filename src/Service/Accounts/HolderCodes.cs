using ComeAboard.Core;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>Mails codes by which the holder of an account shows that they read an address.</summary>
public sealed class HolderCodes(AccountWriter accounts, AccountLinks links, MailedCodes codes, Outbox outbox)
{
    /// <summary>Mails a new code; refuses with <c>too-many</c> what was asked too often.</summary>
    /// <param name="account">Whose holder asks.</param>
    /// <param name="what">What the code is for, and to which address it goes.</param>
    /// <param name="via">Through what.</param>
    /// <param name="letter">The letter with the code; null where nothing is mailed, which nothing else tells.</param>
    /// <param name="from">The workspace it goes out from; null for one of the account's.</param>
    /// <param name="forbids">Why it is not to be done at the moment of the change; null for no such reason.</param>
    public async Task<Outcome<bool>> SendAsync(
        AccountRow account,
        CodeFor what,
        string via,
        Func<WorkspaceRow, string, Letter>? letter,
        Guid? from = null,
        Func<AccountWrite, Refusal?>? forbids = null
    )
    {
        if (await codes.ForbidsAnotherAsync(what) is { } enough)
            return enough;
        if ((from ?? await links.HomeAsync(account.Id)) is not { } home)
            return AccountLinks.Gone;
        var to = what.To.ToString();
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [home],
            Caller.Invitee(account.Name, via),
            async held =>
            {
                if (forbids?.Invoke(held) is { } closed)
                    return closed;
                if (!(await MailedCodes.RenewAsync(held.Rows, what, held.Now)).Try(out var code, out var no))
                    return no;
                held.Note(account.Id, "account.code-mailed", ("address", to));
                return await held.InAsync<bool>(
                    home,
                    write =>
                    {
                        if (letter is not null)
                            outbox.Queue(write, Purposes.Code, to, letter(write.Workspace, code));
                        return Task.FromResult<Outcome<bool>>(true);
                    }
                );
            }
        );
    }
}
