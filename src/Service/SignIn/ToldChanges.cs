using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;

namespace ComeAboard.Service.SignIn;

/// <summary>Changes of an account's ways in, of which its holder is told by mail.</summary>
public sealed class ToldChanges(AccountWriter accounts, AccountLinks links, HolderNews news)
{
    /// <summary>Changes an account, notes it in its history and tells its holder by mail.</summary>
    /// <param name="account">The account.</param>
    /// <param name="action">What is done, as its history says it: <c>account.second-step-added</c>.</param>
    /// <param name="via">Through what.</param>
    /// <param name="change">Reads, decides and adds rows.</param>
    /// <param name="details">What the sentence about it names.</param>
    public async Task<Outcome<T>> TellAsync<T>(
        AccountRow account,
        string action,
        string via,
        Func<AccountWrite, Task<Outcome<T>>> change,
        params (string Name, object? Value)[] details
    )
        where T : notnull
    {
        var home = await links.HomeAsync(account.Id);
        return await accounts.WriteAsync(
            [account.Id],
            home is { } place ? [place] : [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var outcome = await change(write);
                if (!outcome.Succeeded)
                    return outcome;
                write.Note(account.Id, action, details);
                if (home is not { } workspace)
                    return outcome;
                var told = await write.InAsync<bool>(
                    workspace,
                    inHome =>
                    {
                        news.Tell(inHome, account, action, details);
                        return Task.FromResult<Outcome<bool>>(true);
                    }
                );
                return told.Try(out _, out var refusal) ? outcome : refusal;
            }
        );
    }
}
