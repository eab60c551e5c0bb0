using ComeAboard.Core.Invitations;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;

namespace ComeAboard.Service.Mail;

/// <summary>What an invitation learns from its mail.</summary>
public static class DeliverySteps
{
    /// <summary>The mail server took the invitation: from now on it is reminded of.</summary>
    public static void NoteSent(WorkspaceWrite write, DeliveryRow delivery, InvitationRow invitation)
    {
        if (delivery.Purpose == Purposes.Reminder)
        {
            write.Record("invitation.reminded", invitation.Id, ("address", invitation.Address));
            return;
        }
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Send, invitation.Deadline, write.Now)
                .Try(out var next, out _)
        )
            return;
        InvitationSteps.Put(write, invitation, next);
        invitation.SentAt = write.Now;
        invitation.NextReminderAt = Reminders.Next(
            write.Now,
            WorkspaceRules.Of(write.Workspace).ReminderDays,
            invitation.Deadline,
            write.Now
        );
        write.Record("invitation.sent", invitation.Id, ("address", invitation.Address));
    }

    /// <summary>The mail came back for good: the invitation is bounced, and the address is not written to lightly again.</summary>
    public static async Task NoteBouncedAsync(WorkspaceWrite write, InvitationRow invitation, string answer)
    {
        var kept = answer.Length > 500 ? answer[..500] : answer;
        var known = await write.Rows.BouncedAddresses.FindAsync(write.Workspace.Id, invitation.AddressKey);
        if (known is null)
            write.Rows.BouncedAddresses.Add(
                new BouncedAddressRow
                {
                    WorkspaceId = write.Workspace.Id,
                    AddressKey = invitation.AddressKey,
                    Address = invitation.Address,
                    Answer = kept,
                    At = write.Now,
                }
            );
        else
            (known.Answer, known.At) = (kept, write.Now);
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Bounce, invitation.Deadline, write.Now)
                .Try(out var next, out _)
        )
            return;
        InvitationSteps.Put(write, invitation, next);
        invitation.NextReminderAt = null;
        write.Record("invitation.bounced", invitation.Id, ("address", invitation.Address), ("answer", kept));
    }
}
