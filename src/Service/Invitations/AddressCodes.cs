using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Codes by which whoever answers an invitation shows that they read a mailbox.</summary>
public sealed class AddressCodes(WorkspaceWriter writer, Outbox outbox, Budgets budgets)
{
    private const int MostTries = 5;

    // Whoever holds a link that was handed over may name any address: neither the link nor anybody's mailbox is a toy.
    private const int MostByLink = 12;
    private const int MostToAddress = 8;
    private static readonly TimeSpan Hour = TimeSpan.FromHours(1);
    private static readonly TimeSpan Lifetime = TimeSpan.FromMinutes(10);
    private static readonly TimeSpan Pause = TimeSpan.FromSeconds(30);

    /// <summary>Mails a code to an address.</summary>
    /// <param name="found">The invitation that is to be answered.</param>
    /// <param name="to">The address that is to be proved.</param>
    /// <param name="account">The account of whoever asks; null for somebody without one.</param>
    /// <param name="via">Through what they ask.</param>
    /// <param name="whateverState">Whether the invitation need not await an answer any more.</param>
    public async Task<Outcome<bool>> SendAsync(
        FoundInvitation found,
        EmailAddress to,
        AccountRow? account,
        string via,
        bool whateverState = false
    )
    {
        var holder = account?.Id ?? Guid.Empty;
        if (
            await budgets.TakeAsync("code-by", found.Invitation.Id.ToString(), MostByLink, Hour) is not null
            || await budgets.TakeAsync("code-to", to.Key, MostToAddress, Hour) is not null
        )
            return CommonRefusals.TooMany;
        var code = RandomNumberGenerator.GetInt32(100_000_000).ToString("D8", CultureInfo.InvariantCulture);
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(account?.Name ?? to.ToString(), via),
            async write =>
            {
                var invitation = await write
                    .Rows.Invitations.AsNoTracking()
                    .FirstAsync(i => i.Id == found.Invitation.Id);
                if (
                    !whateverState
                    && LinkRules.Forbids(invitation.State, invitation.Deadline, write.Now) is { } closed
                )
                    return closed;
                var row = await write.Rows.AddressCodes.FirstOrDefaultAsync(c =>
                    c.InvitationId == invitation.Id && c.AccountId == holder && c.AddressKey == to.Key
                );
                if (row is not null && write.Now < row.AskedAt + Pause)
                    return CommonRefusals.TooMany;
                if (row is null)
                    write.Rows.AddressCodes.Add(
                        row = new AddressCodeRow
                        {
                            WorkspaceId = write.Workspace.Id,
                            InvitationId = invitation.Id,
                            AccountId = holder,
                            AddressKey = to.Key,
                            CodeHash = "",
                            ExpiresAt = write.Now,
                            AskedAt = write.Now,
                        }
                    );
                row.CodeHash = HashOf(invitation.Id, holder, to, code);
                row.ExpiresAt = write.Now + Lifetime;
                row.AskedAt = write.Now;
                row.Tries = 0;
                outbox.Queue(
                    write,
                    Purposes.Code,
                    to.ToString(),
                    Letters.Code(invitation, write.Workspace, code, (account?.Address ?? to.ToString())),
                    invitation.Id
                );
                write.Record(
                    "code.sent",
                    invitation.Id,
                    ("address", to.ToString()),
                    ("account", account?.Address)
                );
                return true;
            }
        );
    }

    /// <summary>Whether a code is the one last mailed; every try counts, and after five of them none does.</summary>
    public async Task<Outcome<bool>> CheckAsync(
        FoundInvitation found,
        EmailAddress to,
        AccountRow? account,
        string code
    )
    {
        var holder = account?.Id ?? Guid.Empty;
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(account?.Name ?? to.ToString(), "page"),
            async write =>
            {
                var row = await write.Rows.AddressCodes.FirstOrDefaultAsync(c =>
                    c.InvitationId == found.Invitation.Id && c.AccountId == holder && c.AddressKey == to.Key
                );
                if (row is null || row.Tries >= MostTries || write.Now >= row.ExpiresAt)
                    return false;
                row.Tries++;
                return CryptographicOperations.FixedTimeEquals(
                    Encoding.ASCII.GetBytes(row.CodeHash),
                    Encoding.ASCII.GetBytes(HashOf(found.Invitation.Id, holder, to, code.Trim()))
                );
            }
        );
    }

    private static string HashOf(Guid invitation, Guid account, EmailAddress to, string code) =>
        Convert.ToHexStringLower(
            SHA256.HashData(Encoding.UTF8.GetBytes($"{invitation}:{account}:{to.Key}:{code}"))
        );
}
