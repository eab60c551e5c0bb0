using ComeAboard.Client.Departures;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Departures;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>
/// Ends the access of many: all of them are out with one change. What else there is to do for each – seats, tokens, links, what
/// passes to others, accounts elsewhere – is done afterwards, one by one, as it is for everybody whose time is over; a process that
/// dies over it leaves it to the next.
/// </summary>
public sealed class ManyEndings(WorkspaceWriter writer)
{
    private const int LotSize = 500;

    /// <summary>Ends it now, or sets the last day.</summary>
    /// <param name="visitor">Who asks.</param>
    /// <param name="people">Whose.</param>
    /// <param name="request">When, and who takes over.</param>
    public Task<Outcome<TakenTogether<Guid>>> EndAsync(
        Visitor visitor,
        IReadOnlyList<Guid> people,
        DepartureRequest request
    ) =>
        writer.WriteAsync<TakenTogether<Guid>>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.People)).Try(out var actor, out var refusal))
                    return refusal;
                Guid? heir = null;
                if (request.To is { Length: > 0 } to)
                {
                    if (await People.FindAsync(write.Rows, to) is not { } found)
                        return People.NotFound with { Field = "to" };
                    heir = found.Id;
                }
                return await EndAsync(write, actor, people, request.On, heir);
            }
        );

    private static async Task<Outcome<TakenTogether<Guid>>> EndAsync(
        WorkspaceWrite write,
        MemberRow actor,
        IReadOnlyList<Guid> people,
        DateOnly? on,
        Guid? heir
    )
    {
        var world = await write.WorldAsync();
        var lasting = AdministratorRule.Lasting(world, write.Today).ToHashSet();
        var (done, refused) = (new List<Guid>(), new List<(Guid, Refusal)>());
        var lastDay = on ?? write.Today.AddDays(-1);
        foreach (var lot in people.Where(id => id != heir).Chunk(LotSize))
        {
            var members = await write.MembersAsync(lot);
            var planned = await write
                .Rows.Departures.Where(d => lot.Contains(d.MemberId) && d.State == DepartureState.Planned)
                .ToDictionaryAsync(d => d.MemberId);
            var leaving = new List<Guid>();
            foreach (var id in lot)
            {
                var (member, before) = (members[id], planned.GetValueOrDefault(id));
                var facts = new LeaverFacts(
                    id,
                    member.Name,
                    member.Kind,
                    member.Stay,
                    !member.IsHere(write.Now, write.Workspace.Zone),
                    world
                )
                {
                    EndedBy = actor.Id,
                    Heir = heir,
                    Planned = before is { KnowsAgreed: true } ? new PlannedEnd(before.AgreedDay) : null,
                };
                var no =
                    GivingRules.ForbidsActingOn(world, actor.Id, id, write.Today)
                    ?? DeparturePlan.Forbids(facts, on, write.Today, lasting);
                if (no is not null)
                {
                    refused.Add((id, no));
                    continue;
                }
                lasting.Remove(id);
                if (before is not null)
                    before.State = DepartureState.Undone;
                write.Insert(Departure(write, member, facts, on));
                leaving.Add(id);
            }
            await PutOutAsync(write, leaving, lastDay);
            done.AddRange(leaving);
        }
        foreach (var id in people.Where(id => id == heir))
            refused.Add((id, TakesOver));
        write.Record(
            "departures.started",
            write.Workspace.Id,
            ("people", done.Count),
            ("last day", on?.ToString("yyyy-MM-dd")),
            ("taken over by", heir is { } to ? world.People.GetValueOrDefault(to)?.Name : null)
        );
        return new TakenTogether<Guid>(done, refused);
    }

    /// <summary>Sets the last day of many at once: row by row that is most of what the whole change costs.</summary>
    private static async Task PutOutAsync(WorkspaceWrite write, List<Guid> people, DateOnly lastDay)
    {
        await write
            .Rows.Members.Where(m => people.Contains(m.Id))
            .ExecuteUpdateAsync(set =>
                set.SetProperty(m => m.LastDay, lastDay).SetProperty(m => m.Version, m => m.Version + 1)
            );
        write.Rows.Touched.UnionWith(people.Select(id => new AccessSubject(AccessSubjectKind.Member, id)));
    }

    private static Refusal TakesOver { get; } =
        new(
            "departure.heir",
            "Whoever takes over what the others leave behind stays.",
            "Name somebody else.",
            RefusalSort.Conflict,
            "to"
        );

    private static DepartureRow Departure(
        WorkspaceWrite write,
        MemberRow member,
        LeaverFacts facts,
        DateOnly? on
    ) =>
        new()
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            MemberId = member.Id,
            MemberName = member.Name,
            MemberAddress = member.Address,
            State = DepartureState.Planned,
            LastDay = on,
            AgreedDay = facts.Planned is { } planned ? planned.AgreedDay : member.LastDay,
            KnowsAgreed = true,
            HeirId = facts.Heir,
            RequestedBy = write.Caller.Actor,
            RequestedByName = write.Caller.Name,
            RequestedAt = write.Now,
        };
}
