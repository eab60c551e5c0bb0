using System.Text.Json;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>An account as its holder looks after it: ways in, where they are signed in, what happened.</summary>
public sealed class YourAccount(
    Database database,
    AccountWriter accounts,
    ApiTokens tokens,
    StayingPrograms staying,
    ClaimAnswers answers,
    YourProposals proposals,
    TimeProvider clock
)
{
    /// <summary>Everything about an account that its holder decides over.</summary>
    /// <param name="account">The account.</param>
    /// <param name="session">The hash of the session that asks.</param>
    public async Task<AccountView> ShowAsync(AccountRow account, string? session)
    {
        var (id, now) = (account.Id, clock.Now());
        await using var rows = database.Open();
        var addresses = await rows
            .AccountAddresses.AsNoTracking()
            .Where(a => a.AccountId == id)
            .Select(a => new AccountAddressView(a.Address, a.ProvedAt) { TakesNotices = a.TakesNotices })
            .ToListAsync();
        var ways = await rows
            .Credentials.AsNoTracking()
            .Where(c => c.AccountId == id)
            .OrderBy(c => c.MadeAt)
            .ToListAsync();
        var open = await rows
            .Sessions.AsNoTracking()
            .Where(s => s.AccountId == id && s.ExpiresAt > now && !s.AwaitsStep)
            .OrderByDescending(s => s.SeenAt)
            .ThenByDescending(s => s.Id)
            .ToListAsync();
        var programs = await (
            from token in rows.ApiTokens.IgnoreQueryFilters()
            join member in rows.Members.IgnoreQueryFilters()
                on new { token.WorkspaceId, Id = token.MemberId } equals new { member.WorkspaceId, member.Id }
            join workspace in rows.Workspaces on token.WorkspaceId equals workspace.Id
            where
                member.AccountId == id
                && member.EndedAt == null
                && token.RevokedAt == null
                && token.ExpiresAt > now
            orderby token.Id descending
            select new ProgramView(
                token.Id,
                token.Label,
                workspace.ShortName,
                workspace.Name,
                token.CreatedAt,
                token.ExpiresAt
            )
        ).ToListAsync();
        programs.AddRange(await staying.ListAsync(id));
        return new AccountView(
            id,
            account.Name,
            account.Address,
            [.. addresses.OrderByDescending(a => a.Address == account.Address).ThenBy(a => a.Address)],
            [
                .. ways.Where(c => c.Kind != CredentialKind.RecoveryCode)
                    .Select(c => new WayInView(
                        c.Id,
                        c.Kind.ToString().ToLowerInvariant(),
                        c.Label,
                        c.MadeAt,
                        c.LastUsedAt
                    )),
            ],
            [.. open.Select(s => ViewOf(s, session))],
            programs
        )
        {
            Custody = account.CustodyId is { } held
                ? await rows.Workspaces.Where(w => w.Id == held).Select(w => w.Name).FirstAsync()
                : "",
            CustodySince = account.CustodySince,
            Questions =
            [
                .. (await answers.WaitingAsync(id)).Select(found => new QuestionView(
                    found.Row.Id,
                    found.Workspace.ShortName,
                    found.Workspace.Name,
                    found.Row.Address,
                    found.Row.Deadline!.Value
                )),
            ],
            Proposals = await proposals.ListAsync(id),
            RecoveryCodesLeft = ways.Count(c => c.Kind == CredentialKind.RecoveryCode),
        };
    }

    private static SignInView ViewOf(SessionRow row, string? session) =>
        new(
            row.Id,
            row.OpenedWith.ToString().ToLowerInvariant(),
            row.SecondStep?.ToString().ToLowerInvariant(),
            BrowserNames.Of(row.Browser),
            row.Network,
            row.OpenedAt,
            row.SeenAt,
            row.ExpiresAt,
            row.SecretHash == session
        );

    /// <summary>A page of what happened to an account, newest first.</summary>
    public async Task<Outcome<Page<AccountEventView>>> HistoryAsync(AccountRow account, Paging paging)
    {
        if (!paging.After(long.MaxValue).Try(out var before, out var refusal))
            return refusal;
        await using var rows = database.Open();
        var found = await rows
            .AccountHistory.AsNoTracking()
            .Where(h => h.AccountId == account.Id && h.Sequence < before)
            .OrderByDescending(h => h.Sequence)
            .Take(paging.Size + 1)
            .ToListAsync();
        return await found.PageAsync(
            paging,
            h => h.Sequence.ToString(),
            page =>
                Task.FromResult<IReadOnlyList<AccountEventView>>([
                    .. page.Select(h => ViewOf(h, account.Language)),
                ])
        );
    }

    /// <summary>All that happened to an account, oldest first.</summary>
    public async Task<IReadOnlyList<AccountEventView>> WholeHistoryAsync(AccountRow account)
    {
        await using var rows = database.Open();
        var found = await rows
            .AccountHistory.AsNoTracking()
            .Where(h => h.AccountId == account.Id)
            .OrderBy(h => h.Sequence)
            .ToListAsync();
        return [.. found.Select(h => ViewOf(h, account.Language))];
    }

    /// <summary>Changes the language an account is written to in; refuses with <c>language.unknown</c>.</summary>
    /// <param name="account">The account.</param>
    /// <param name="language">A BCP 47 tag.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> SpeakAsync(AccountRow account, string? language, string via)
    {
        if (!Languages.Read(language).Try(out var tag, out var refusal))
            return refusal;
        return await accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var before = write[account.Id].Language;
                if (before == tag)
                    return true;
                await write
                    .Rows.Accounts.Where(a => a.Id == account.Id)
                    .ExecuteUpdateAsync(set => set.SetProperty(a => a.Language, tag));
                write.Note(account.Id, "account.language-changed", ("before", before), ("after", tag));
                return true;
            }
        );
    }

    private static AccountEventView ViewOf(HistoryRow row, string language)
    {
        var details = row.Details is null
            ? []
            : JsonSerializer
                .Deserialize<Dictionary<string, JsonElement>>(row.Details)!
                .ToDictionary(detail => detail.Key, detail => detail.Value.ToString());
        return new AccountEventView(
            row.Sequence,
            row.At,
            details.GetValueOrDefault("by", ""),
            row.Via,
            row.Action,
            HistoryPhrases.Sentence(language, row.Action, details)
        );
    }

    /// <summary>The time zone in which the holder of an account reads times: that of the place they came to last; UTC where they are nowhere.</summary>
    public async Task<TimeZoneInfo> ZoneAsync(AccountRow account)
    {
        await using var rows = database.Open();
        var zone = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where member.AccountId == account.Id
            orderby member.EndedAt != null, member.JoinedAt descending
            select workspace.TimeZone
        ).FirstOrDefaultAsync();
        return zone is null ? TimeZoneInfo.Utc : TimeZoneInfo.FindSystemTimeZoneById(zone);
    }

    /// <summary>Closes one sign-in of an account.</summary>
    /// <param name="account">The account.</param>
    /// <param name="session">The sign-in's id.</param>
    /// <param name="via">Through what.</param>
    public Task<Outcome<bool>> CloseAsync(AccountRow account, Guid session, string via) =>
        accounts.WriteAsync<bool>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var row = await write.Rows.Sessions.FirstOrDefaultAsync(s =>
                    s.Id == session && s.AccountId == account.Id
                );
                if (row is null)
                    return CommonRefusals.NotFound;
                write.Rows.Sessions.Remove(row);
                write.Note(account.Id, "account.sign-in-closed", ("browser", row.Browser));
                return true;
            }
        );

    /// <summary>Closes every sign-in of an account but the one that asks.</summary>
    /// <param name="account">The account.</param>
    /// <param name="kept">The hash of the session that stays.</param>
    /// <param name="via">Through what.</param>
    /// <returns>How many were closed.</returns>
    public Task<Outcome<int>> CloseOthersAsync(AccountRow account, string? kept, string via) =>
        accounts.WriteAsync<int>(
            [account.Id],
            [],
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var now = write.Now;
                var closed = await write
                    .Rows.Sessions.Where(s =>
                        s.AccountId == account.Id && s.SecretHash != kept && s.ExpiresAt > now
                    )
                    .ExecuteDeleteAsync();
                if (closed > 0)
                    write.Note(account.Id, "account.sign-ins-closed", ("count", closed));
                return closed;
            }
        );

    /// <summary>Ends what a program was let in by that acts for the holder of an account: its token, or its sign-in that stays.</summary>
    /// <param name="account">The account.</param>
    /// <param name="token">The id of either.</param>
    /// <param name="via">Through what.</param>
    public async Task<Outcome<bool>> WithdrawAsync(AccountRow account, Guid token, string via)
    {
        await using var rows = database.Open();
        var found = await (
            from held in rows.ApiTokens.IgnoreQueryFilters()
            join member in rows.Members.IgnoreQueryFilters()
                on new { held.WorkspaceId, Id = held.MemberId } equals new { member.WorkspaceId, member.Id }
            where held.Id == token && member.AccountId == account.Id
            select new
            {
                held.WorkspaceId,
                member.Id,
                member.Name,
            }
        ).FirstOrDefaultAsync();
        return found is null
            ? await staying.WithdrawAsync(account, token, via)
            : await tokens.RevokeAsync(
                found.WorkspaceId,
                token,
                Caller.Member(found.Id, found.Name, via),
                found.Id
            );
    }
}
