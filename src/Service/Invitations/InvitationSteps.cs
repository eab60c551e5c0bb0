using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What is done to an invitation that exists: resend, revoke, expire.</summary>
public sealed class InvitationSteps(WorkspaceWriter writer, Inviting inviting, Outbox outbox)
{
    /// <summary>Sends it again: a new secret and a new deadline; the old link is dead.</summary>
    public Task<Outcome<InvitationView>> ResendAsync(Visitor visitor, Guid id, int? expectedVersion) =>
        StepAsync(
            visitor,
            id,
            expectedVersion,
            InvitationStep.Resend,
            async (write, invitation) =>
            {
                var address = EmailAddress.Read(invitation.Address).Value;
                var known = await KnownAddresses.ReadAsync(write.Rows, [address]);
                var standing = known.Of(address, write.Now, write.Workspace.Zone);
                var others =
                    standing.PendingId == invitation.Id ? standing with { PendingId = null } : standing;
                if (InvitingRules.Forbids(address, others) is { } refusal)
                    return refusal;
                if (new Core.Workspaces.Stay(invitation.LastDay).IsOver(write.Now, write.Workspace.Zone))
                    return new Refusal(
                        "stay.past",
                        $"The stay it offers ended on {invitation.LastDay:yyyy-MM-dd}.",
                        "Revoke it and send a new invitation with a later last day.",
                        RefusalSort.Conflict
                    );
                await Outbox.WithdrawAsync(write, invitation);
                var secret = ApiTokens.NewSecret();
                invitation.SecretHash = secret.Hash().Value;
                invitation.Deadline = write.Now + TimeSpan.FromSeconds(invitation.AnswerSeconds);
                invitation.SentAt = null;
                invitation.SeenAt = null;
                invitation.Resends++;
                outbox.Queue(
                    write,
                    Purposes.Invitation,
                    invitation.Address,
                    inviting.Compose(invitation, write.Workspace, secret.Reveal()),
                    invitation.Id
                );
                write.Record("invitation.resent", invitation.Id, ("address", invitation.Address));
                return null;
            }
        );

    /// <summary>Takes it back: its link is dead and mail not yet sent stays unsent.</summary>
    public Task<Outcome<InvitationView>> RevokeAsync(Visitor visitor, Guid id, int? expectedVersion) =>
        StepAsync(
            visitor,
            id,
            expectedVersion,
            InvitationStep.Revoke,
            async (write, invitation) =>
            {
                await Outbox.WithdrawAsync(write, invitation);
                write.Record("invitation.revoked", invitation.Id, ("address", invitation.Address));
                return null;
            }
        );

    /// <summary>Notes that an invitation's deadline has passed.</summary>
    public static async Task ExpireAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        if (
            !InvitationLife
                .Take(invitation.State, InvitationStep.Expire, invitation.Deadline, write.Now)
                .Try(out var next, out _)
        )
            return;
        Put(write, invitation, next);
        await Outbox.WithdrawAsync(write, invitation);
        write.RecordBy(Caller.Clock, "invitation.expired", invitation.Id, ("address", invitation.Address));
    }

    /// <summary>Moves an invitation to a state it may go to.</summary>
    public static void Put(WorkspaceWrite write, InvitationRow invitation, InvitationState next)
    {
        write.Move(invitation.State, next);
        invitation.State = next;
        invitation.LastStepAt = write.Now;
        invitation.Version++;
    }

    private Task<Outcome<InvitationView>> StepAsync(
        Visitor visitor,
        Guid id,
        int? expectedVersion,
        InvitationStep step,
        Func<WorkspaceWrite, InvitationRow, Task<Refusal?>> carryOut
    ) =>
        writer.WriteAsync<InvitationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var refusal))
                    return refusal;
                var invitation = await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id);
                if (invitation is null)
                    return CommonRefusals.NotFound;
                if (expectedVersion is { } version && version != invitation.Version)
                    return CommonRefusals.Stale;
                if (
                    !InvitationLife
                        .Take(invitation.State, step, invitation.Deadline, write.Now)
                        .Try(out var next, out refusal)
                )
                    return refusal;
                if (await carryOut(write, invitation) is { } forbidden)
                    return forbidden;
                Put(write, invitation, next);
                return InvitationViews.Of(invitation, null, write.Now);
            }
        );
}
