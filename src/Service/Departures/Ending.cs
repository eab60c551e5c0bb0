using ComeAboard.Client.Departures;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Ending one member's access: the plan, and carrying it out at once or when its day is over.</summary>
public sealed class Ending(Database database, WorkspaceWriter writer, Outbox outbox, TimeProvider clock)
{
    /// <summary>Shows what ending would do. Changes nothing.</summary>
    public async Task<Outcome<DeparturePlanView>> PlanAsync(Visitor visitor, string person, DateOnly? on)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound;
        var now = clock.Now();
        var facts = await GatherAsync(rows, member, visitor.Workspace, visitor.World, now);
        var view = await People.ViewAsync(rows, member, now, visitor.Workspace, visitor.World);
        return DeparturePlan
            .For(facts, on, Core.Workspaces.Days.Of(now, visitor.Workspace.Zone))
            .Try(out var plan, out var refusal)
            ? new DeparturePlanView(view, on, plan.Losses, plan.Stays, null)
            : new DeparturePlanView(view, on, [], [], refusal.ToProblem());
    }

    /// <summary>Ends access now, or sets its last day.</summary>
    public Task<Outcome<DepartureView>> EndAsync(
        Visitor visitor,
        string person,
        DateOnly? on,
        int? expectedVersion = null
    ) =>
        writer.WriteAsync<DepartureView>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out _, out var refusal))
                    return refusal;
                if (await People.FindAsync(write.Rows, person) is not { } member)
                    return People.NotFound;
                if (expectedVersion is { } version && version != member.Version)
                    return CommonRefusals.Stale;
                var facts = await GatherAsync(
                    write.Rows,
                    member,
                    write.Workspace,
                    await write.WorldAsync(),
                    write.Now
                );
                if (!DeparturePlan.For(facts, on, write.Today).Try(out _, out refusal))
                    return refusal;
                var departure = await ReplacePlanAsync(write, member, on);
                if (on is null)
                    await CarryOutAsync(write, member, departure);
                else
                    Schedule(write, member, on.Value);
                return ViewOf(departure);
            }
        );

    /// <summary>Finishes a stay whose last day is over, on behalf of whoever planned it.</summary>
    public async Task FinishAsync(WorkspaceWrite write, MemberRow member)
    {
        var departure =
            await write.Rows.Departures.FirstOrDefaultAsync(d =>
                d.MemberId == member.Id && d.State == DepartureState.Planned
            ) ?? Add(write, member, member.LastDay);
        await CarryOutAsync(write, member, departure);
    }

    /// <summary>A departure as it goes over the wire.</summary>
    public static DepartureView ViewOf(DepartureRow row) =>
        new(
            row.Id,
            row.MemberId,
            row.MemberName,
            row.MemberAddress,
            row.State.ToString().ToLowerInvariant(),
            row.LastDay,
            row.RequestedByName,
            row.RequestedAt,
            row.DoneAt
        );

    private static void Schedule(WorkspaceWrite write, MemberRow member, DateOnly on)
    {
        write.Record(
            "departure.planned",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("last day before", member.LastDay?.ToString("yyyy-MM-dd") ?? "none"),
            ("last day after", on.ToString("yyyy-MM-dd"))
        );
        member.LastDay = on;
        member.Version++;
    }

    private async Task CarryOutAsync(WorkspaceWrite write, MemberRow member, DepartureRow departure)
    {
        departure.State = DepartureState.Done;
        departure.DoneAt = write.Now;
        member.EndedAt = write.Now;
        member.Version++;
        var tokens = await RevokeTokensAsync(write, member);
        var sessions = await CloseSessionsAsync(write, member);
        var passed = await PassOnInvitationsAsync(write, member);
        var seats = await Seating.TakeAllAsync(write, member.Id, member.Name);
        var owned = await PassOnResourcesAsync(write, member);
        write.Record(
            "member.ended",
            member.Id,
            ("name", member.Name),
            ("address", member.Address),
            ("kind", member.Kind.Word()),
            ("gives before", Bundles.SummaryOf(await write.WorldAsync(), member.Id)),
            ("gives after", "none"),
            ("seats freed", seats.Count > 0 ? string.Join(", ", seats) : null),
            ("resources passed on", owned.Count > 0 ? string.Join(", ", owned) : null),
            ("sessions closed", sessions),
            ("tokens revoked", tokens),
            ("invitations passed on", passed)
        );
        outbox.Queue(write, Purposes.Notice, member.Address, Letters.Ended(member, write.Workspace));
    }

    private static async Task<int> RevokeTokensAsync(WorkspaceWrite write, MemberRow member)
    {
        var tokens = await write
            .Rows.ApiTokens.Where(t => t.MemberId == member.Id && t.RevokedAt == null)
            .ToListAsync();
        foreach (var token in tokens)
            token.RevokedAt = write.Now;
        return tokens.Count;
    }

    private static async Task<int> CloseSessionsAsync(WorkspaceWrite write, MemberRow member)
    {
        if (await OtherWorkspacesAsync(write.Rows, member) > 0)
            return 0;
        var sessions = await write.Rows.Sessions.Where(s => s.AccountId == member.AccountId).ToListAsync();
        write.Rows.Sessions.RemoveRange(sessions);
        return sessions.Count;
    }

    /// <summary>What a leaver asked is asked by whoever ends them from now on, so that every open question has an owner.</summary>
    private static async Task<int> PassOnInvitationsAsync(WorkspaceWrite write, MemberRow leaver)
    {
        var pending = await write
            .Rows.Invitations.Where(i =>
                i.InvitedBy == leaver.Id && (i.IsPending || i.State == InvitationState.Draft)
            )
            .ToListAsync();
        if (pending.Count == 0)
            return 0;
        var heir =
            (
                write.Caller.MemberId is { } caller
                    ? await write.Rows.Members.FirstOrDefaultAsync(m => m.Id == caller && m.Id != leaver.Id)
                    : null
            ) ?? await LastingAdministratorAsync(write, leaver.Id);
        foreach (var invitation in pending)
        {
            invitation.InvitedBy = heir.Id;
            invitation.Version++;
            write.Record(
                "invitation.passed-on",
                invitation.Id,
                ("address", invitation.Address),
                ("before", leaver.Name),
                ("after", heir.Name)
            );
        }
        return pending.Count;
    }

    /// <summary>What a leaver owned is owned by whoever ends them: nothing is left without somebody answerable.</summary>
    private static async Task<IReadOnlyList<string>> PassOnResourcesAsync(
        WorkspaceWrite write,
        MemberRow leaver
    )
    {
        var owned = await write.Rows.Resources.Where(r => r.OwnerId == leaver.Id).ToListAsync();
        if (owned.Count == 0)
            return [];
        var heir =
            write.Caller.MemberId is { } caller && caller != leaver.Id
                ? caller
                : (await LastingAdministratorAsync(write, leaver.Id)).Id;
        foreach (var resource in owned)
        {
            resource.OwnerId = heir;
            resource.Version++;
            write.Record(
                "resource.handed-over",
                resource.Id,
                ("name", resource.Name),
                ("before", leaver.Name)
            );
        }
        return [.. owned.Select(r => r.Name)];
    }

    private static async Task<MemberRow> LastingAdministratorAsync(WorkspaceWrite write, Guid except)
    {
        var heir = AdministratorRule
            .Lasting(await write.WorldAsync(), write.Today)
            .Where(id => id != except)
            .Order()
            .First();
        return await write.Rows.Members.FirstAsync(m => m.Id == heir);
    }

    private static async Task<DepartureRow> ReplacePlanAsync(
        WorkspaceWrite write,
        MemberRow member,
        DateOnly? on
    )
    {
        var planned = await write
            .Rows.Departures.Where(d => d.MemberId == member.Id && d.State == DepartureState.Planned)
            .ToListAsync();
        foreach (var old in planned)
            old.State = DepartureState.Undone;
        return Add(write, member, on);
    }

    private static DepartureRow Add(WorkspaceWrite write, MemberRow member, DateOnly? on)
    {
        var departure = new DepartureRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            MemberId = member.Id,
            MemberName = member.Name,
            MemberAddress = member.Address,
            State = DepartureState.Planned,
            LastDay = on,
            RequestedBy = write.Caller.Actor,
            RequestedByName = write.Caller.Name,
            RequestedAt = write.Now,
        };
        write.Rows.Departures.Add(departure);
        return departure;
    }

    private static async Task<LeaverFacts> GatherAsync(
        ComeAboardContext rows,
        MemberRow member,
        WorkspaceRow workspace,
        AccessWorld world,
        DateTimeOffset now
    )
    {
        var today = Core.Workspaces.Days.Of(now, workspace.Zone);
        var lasting = AdministratorRule.Lasting(world, today).Take(2).ToList();
        var pools = await (
            from seat in rows.Seats
            join pool in rows.SeatPools on seat.PoolId equals pool.Id
            where seat.MemberId == member.Id
            select pool.Name
        ).ToListAsync();
        return new LeaverFacts(
            member.Name,
            member.Address,
            member.Kind,
            LossesOf(world, member),
            member.Stay,
            !member.IsHere(now, workspace.Zone),
            await rows.Sessions.CountAsync(s => s.AccountId == member.AccountId && s.ExpiresAt > now),
            await rows.ApiTokens.CountAsync(t => t.MemberId == member.Id && t.RevokedAt == null),
            await rows.Invitations.CountAsync(i =>
                i.InvitedBy == member.Id && (i.IsPending || i.State == InvitationState.Draft)
            ),
            await OtherWorkspacesAsync(rows, member),
            lasting is [var only] && only == member.Id,
            pools,
            [.. world.Resources.Values.Where(r => r.Owner == member.Id).Select(r => r.Name).Order()]
        );
    }

    /// <summary>What is given to somebody, a sentence for each way.</summary>
    private static List<string> LossesOf(AccessWorld world, MemberRow member)
    {
        if (!world.People.TryGetValue(member.Id, out var person))
            return [];
        var losses = world
            .PathsOf(person)
            .Where(path => world.Roles.ContainsKey(path.Grant.RoleId))
            .Select(path =>
            {
                var role = world.Roles[path.Grant.RoleId];
                var through = path.Through switch
                {
                    HolderKind.Group => $", through the group {world.Groups[path.HolderId].Name}",
                    HolderKind.Organisation => $", through {world.Organisations[path.HolderId].Name}",
                    _ => "",
                };
                // Its sentence speaks of the whole workspace.
                return path.Grant.ResourceId is { } at && world.Resources.TryGetValue(at, out var resource)
                    ? $"The role {role.Name} at {resource.Name}{through}: {role.LevelIn(resource.AreaId).Word()}."
                    : $"The role {role.Name} in the whole workspace{through}. {role.SentenceFor(member.Kind)}";
            })
            .ToList();
        return losses.Count > 0
            ? losses
            : ["Nothing is given to them; they lose their place in the workspace."];
    }

    private static Task<int> OtherWorkspacesAsync(ComeAboardContext rows, MemberRow member) =>
        rows
            .Members.IgnoreQueryFilters()
            .CountAsync(m =>
                m.AccountId == member.AccountId && m.WorkspaceId != member.WorkspaceId && m.EndedAt == null
            );
}
