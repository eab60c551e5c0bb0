using ComeAboard.Core.Invitations;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;

namespace ComeAboard.Service.Mail;

/// <summary>What an invitation learns from its mail.</summary>
public sealed class DeliverySteps(Consequences consequences)
{
    /// <summary>The mail server took the invitation, or a reminder of it.</summary>
    public async Task NoteSentAsync(WorkspaceWrite write, DeliveryRow delivery, InvitationRow invitation)
    {
        if (delivery.Purpose == Purposes.Reminder)
        {
            write.Record("invitation.reminded", invitation.Id, ("address", invitation.Address));
            return;
        }
        var facts = StepKnowledge.Bare(write, invitation, await write.WorldAsync());
        if (InvitationCourse.NoteSent(facts).Try(out var what, out _))
            await consequences.ApplyAsync(write, invitation, what);
    }

    /// <summary>The mail came back for good: the invitation is bounced, and the address is not written to lightly again.</summary>
    public async Task NoteBouncedAsync(WorkspaceWrite write, InvitationRow invitation, string answer)
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
        var facts = StepKnowledge.Bare(write, invitation, await write.WorldAsync());
        if (InvitationCourse.NoteBounced(facts, kept).Try(out var what, out _))
            await consequences.ApplyAsync(write, invitation, what);
    }
}
