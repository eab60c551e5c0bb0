using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Applications;
using Microsoft.EntityFrameworkCore;
using static OpenIddict.Abstractions.OpenIddictConstants;

namespace ComeAboard.Service.Applications;

/// <summary>The programs that somebody let in to stay when they sign out, as they look after them.</summary>
public sealed class StayingPrograms(Database database, AccountWriter accounts, TimeProvider clock)
{
    /// <summary>The programs that somebody let in to stay, newest first.</summary>
    /// <param name="account">Whose.</param>
    public async Task<IReadOnlyList<ProgramView>> ListAsync(Guid account)
    {
        await using var rows = database.Open();
        var since = (clock.Now() - OAuthServer.StayLifetime).UtcDateTime;
        var found = await (
            from signOn in Staying(rows, account)
            join application in rows.Applications.IgnoreQueryFilters()
                on signOn.ApplicationId equals application.Id
            join workspace in rows.Workspaces on application.WorkspaceId equals workspace.Id
            where signOn.CreationDate > since
            orderby signOn.Id descending
            select new
            {
                signOn.Id,
                signOn.CreationDate,
                application.Name,
                workspace.ShortName,
                House = workspace.Name,
            }
        ).ToListAsync();
        return
        [
            .. found.Select(one =>
            {
                var made = new DateTimeOffset(one.CreationDate!.Value);
                return new ProgramView(
                    one.Id,
                    one.Name,
                    one.ShortName,
                    one.House,
                    made,
                    made + OAuthServer.StayLifetime
                );
            }),
        ];
    }

    /// <summary>Ends what a program was let in by to stay, for whoever let it in; every token of it is dead.</summary>
    /// <param name="account">Who.</param>
    /// <param name="id">What it was let in by.</param>
    /// <param name="via">Through what.</param>
    public Task<Outcome<bool>> WithdrawAsync(AccountRow account, Guid id, string via) =>
        accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var name = await (
                    from signOn in Staying(write.Rows, account.Id)
                    join application in write.Rows.Applications.IgnoreQueryFilters()
                        on signOn.ApplicationId equals application.Id
                    where signOn.Id == id
                    select application.Name
                ).FirstOrDefaultAsync();
                if (name is null)
                    return CommonRefusals.NotFound;
                DateTimeOffset? now = write.Now;
                await write
                    .Rows.OAuthSignOns.Where(s => s.Id == id)
                    .ExecuteUpdateAsync(set =>
                        set.SetProperty(s => s.Status, Statuses.Revoked)
                            .SetProperty(s => s.TellAt, now)
                            .SetProperty(s => s.SessionEndsAt, (DateTimeOffset?)null)
                    );
                write.Note(account.Id, "account.program-ended", ("program", name));
                return true;
            }
        );

    private static IQueryable<OAuthSignOnRow> Staying(ComeAboardContext rows, Guid account) =>
        from signOn in rows.OAuthSignOns
        join member in rows.Members.IgnoreQueryFilters()
            on new { signOn.WorkspaceId, signOn.MemberId } equals new
            {
                WorkspaceId = (Guid?)member.WorkspaceId,
                MemberId = (Guid?)member.Id,
            }
        where
            member.AccountId == account
            && signOn.Sid != null
            && !signOn.EndsWithSession
            && signOn.Status == Statuses.Valid
        select signOn;
}
