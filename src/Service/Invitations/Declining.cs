using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>How an invitee says no.</summary>
/// <param name="NotMe">Whether they say that somebody else was meant.</param>
/// <param name="DoNotInviteAgain">Whether no workspace may invite the address again.</param>
public sealed record No(bool NotMe, bool DoNotInviteAgain);

/// <summary>The invitee's side: saying no.</summary>
public sealed class Declining(
    Answering answering,
    AddressCodes codes,
    WorkspaceWriter writer,
    Consequences consequences
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
                    await OptOuts.AddAsync(write, invitation, isProved: !found.IsHandedOver);
                var facts = StepKnowledge.Bare(write, invitation, await write.WorldAsync());
                if (
                    !InvitationCourse
                        .Decline(facts, no.NotMe, no.DoNotInviteAgain)
                        .Try(out var what, out refusal)
                )
                    return no.DoNotInviteAgain ? true : refusal;
                await consequences.ApplyAsync(write, invitation, what);
                return true;
            }
        );
    }

    /// <summary>
    /// Lets an address be invited again whose owner asked not to be. Without a code one is mailed to it, and the answer is
    /// false; refuses with <c>code.wrong</c>.
    /// </summary>
    public async Task<Outcome<bool>> AllowAsync(FoundInvitation found, string? code, string via)
    {
        var address = EmailAddress.Read(found.Invitation.Address).Value;
        if (string.IsNullOrWhiteSpace(code))
            return (await codes.SendAsync(found, address, null, via, whateverState: true)).Try(
                out _,
                out var no
            )
                ? false
                : no;
        if (!await codes.IsShownAsync(found, address, null, code))
            return Answering.WrongCode;
        return await writer.WriteAsync<bool>(
            found.Workspace.Id,
            Caller.Invitee(found.Invitation.Address, via),
            async write =>
            {
                await OptOuts.LiftAsync(write, found.Invitation);
                return true;
            }
        );
    }
}
