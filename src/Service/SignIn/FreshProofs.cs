using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
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
            return refusal with { Field = "password" };
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

/// <summary>Marking what asks for a fresh proof.</summary>
public static class FreshProofEndpoints
{
    /// <summary>Marks an endpoint as dangerous: in a browser it refuses, with <c>proof.stale</c>, whoever did not show lately who they are.</summary>
    public static RouteHandlerBuilder WithFreshProof(this RouteHandlerBuilder endpoint) =>
        endpoint.AddEndpointFilter(
            async (context, next) =>
            {
                var http = context.HttpContext;
                var now = http.RequestServices.GetRequiredService<TimeProvider>().Now();
                return !http.IsRehearsal() && http.Features.Get<Proof>()?.ForbidsDangerous(now) is { } stale
                    ? stale.ToResult()
                    : await next(context);
            }
        );
}
