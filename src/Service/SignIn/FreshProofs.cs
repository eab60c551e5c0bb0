using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>
/// What is dangerous asks whoever does it in a browser to have shown lately that the account is theirs: an open browser
/// is found more easily than a password. Programs have shown it when they were given their token.
/// </summary>
public sealed class FreshProofs(AccountWriter accounts, SignInDesk desk, SecondSteps steps)
{
    /// <summary>
    /// Shows anew, with the password or a code of the second step, that an account is one's own; refuses with
    /// <c>password.wrong</c> or <c>second-step.wrong</c>. A code makes a sign-in strong that was not.
    /// </summary>
    /// <param name="account">The account.</param>
    /// <param name="request">Its password, or a code.</param>
    /// <param name="asking">Where from, and with which session.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> RenewAsync(
        AccountRow account,
        ProofRequest request,
        Asking asking,
        string via
    )
    {
        ProofWay? second = null;
        if (!string.IsNullOrWhiteSpace(request.Code))
        {
            var shown = await steps.CheckAsync(account, request.Code, asking.Network, via);
            if (!shown.Try(out var way, out var wrong))
                return wrong with { Sort = RefusalSort.Invalid };
            second = way;
        }
        else if (!(await desk.ConfirmAsync(account, request.Password, asking)).Try(out _, out var refusal))
            return refusal with
            {
                Sentence = "That is not the password of this account.",
                Field = "password",
            };
        return await RenewAsync(account, second, false, asking, via);
    }

    /// <summary>Shows anew, with a passkey, that an account is one's own; refuses with <c>sign-in.passkey-wrong</c> that of another.</summary>
    /// <param name="account">The account.</param>
    /// <param name="shown">Whose passkey was shown.</param>
    /// <param name="asking">Where from, and with which session.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> RenewAsync(AccountRow account, Shown shown, Asking asking, string via) =>
        shown.Account.Id == account.Id
            ? await RenewAsync(account, null, shown.Proof.Way == ProofWay.Passkey, asking, via)
            : Passkeys.Wrong with
            {
                Sort = RefusalSort.Invalid,
            };

    private async Task<Outcome<bool>> RenewAsync(
        AccountRow account,
        ProofWay? second,
        bool isPasskey,
        Asking asking,
        string via
    ) =>
        await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var now = write.Now;
                var renewed = await write
                    .Rows.Sessions.Where(s => s.AccountId == account.Id && s.SecretHash == asking.Session)
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(s => s.ProvedAt, now)
                            .SetProperty(s => s.SecondStep, s => second ?? s.SecondStep)
                            .SetProperty(s => s.OpenedWith, s => isPasskey ? ProofWay.Passkey : s.OpenedWith)
                    );
                return renewed == 1 ? true : CommonRefusals.SignInRequired;
            }
        );
}
