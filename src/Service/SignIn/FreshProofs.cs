using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// What is dangerous asks whoever does it in a browser to have shown lately that the account is theirs: an open browser
/// is found more easily than a password. Programs have shown it when they were given their token.
/// </summary>
public sealed class FreshProofs(AccountWriter accounts, SignInDesk desk)
{
    /// <summary>Shows anew, with the password, that an account is one's own; refuses with <c>password.wrong</c>.</summary>
    /// <param name="account">The account.</param>
    /// <param name="password">Its password.</param>
    /// <param name="asking">Where from, and with which session.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> RenewAsync(
        AccountRow account,
        string? password,
        Asking asking,
        string via
    )
    {
        if (!(await desk.ConfirmAsync(account, password, asking)).Try(out _, out var refusal))
            return refusal with
            {
                Sentence = "That is not the password of this account.",
                Field = "password",
            };
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var now = write.Now;
                var renewed = await write
                    .Rows.Sessions.Where(s => s.AccountId == account.Id && s.SecretHash == asking.Session)
                    .ExecuteUpdateAsync(set => set.SetProperty(s => s.ProvedAt, now));
                return renewed == 1 ? true : CommonRefusals.SignInRequired;
            }
        );
    }
}
