using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>How an invitee says no.</summary>
/// <param name="NotMe">Whether they say that somebody else was meant.</param>
/// <param name="DoNotInviteAgain">Whether no workspace may invite the address again.</param>
public sealed record No(bool NotMe, bool DoNotInviteAgain);

/// <summary>The invitee's side: saying no.</summary>
public sealed class Declining(
    Answering answering,
    WorkspaceWriter writer,
    Outbox outbox,
    ServiceSettings settings
)
{
    /// <summary>Declines. Not to be invited again is honoured even when the link no longer counts.</summary>
    public async Task<Outcome<bool>> DeclineAsync(string? secret, No no, string via)
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(found.Invitation.Address, via),
            async write =>
            {
                var invitation = await write.Rows.Invitations.FirstAsync(i => i.Id == found.Invitation.Id);
                if (no.DoNotInviteAgain)
                    await OptOutAsync(write, invitation);
                var closed = LinkRules.Forbids(invitation.State, invitation.Deadline, write.Now);
                if (closed is not null)
                    return no.DoNotInviteAgain ? true : closed;
                if (
                    !InvitationLife
                        .Take(invitation.State, InvitationStep.Decline, invitation.Deadline, write.Now)
                        .Try(out var next, out refusal)
                )
                    return refusal;
                if (invitation.State == InvitationState.Waiting)
                    await JoinLinks.GiveBackAsync(write, invitation);
                InvitationSteps.Put(write, invitation, next);
                invitation.AnsweredAt = write.Now;
                await Outbox.WithdrawAsync(write, invitation);
                write.Record(
                    "invitation.declined",
                    invitation.Id,
                    ("address", invitation.Address),
                    ("reason", no.NotMe ? "somebody else was meant" : null)
                );
                var link = settings.Link($"/w/{write.Workspace.ShortName}/invite/{invitation.Id}");
                await outbox.TellAsync(
                    write,
                    invitation.InvitedBy,
                    _ => Letters.Declined(invitation, write.Workspace, no, link)
                );
                return true;
            }
        );
    }

    private static async Task OptOutAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var hash = Inviting.OptOutHash(EmailAddress.Read(invitation.Address).Value);
        if (await write.Rows.OptOuts.AnyAsync(o => o.AddressHash == hash))
            return;
        write.Rows.OptOuts.Add(new OptOutRow { AddressHash = hash, At = write.Now });
        write.Record("address.opted-out", invitation.Id, ("address", invitation.Address));
    }
}
