using System.Security.Cryptography;
using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Makes and revokes API tokens.</summary>
public sealed class ApiTokens(WorkspaceWriter writer)
{
    /// <summary>A fresh secret from the system's generator.</summary>
    public static Secret NewSecret() => Secret.Of(RandomNumberGenerator.GetBytes(Secret.Length));

    /// <summary>Makes a token by which a program acts as a member.</summary>
    public async Task<Outcome<NewToken>> AddAsync(
        Guid workspace,
        string shortName,
        MemberRow member,
        string? label,
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
                var now = await write.Rows.Members.AsNoTracking().FirstAsync(m => m.Id == member.Id);
                if (!now.IsActive(write.Now, write.Workspace.Zone))
                    return Visitors.Ended;
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
                };
                write.Rows.ApiTokens.Add(token);
                write.Record("token.added", member.Id, ("label", token.Label), ("name", member.Name));
                return new NewToken(secret.Reveal(), token.Id, shortName);
            }
        );
    }

    /// <summary>Revokes a token; it is dead on its next use.</summary>
    public Task<Outcome<bool>> RevokeAsync(Guid workspace, Guid id, Caller caller) =>
        writer.WriteAsync<bool>(
            workspace,
            caller,
            async write =>
            {
                var token = await write.Rows.ApiTokens.FirstOrDefaultAsync(t =>
                    t.Id == id && t.RevokedAt == null
                );
                if (token is null)
                    return CommonRefusals.NotFound;
                token.RevokedAt = write.Now;
                write.Record("token.revoked", token.MemberId, ("label", token.Label));
                return true;
            }
        );
}
