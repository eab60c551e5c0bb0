using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.AspNetCore.Identity;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What the page behind an invitation says, before anything is asked.</summary>
public sealed class Landing(Answering answering, Database database, AccessWorlds worlds, TimeProvider clock)
{
    /// <summary>Whether an account can answer an invitation without a code.</summary>
    public async Task<bool> HoldsAsync(Guid account, FoundInvitation found)
    {
        await using var rows = database.Open();
        var key = found.Invitation.AddressKey;
        // A link that was handed over proves nothing; an account with a proved address comes with that one.
        return found.IsHandedOver
            ? await rows.AccountAddresses.AnyAsync(a => a.AccountId == account && a.ProvedAt != null)
            : await rows.AccountAddresses.AnyAsync(a => a.AccountId == account && a.AddressKey == key);
    }

    /// <summary>What a link offers, if it still counts.</summary>
    public async Task<Outcome<LandingView>> ReadAsync(string? secret)
    {
        if (!(await answering.FindAsync(secret)).Try(out var found, out var refusal))
            return refusal;
        var invitation = found.Invitation;
        if (LinkRules.Forbids(invitation.State, invitation.Deadline, clock.Now()) is { } closed)
            return closed;
        var world = await worlds.OfAsync(found.Workspace);
        await using var rows = database.Open();
        var bearers = await rows
            .AccountAddresses.Where(a => a.AddressKey == invitation.AddressKey)
            .Select(a => a.ProvedAt)
            .ToListAsync();
        return new LandingView(
            found.Workspace.Name,
            invitation.InvitedByName,
            invitation.Address,
            invitation.Name,
            invitation.Kind.Word(),
            Bundles.Summary(invitation.Bundle, world),
            Bundles.Sentence(
                Phrases.Of(invitation.Language),
                world,
                invitation.Bundle,
                [],
                invitation.OrganisationId,
                invitation.Kind
            ),
            invitation.LastDay,
            invitation.Message,
            invitation.Deadline,
            !found.IsHandedOver && bearers.Any(proved => proved is not null)
        )
        {
            From = invitation.FirstDay,
            Host = invitation.HostName,
            Language = invitation.Language,
            NeedsApproval = InvitationCourse.NeedsApproval(
                StepKnowledge.Bare(found.Workspace, invitation, world, clock.Now())
            ),
            HandedBy = found.IsHandedOver ? invitation.HandedByName : "",
            IsBorneUnproved =
                !found.IsHandedOver && bearers.Count > 0 && bearers.All(proved => proved is null),
        };
    }
}
