using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.SignIn;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Codes by which whoever answers an invitation shows that they read a mailbox.</summary>
public sealed class AddressCodes(WorkspaceWriter writer, Outbox outbox, MailedCodes codes)
{
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
        var what = Of(found, to, account);
        if (await codes.ForbidsAnotherAsync(what) is { } enough)
            return enough;
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
                if (
                    !(await MailedCodes.RenewAsync(write.Rows, what, write.Now)).Try(
                        out var code,
                        out var refusal
                    )
                )
                    return refusal;
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

    /// <summary>Whether a code is the one last mailed; what is answered with it can be answered once.</summary>
    public Task<bool> IsShownAsync(
        FoundInvitation found,
        EmailAddress to,
        AccountRow? account,
        string code
    ) => codes.IsShownAsync(Of(found, to, account), code, isOnce: false);

    private static CodeFor Of(FoundInvitation found, EmailAddress to, AccountRow? account) =>
        new(CodePurpose.Answer, found.Invitation.Id, account?.Id ?? Guid.Empty, to);
}
