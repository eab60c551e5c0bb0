using System.Security.Cryptography;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Makes and revokes API tokens.</summary>
public sealed class ApiTokens(
    Database database,
    WorkspaceWriter writer,
    AccessWorlds worlds,
    TimeProvider clock
)
{
    /// <summary>A fresh secret from the system's generator.</summary>
    public static Secret NewSecret() => Secret.Of(RandomNumberGenerator.GetBytes(Secret.Length));

    /// <summary>Makes a token by which a program acts as a member.</summary>
    public async Task<Outcome<NewToken>> AddAsync(
        Guid workspace,
        string shortName,
        MemberRow member,
        string? label,
        int? days,
        Caller caller
    )
    {
        if (!PlainText.ReadName(label).Try(out var name, out var refusal))
            return refusal with { Field = "label" };
        return await writer.WriteAsync<NewToken>(
            workspace,
            caller,
            async write =>
            {
                if (!TokenRules.End(days, write.Now).Try(out var end, out var no))
                    return no;
                var now = await write.Rows.Members.AsNoTracking().FirstAsync(m => m.Id == member.Id);
                if (!now.IsActive(write.Now, write.Workspace.Zone))
                    return EntryRules.Inactive(now.Stay, now.IsHere(write.Now, write.Workspace.Zone));
                var secret = NewSecret();
                var token = new ApiTokenRow
                {
                    WorkspaceId = workspace,
                    Id = Guid.CreateVersion7(),
                    MemberId = member.Id,
                    AccountId = member.AccountId,
                    SecretHash = secret.Hash().Value,
                    Label = name.Length > 0 ? name : "token",
                    CreatedAt = write.Now,
                    ExpiresAt = end,
                };
                write.Rows.ApiTokens.Add(token);
                write.Record("token.added", member.Id, ("label", token.Label), ("name", member.Name));
                return new NewToken(secret.Reveal(), token.Id, shortName) { ExpiresAt = end };
            }
        );
    }

    /// <summary>Revokes a token; it is dead at once, and within a second on every other node.</summary>
    /// <param name="workspace">Where.</param>
    /// <param name="id">Which.</param>
    /// <param name="caller">Who revokes it.</param>
    /// <param name="only">The member whose it has to be; null for anybody's.</param>
    public Task<Outcome<bool>> RevokeAsync(Guid workspace, Guid id, Caller caller, Guid? only) =>
        writer.WriteAsync<bool>(
            workspace,
            caller,
            async write =>
            {
                var token = await write.Rows.ApiTokens.FirstOrDefaultAsync(t =>
                    t.Id == id && t.RevokedAt == null && (only == null || t.MemberId == only)
                );
                if (token is null)
                    return CommonRefusals.NotFound;
                if (
                    caller.MemberId is { } actor
                    && GivingRules.ForbidsActingOn(
                        await write.WorldAsync(),
                        actor,
                        token.MemberId,
                        write.Today
                    )
                        is { } beyond
                )
                    return beyond;
                token.RevokedAt = write.Now;
                write.Record("token.revoked", token.MemberId, ("label", token.Label));
                return true;
            }
        );

    /// <summary>The tokens of a workspace, newest first: everybody sees their own, who looks after the settings sees all.</summary>
    public async Task<Page<TokenView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var (own, all) = (visitor.Member.Id, visitor.Duties.HasFlag(Duties.Settings));
        var tokens = await (
            from token in rows.ApiTokens
            join member in rows.Members on token.MemberId equals member.Id
            where all || member.Id == own
            orderby token.Id descending
            select new TokenView(token.Id, token.Label, member.Name, token.CreatedAt, token.RevokedAt)
            {
                ExpiresAt = token.ExpiresAt,
                IsOwn = member.Id == own,
            }
        )
            .Take(Paging.Largest)
            .ToListAsync();
        return new Page<TokenView>(tokens, null);
    }

    /// <summary>Signs a program in as somebody who proved who they are.</summary>
    public async Task<Outcome<NewToken>> SignInAsync(Shown shown, string shortName, string? label)
    {
        await using var rows = database.Open();
        var found = await (
            from workspace in rows.Workspaces
            from member in rows.Members.IgnoreQueryFilters().Where(m => m.WorkspaceId == workspace.Id)
            where
                workspace.ShortName == shortName
                && member.AccountId == shown.Account.Id
                && member.EndedAt == null
            select new { workspace, member }
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        if (found is null || !found.member.IsHere(clock.Now(), found.workspace.Zone))
            return Visitors.NoWorkspace;
        var today = Days.Of(clock.Now(), found.workspace.Zone);
        var duties = (await worlds.OfAsync(found.workspace)).DutiesOf(found.member.Id, today);
        if (WorkspaceRules.Of(found.workspace).ForbidsSignIn(shown.Proof, duties, today) is { } weak)
            return weak;
        return await AddAsync(
            found.workspace.Id,
            shortName,
            found.member,
            string.IsNullOrWhiteSpace(label) ? "command line" : label,
            null,
            Caller.Member(found.member.Id, found.member.Name, "client")
        );
    }

    /// <summary>Signs a program out: its token is dead.</summary>
    public async Task<Outcome<bool>> SignOutAsync(Guid workspace, Guid id)
    {
        await using var rows = database.Open(workspace);
        var holder = await (
            from token in rows.ApiTokens
            join member in rows.Members on token.MemberId equals member.Id
            where token.Id == id
            select member
        )
            .AsNoTracking()
            .FirstAsync();
        return await RevokeAsync(workspace, id, Caller.Member(holder.Id, holder.Name, "client"), holder.Id);
    }
}
