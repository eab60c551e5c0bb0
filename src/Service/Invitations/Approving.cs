using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Approving or turning down what invitees accepted where approval is due.</summary>
public sealed class Approving(Joining joining, Outbox outbox)
{
    /// <summary>Lets the person in, as the invitation says.</summary>
    public async Task<Refusal?> ApproveAsync(
        WorkspaceWrite write,
        MemberRow approver,
        InvitationRow invitation
    )
    {
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Approve, invitation.Deadline, write.Now)
                .Try(out var next, out var refusal)
        )
            return refusal;
        // Nobody lets in with more than they hold themselves.
        var world = await write.WorldAsync();
        if (GivingRules.Forbids(world, approver.Id, invitation.Bundle, write.Today) is { } right)
            return right;
        if (
            invitation.OrganisationId is { } own
            && world.Organisations.TryGetValue(own, out var organisation)
            && GivingRules.Forbids(world, approver.Id, organisation.Grants, write.Today) is { } through
        )
            return through;
        if (invitation.Stay.IsOver(write.Now, write.Workspace.Zone))
            return new Refusal(
                "stay.past",
                $"The stay it offers ended on {invitation.LastDay:yyyy-MM-dd}.",
                "Refuse it and send a new invitation with a later last day.",
                RefusalSort.Conflict
            );
        var account = await write.Rows.Accounts.FirstAsync(a => a.Id == invitation.AccountId);
        if (await write.Rows.Members.AnyAsync(m => m.AccountId == account.Id && m.EndedAt == null))
            return new Refusal(
                "account.member",
                "The account that accepted is a member here by now.",
                "Refuse it.",
                RefusalSort.Conflict
            );
        write.Record("invitation.approved", invitation.Id, ("address", invitation.Address));
        InvitationSteps.Put(write, invitation, next);
        await joining.JoinAsync(write, account, invitation);
        return null;
    }

    /// <summary>Turns the acceptance down; the person is told, with the reason if one is given.</summary>
    public async Task<Refusal?> RefuseAsync(WorkspaceWrite write, InvitationRow invitation, string? reason)
    {
        if (!PlainText.ReadMessage(reason).Try(out var words, out var refusal))
            return refusal with { Field = "reason" };
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Refuse, invitation.Deadline, write.Now)
                .Try(out var next, out refusal)
        )
            return refusal;
        InvitationSteps.Put(write, invitation, next);
        write.Record(
            "invitation.refused",
            invitation.Id,
            ("address", invitation.Address),
            ("reason", words.Length > 0 ? words : null)
        );
        await JoinLinks.GiveBackAsync(write, invitation);
        outbox.Queue(
            write,
            Purposes.Notice,
            invitation.Address,
            Letters.NotApproved(invitation, write.Workspace, words),
            invitation.Id
        );
        return null;
    }
}
