using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What the steps of some invitations need to know beside themselves, read in a handful of looks however many there are.</summary>
public sealed class StepKnowledge
{
    private readonly AccessWorld _world;
    private readonly KnownAddresses _known;

    private StepKnowledge(AccessWorld world, KnownAddresses known) => (_world, _known) = (world, known);

    /// <summary>Reads what is known of some invitations, and of an address one of them is to go to.</summary>
    public static async Task<StepKnowledge> ReadAsync(
        WorkspaceWrite write,
        Consequences consequences,
        IReadOnlyCollection<InvitationRow> invitations,
        EmailAddress? right = null
    )
    {
        var offers = invitations.Select(i => i.Offer).ToList();
        if (right is not null && offers.Count == 1)
            offers.Add(offers[0] with { Address = right });
        var known = await KnownAddresses.ReadAsync(write.Rows, offers);
        // An overdue one at the same address that nobody has noticed yet must not stand in the way.
        await known.ExpireOverdueAsync(write, consequences, [.. invitations.Select(i => i.Id)]);
        return new StepKnowledge(await write.WorldAsync(), known);
    }

    /// <summary>What an invitation knows by itself: enough for steps that reach nobody.</summary>
    public static StepFacts Bare(WorkspaceWrite write, InvitationRow invitation, AccessWorld world) =>
        Bare(write.Workspace, invitation, world, write.Now);

    /// <summary>What an invitation knows by itself at an instant.</summary>
    public static StepFacts Bare(
        WorkspaceRow workspace,
        InvitationRow invitation,
        AccessWorld world,
        DateTimeOffset now
    ) => new(invitation.Standing, world, WorkspaceRules.Of(workspace), now, workspace.Zone);

    /// <summary>What is known of one of the invitations, or of it at the right address.</summary>
    public async Task<StepFacts> OfAsync(
        WorkspaceWrite write,
        InvitationRow invitation,
        EmailAddress? right = null
    )
    {
        var offer = invitation.Offer;
        var pools = offer.Gives.Pools;
        return Bare(write, invitation, _world) with
        {
            Address = _known.Of(right ?? offer.Address, write.Now, write.Workspace.Zone, invitation.Id),
            // Those taken before it may have left fewer.
            Seats =
                pools.Count == 0
                    ? _known.Seats
                    : await write
                        .Rows.SeatPools.AsNoTracking()
                        .Where(p => pools.Contains(p.Id))
                        .ToDictionaryAsync(p => p.Id, p => p.Account),
            HasHost = _known.Host(offer.Host) is not null,
            OfOrganisation = offer.OrganisationId is { } own
                ? _known.OfOrganisation(own) - (invitation.IsPending ? 1 : 0)
                : 0,
            AnswererIsMember =
                invitation is { State: InvitationState.Waiting, AccountId: { } account }
                && await write.Rows.Members.AnyAsync(m => m.AccountId == account && m.EndedAt == null),
        };
    }

    /// <summary>Notes what a step has brought about, for those taken after it.</summary>
    public void Note(WorkspaceWrite write, InvitationRow invitation, InvitationConsequences what)
    {
        if (what.Revives)
            _known.NoteInvited(invitation.Offer, invitation.Id, invitation.Deadline, write.Today);
        else if (what.From?.IsPending() == true && !what.To.IsPending())
            _known.NoteOver(invitation.Offer, invitation.Id);
    }

    /// <summary>What accepting an invitation needs besides: the link it came by.</summary>
    public static async Task<StepFacts> WithLinkAsync(
        Storage.ComeAboardContext rows,
        StepFacts facts,
        InvitationRow invitation
    )
    {
        if (invitation.LinkId is not { } id)
            return facts;
        var link = await rows.JoinLinks.AsNoTracking().FirstAsync(l => l.Id == id);
        return facts with
        {
            Invitation = facts.Invitation with
            {
                Link = new JoinLinkStanding(link.StateAt(facts.Now), link.DomainList),
            },
        };
    }
}
