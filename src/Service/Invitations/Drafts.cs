using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Drafts of invitations, changed before they are sent.</summary>
public sealed class Drafts(WorkspaceWriter writer, Inviting inviting)
{
    /// <summary>Changes a draft: everything it carries is replaced.</summary>
    public async Task<Outcome<InvitationView>> ChangeAsync(
        Visitor visitor,
        Guid id,
        InvitationRequest request,
        int? expectedVersion,
        DateTimeOffset now
    )
    {
        if (!(await inviting.ReadAsync(request, visitor, null, now)).Try(out var offer, out var refusal))
            return refusal;
        return await writer.WriteAsync<InvitationView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out var member, out var no))
                    return no;
                if (await write.Rows.Invitations.FirstOrDefaultAsync(i => i.Id == id) is not { } invitation)
                    return CommonRefusals.NotFound;
                if (invitation.IsStale(expectedVersion))
                    return CommonRefusals.Stale;
                if (invitation.State != InvitationState.Draft)
                    return new Refusal(
                        "invitation.no-draft",
                        $"The invitation is {invitation.State.Word()}; only a draft can be changed.",
                        "Revoke it and send another, or correct its address.",
                        RefusalSort.Conflict
                    );
                var world = await write.WorldAsync();
                // Both what it gave and what it is to give: whoever changes it becomes answerable for it.
                if (InvitationCourse.ForbidsDraft(world, member.Id, offer, write.Today) is { } right)
                    return right;
                var known = await KnownAddresses.ReadAsync(write.Rows, [offer]);
                var fresh = offer.ToRow(write.Workspace, member, known.Host(offer.Host), write.Now);
                write
                    .Rows.Entry(invitation)
                    .CurrentValues.SetValues(
                        new
                        {
                            fresh.Address,
                            fresh.AddressKey,
                            fresh.Name,
                            fresh.Kind,
                            fresh.Gives,
                            fresh.OrganisationId,
                            fresh.FirstDay,
                            fresh.LastDay,
                            fresh.Message,
                            fresh.Language,
                            fresh.AnswerSeconds,
                            fresh.HostId,
                            fresh.HostName,
                            fresh.InvitedBy,
                            fresh.InvitedByName,
                        }
                    );
                invitation.WithDetails(offer.Details);
                await Consequences.RecordDecidedAsync(write, write.Caller, invitation, "invitation.changed");
                invitation.LastStepAt = write.Now;
                invitation.Version++;
                return InvitationViews.Of(invitation, null, write.Now, world, write.Workspace);
            }
        );
    }
}
