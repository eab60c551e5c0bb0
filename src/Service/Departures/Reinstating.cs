using ComeAboard.Client.Departures;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Taking an end back after it came about; the steps of the departure say what there is to be given back.</summary>
public sealed class Reinstating(WorkspaceWriter writer, Outbox outbox)
{
    /// <summary>Reinstates somebody, or tries it.</summary>
    public Task<Outcome<ReinstateView>> ReinstateAsync(Visitor visitor, string person) =>
        writer.WriteAsync<ReinstateView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                if (await People.FindAsync(write.Rows, person) is not { } member)
                    return People.NotFound;
                var departure = await write
                    .Rows.Departures.Where(d =>
                        d.MemberId == member.Id
                        && (d.State == DepartureState.Running || d.State == DepartureState.Done)
                    )
                    .OrderByDescending(d => d.Id)
                    .FirstOrDefaultAsync();
                var lines = new List<ReinstateLine>();
                foreach (var step in DepartureSteps.Read(departure?.Steps ?? ""))
                    lines.Add(new ReinstateLine(step, await StandsAsync(write, member, departure!, step)));
                var agreed = member.Stay with
                {
                    LastDay = departure is { KnowsAgreed: true } ? departure.AgreedDay : member.LastDay,
                };
                if (
                    !Reinstatement
                        .For(member.Name, member.EndedAt, agreed, write.Now, write.Today, lines)
                        .Try(out var plan, out refusal)
                )
                    return refusal;
                if (departure is null || member.ErasedAt is not null)
                    return NotByDeparture;
                if (
                    await write.Rows.Members.AnyAsync(m =>
                        m.AccountId == member.AccountId && m.EndedAt == null
                    )
                )
                    return HereAgain(member);
                if (await OrganisationFullAsync(write, member) is { } full)
                    return full;
                await GiveBackAsync(write, member, departure, plan);
                await write.SaveAsync();
                if (await write.TakeInAsync() is { } forbidden)
                    return forbidden;
                return
                    GivingRules.ForbidsActingOn(await write.WorldAsync(), actor.Id, member.Id, write.Today)
                        is { } beyond
                    ? beyond
                    : new ReinstateView(
                        new LeaverView(member.Id, member.Name, member.Address),
                        plan.Stay.LastDay,
                        [.. plan.Lines.Select(line => new ReinstateLineView(line.Sentence, line.IsRestored))]
                    );
            }
        );

    private static async Task<Refusal?> OrganisationFullAsync(WorkspaceWrite write, MemberRow member) =>
        member.OrganisationId is { } id
        && (await write.WorldAsync()).Organisations.TryGetValue(id, out var organisation)
            ? OrganisationRules.ForbidsMore(organisation, await Organisations.HeadcountAsync(write.Rows, id))
            : null;

    private static Refusal NotByDeparture { get; } =
        new(
            "reinstate.no-departure",
            "Their access did not end by a departure that could be taken back.",
            "Invite them again.",
            RefusalSort.Conflict
        );

    private static Refusal HereAgain(MemberRow member) =>
        new(
            "reinstate.here-again",
            $"{member.Name} is here again in another capacity.",
            "Change what they may do there.",
            RefusalSort.Conflict
        );

    private async Task GiveBackAsync(
        WorkspaceWrite write,
        MemberRow member,
        DepartureRow departure,
        Reinstatement plan
    )
    {
        var instant = member.EndedAt;
        (member.EndedAt, member.LastDay) = (null, plan.Stay.LastDay);
        member.Version++;
        departure.State = DepartureState.Undone;
        foreach (var line in plan.Lines.Where(line => line.Stands == LeftBehind.Free))
            await GiveBackAsync(write, member, line.Step);
        await write
            .Rows.AccountsThere.Where(a => a.DepartureId == departure.Id)
            .ExecuteUpdateAsync(set => set.SetProperty(a => a.DepartureId, (Guid?)null));
        write.Record(
            "member.reinstated",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("ended before", instant?.ToString("O")),
            ("last day after", plan.Stay.LastDay?.ToString("yyyy-MM-dd") ?? "none"),
            ("given back", Named(plan.Lines.Where(line => line.IsRestored))),
            ("stays with others", Named(plan.Lines.Where(line => line.Stands == LeftBehind.Taken)))
        );
        outbox.Queue(write, Purposes.News, member.Address, Letters.Reinstated(member, write.Workspace));
    }

    private static string? Named(IEnumerable<ReinstateLine> lines)
    {
        var names = lines
            .Where(line => line.Step.Deed is not (DepartureDeed.StopAccess or DepartureDeed.CloseSession))
            .Select(line => line.Step.Name)
            .ToList();
        return names.Count > 0 ? string.Join(", ", names) : null;
    }

    /// <summary>How what a step took away stands by now.</summary>
    private static async Task<LeftBehind> StandsAsync(
        WorkspaceWrite write,
        MemberRow member,
        DepartureRow departure,
        DepartureStep step
    )
    {
        var (rows, id, heir) = (write.Rows, step.Subject, step.Heir);
        return step.Deed switch
        {
            DepartureDeed.StopAccess => id == member.Id || await rows.Grants.AnyAsync(g => g.Id == id)
                ? LeftBehind.Follows
                : LeftBehind.Gone,
            DepartureDeed.CloseSession or DepartureDeed.StopList => LeftBehind.Never,
            DepartureDeed.RevokeToken => await rows.ApiTokens.AnyAsync(t =>
                t.Id == id && t.RevokedAt == departure.DoneAt && t.ExpiresAt > write.Now
            )
                ? LeftBehind.Free
                : LeftBehind.Gone,
            DepartureDeed.CloseLink => await rows.JoinLinks.AnyAsync(l =>
                l.Id == id && l.ClosedAt == departure.DoneAt && l.ExpiresAt > write.Now
            )
                ? LeftBehind.Free
                : LeftBehind.Gone,
            DepartureDeed.PassOnInvitation => await HeldAsync(
                rows.Invitations.Where(i => i.Id == id && (i.IsPending || i.State == InvitationState.Draft))
                    .Select(i => (Guid?)i.InvitedBy),
                heir
            ),
            DepartureDeed.PassOnHosting => await HeldAsync(
                rows.Invitations.Where(i => i.Id == id && (i.IsPending || i.State == InvitationState.Draft))
                    .Select(i => i.HostId),
                heir
            ),
            DepartureDeed.PassOnGuest => await HeldAsync(
                rows.Members.Where(m => m.Id == id && m.EndedAt == null).Select(m => m.HostId),
                heir
            ),
            DepartureDeed.HandOver => await HeldAsync(
                rows.Resources.Where(r => r.Id == id).Select(r => (Guid?)r.OwnerId),
                heir
            ),
            DepartureDeed.FreeSeat => await rows.SeatPools.FirstOrDefaultAsync(p => p.Id == id)
                is not { } pool
                ? LeftBehind.Gone
            : pool.AccountOn(write.Today).GiveBack().Succeeded ? LeftBehind.Free
            : LeftBehind.Taken,
            _ => LeftBehind.Follows,
        };
    }

    private static async Task<LeftBehind> HeldAsync(IQueryable<Guid?> holder, Guid? heir) =>
        await holder.ToListAsync() is not [var now] ? LeftBehind.Gone
        : now == heir ? LeftBehind.Free
        : LeftBehind.Taken;

    private static async Task GiveBackAsync(WorkspaceWrite write, MemberRow member, DepartureStep step)
    {
        var (rows, id) = (write.Rows, step.Subject);
        switch (step.Deed)
        {
            case DepartureDeed.RevokeToken:
                (await rows.ApiTokens.FirstAsync(t => t.Id == id)).RevokedAt = null;
                break;
            case DepartureDeed.CloseLink:
                var link = await rows.JoinLinks.FirstAsync(l => l.Id == id);
                (link.ClosedAt, link.Version) = (null, link.Version + 1);
                break;
            case DepartureDeed.PassOnInvitation or DepartureDeed.PassOnHosting:
                var invitation = await rows.Invitations.FirstAsync(i => i.Id == id);
                if (step.Deed == DepartureDeed.PassOnInvitation)
                    (invitation.InvitedBy, invitation.InvitedByName) = (member.Id, member.Name);
                else
                    (invitation.HostId, invitation.HostName) = (member.Id, member.Name);
                invitation.Version++;
                break;
            case DepartureDeed.PassOnGuest:
                var guest = await rows.Members.FirstAsync(m => m.Id == id);
                (guest.HostId, guest.HostName, guest.Version) = (member.Id, member.Name, guest.Version + 1);
                break;
            case DepartureDeed.HandOver:
                var resource = await rows.Resources.FirstAsync(r => r.Id == id);
                (resource.OwnerId, resource.Version) = (member.Id, resource.Version + 1);
                break;
            case DepartureDeed.FreeSeat:
                Seating.GiveBack(
                    write,
                    await Seating.PoolAsync(write, id),
                    member.Id,
                    member.Name,
                    step.Since ?? write.Now,
                    step.ForCustody
                );
                break;
        }
    }
}
