using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Codes by which the holder of an account shows that they read the invited mailbox too.</summary>
public sealed class AddressCodes(WorkspaceWriter writer, Outbox outbox)
{
    private const int MostTries = 5;
    private static readonly TimeSpan Lifetime = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(30);

    /// <summary>Mails a code to the invited address, for the holder of an account with another.</summary>
    public async Task<Outcome<bool>> SendAsync(FoundInvitation found, AccountRow account, string via)
    {
        var code = RandomNumberGenerator.GetInt32(100_000_000).ToString("D8", CultureInfo.InvariantCulture);
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(account.Name, via),
            async write =>
            {
                var invitation = await write
                    .Rows.Invitations.AsNoTracking()
                    .FirstAsync(i => i.Id == found.Invitation.Id);
                if (LinkRules.Forbids(invitation.State, invitation.Deadline, write.Now) is { } closed)
                    return closed;
                var row = await write.Rows.AddressCodes.FirstOrDefaultAsync(c =>
                    c.InvitationId == invitation.Id && c.AccountId == account.Id
                );
                if (row is not null && write.Now < row.AskedAt + Pause)
                    return CommonRefusals.TooMany;
                if (row is null)
                    write.Rows.AddressCodes.Add(
                        row = new AddressCodeRow
                        {
                            WorkspaceId = write.Workspace.Id,
                            InvitationId = invitation.Id,
                            AccountId = account.Id,
                            CodeHash = "",
                            ExpiresAt = write.Now,
                            AskedAt = write.Now,
                        }
                    );
                row.CodeHash = HashOf(invitation.Id, account.Id, code);
                row.ExpiresAt = write.Now + Lifetime;
                row.AskedAt = write.Now;
                row.Tries = 0;
                outbox.Queue(
                    write,
                    Purposes.Code,
                    invitation.Address,
                    Letters.Code(invitation, write.Workspace, code, account.Address),
                    invitation.Id
                );
                write.Record(
                    "code.sent",
                    invitation.Id,
                    ("address", invitation.Address),
                    ("account", account.Address)
                );
                return true;
            }
        );
    }

    /// <summary>Whether a code is the one last mailed; every try counts, and after five of them none does.</summary>
    public async Task<Outcome<bool>> CheckAsync(FoundInvitation found, AccountRow account, string code) =>
        await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(account.Name, "page"),
            async write =>
            {
                var row = await write.Rows.AddressCodes.FirstOrDefaultAsync(c =>
                    c.InvitationId == found.Invitation.Id && c.AccountId == account.Id
                );
                if (row is null || row.Tries >= MostTries || write.Now >= row.ExpiresAt)
                    return false;
                row.Tries++;
                return CryptographicOperations.FixedTimeEquals(
                    Encoding.ASCII.GetBytes(row.CodeHash),
                    Encoding.ASCII.GetBytes(HashOf(found.Invitation.Id, account.Id, code.Trim()))
                );
            }
        );

    private static string HashOf(Guid invitation, Guid account, string code) =>
        Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes($"{invitation}:{account}:{code}")));
}
