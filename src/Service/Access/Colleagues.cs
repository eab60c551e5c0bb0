using ComeAboard.Client.Accounts;
using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>What the lead of an organisation sees and does: their own people, and inviting more of them.</summary>
public sealed class Colleagues(Database database, Inviting inviting, TimeProvider clock)
{
    /// <summary>The people of the lead's organisation and those invited; refuses with <c>right.not-lead</c>.</summary>
    public async Task<Outcome<ColleaguesView>> FindAsync(Visitor visitor)
    {
        if (Readiness.LeadsOf(visitor.World, visitor.Member.Id, visitor.Today) is not { } own)
            return NotLead;
        await using var rows = database.Open(visitor.WorkspaceId);
        var now = clock.Now();
        var people = await rows
            .Members.AsNoTracking()
            .Where(m => m.OrganisationId == own.Id && m.EndedAt == null)
            .OrderBy(m => m.Name)
            .ToListAsync();
        var invited = await rows
            .Invitations.AsNoTracking()
            .Where(i => i.OrganisationId == own.Id && i.IsPending)
            .OrderBy(i => i.Address)
            .ToListAsync();
        return new ColleaguesView(
            own.Name,
            own.Domains,
            own.Cap,
            own.AgreementEnds,
            [.. people.Select(m => new ColleagueView(m.Name, m.Address, m.LastDay, "here"))],
            [
                .. invited.Select(i => new ColleagueView(
                    i.Name,
                    i.Address,
                    i.LastDay,
                    InvitationLife.At(i.State, i.Deadline, now).Word()
                )),
            ]
        );
    }

    /// <summary>Invites a colleague: with what the organisation has, and nothing beside it.</summary>
    public Task<Outcome<InvitationView>> InviteAsync(Visitor visitor, ColleagueRequest request, string? key)
    {
        if (Readiness.LeadsOf(visitor.World, visitor.Member.Id, visitor.Today) is not { } own)
            return Task.FromResult<Outcome<InvitationView>>(NotLead);
        var until = new[] { request.Until, visitor.Member.LastDay, own.AgreementEnds }.Min();
        return inviting.SendAsync(
            visitor,
            new InvitationRequest(
                request.Address,
                own.Kind.Word(),
                null,
                request.Name,
                request.Message,
                until
            )
            {
                Organisation = own.Name,
            },
            key
        );
    }

    private static Refusal NotLead { get; } =
        new(
            "right.not-lead",
            "You are not the lead of an organisation here.",
            "Ask your contact in the workspace.",
            RefusalSort.NotAllowed
        );
}
