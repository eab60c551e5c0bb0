using System.Text.Json;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>
/// Moving people who have a role directly under a group that has it, in one change: looked at person by person before it is
/// kept, so that nobody loses anything on any day. The last move of a group can be undone.
/// </summary>
public sealed class MoveIns(Editing editing)
{
    /// <summary>What was moved, as it is kept.</summary>
    private sealed record Kept(Guid Through, bool IsGiven, IReadOnlyList<KeptPerson> People);

    private sealed record KeptPerson(Guid Member, bool Joined, IReadOnlyList<KeptGrant> Grants);

    private sealed record KeptGrant(
        Guid Id,
        Guid Role,
        Guid? Resource,
        DateOnly? FirstDay,
        DateOnly? LastDay,
        DateTimeOffset GivenAt,
        string GivenByName
    );

    private sealed record Done(string Group, string Gives, IReadOnlyList<MovedInView> People);

    /// <summary>Moves them, or tries it.</summary>
    public async Task<Outcome<MoveInAnswer>> MoveAsync(
        Visitor visitor,
        string group,
        MoveInRequest request,
        bool dryRun
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var into, out var refusal))
            return refusal;
        return Answer(
            await editing.EditAsync<Done>(
                visitor,
                new EditMode(Groups.Sort.Duty, dryRun),
                (write, editor) => MoveAsync(write, editor, into.Id, request)
            )
        );
    }

    /// <summary>
    /// Undoes the last move into a group; refuses with <c>move.none</c>, and with <c>move.changed</c> where the group has the role
    /// no more.
    /// </summary>
    public async Task<Outcome<MoveInAnswer>> UndoAsync(Visitor visitor, string group, bool dryRun)
    {
        if (!visitor.World.FindGroup(group).Try(out var from, out var refusal))
            return refusal;
        return Answer(
            await editing.EditAsync<Done>(
                visitor,
                new EditMode(Groups.Sort.Duty, dryRun),
                (write, editor) => UndoAsync(write, editor, from.Id)
            )
        );
    }

    private static Outcome<MoveInAnswer> Answer(Outcome<Edited<Done>> edited) =>
        edited.Then(done => new MoveInAnswer(
            done.Value.Group,
            done.Value.Gives,
            done.Value.People,
            done.Difference
        ));

    private static async Task<Outcome<Done>> MoveAsync(
        WorkspaceWrite write,
        MemberRow editor,
        Guid into,
        MoveInRequest request
    )
    {
        var world = await write.WorldAsync();
        if (!world.Groups.TryGetValue(into, out var group))
            return CommonRefusals.NotFound;
        if (!(await PlanAsync(write, world, group, request)).Try(out var plan, out var refusal))
            return refusal;
        var after = plan.After.Groups[into];
        if (GivingRules.Forbids(world, editor.Id, after.Grants, write.Today) is { } beyond)
            return beyond;
        await CarryOutAsync(write, editor, group, plan);
        await write.SaveAsync();
        if (await write.TakeInAsync() is { } forbidden)
            return forbidden;
        // What was planned is what everybody can do now, on every day.
        var now = await write.WorldAsync();
        if (
            plan.People.Any(person =>
                !new AccessGauge(world, person.Id, person.Id, write.Today, plan.After).IsSame(
                    plan.After,
                    now,
                    person.Id
                )
            )
        )
            return CommonRefusals.Stale;
        return new Done(
            group.Name,
            GivesOf(now, after, plan.Through),
            [
                .. plan.People.Select(person => new MovedInView(
                    person.Id,
                    person.Name,
                    person.Joins,
                    person.Gains
                )),
            ]
        );
    }

    private static async Task<Outcome<MoveIn>> PlanAsync(
        WorkspaceWrite write,
        AccessWorld world,
        Group group,
        MoveInRequest request
    )
    {
        if (!world.FindRole(request.Role).Try(out var role, out var refusal))
            return refusal with { Sort = RefusalSort.Invalid };
        Guid? at = null;
        if (!string.IsNullOrWhiteSpace(request.Resource))
        {
            if (!world.FindResource(request.Resource).Try(out var resource, out refusal))
                return refusal with { Sort = RefusalSort.Invalid };
            at = resource.Id;
        }
        Guid[]? only = null;
        if (request.People is { Count: > 0 } named)
        {
            if (!People.ReadHowMany(named).Try(out _, out refusal))
                return refusal;
            only = new Guid[named.Count];
            for (var n = 0; n < named.Count; n++)
            {
                if (!(await People.HereAsync(write.Rows, named[n])).Try(out var member, out refusal))
                    return refusal with { Field = "people" };
                only[n] = member.Id;
            }
        }
        return MoveIn.Plan(world, group, role, at, only, write.Today, () => Guid.CreateVersion7(write.Now));
    }

    private static async Task CarryOutAsync(WorkspaceWrite write, MemberRow editor, Group group, MoveIn plan)
    {
        var world = await write.WorldAsync();
        if (plan.Given is { } given)
        {
            var row = RowOf(write, HolderKind.Group, group.Id, given, write.Now, editor.Name);
            write.Rows.Grants.Add(row);
            Grants.Record(write, "grant.given", row, world);
        }
        var ids = plan.People.SelectMany(person => person.Direct).Select(grant => grant.Id).ToArray();
        var rows = await write.Rows.Grants.Where(g => ids.Contains(g.Id)).ToListAsync();
        foreach (var row in rows)
            Grants.Record(write, "grant.taken", row, world);
        write.Rows.Grants.RemoveRange(rows);
        foreach (var person in plan.People.Where(person => person.Joins))
            await Groups.JoinAsync(write, group, person.Id, person.Name);
        var direct = rows.ToLookup(row => row.HolderId);
        write.Rows.GroupMoves.Add(
            new GroupMoveRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = Guid.CreateVersion7(write.Now),
                GroupId = group.Id,
                At = write.Now,
                ByName = editor.Name,
                Moved = JsonSerializer.Serialize(
                    new Kept(
                        plan.Through,
                        plan.Given is not null,
                        [
                            .. plan.People.Select(person => new KeptPerson(
                                person.Id,
                                person.Joins,
                                [
                                    .. direct[person.Id]
                                        .Select(row => new KeptGrant(
                                            row.Id,
                                            row.RoleId,
                                            row.ResourceId,
                                            row.FirstDay,
                                            row.LastDay,
                                            row.GivenAt,
                                            row.GivenByName
                                        )),
                                ]
                            )),
                        ]
                    )
                ),
            }
        );
        write.Record(
            "group.moved-in",
            group.Id,
            ("name", group.Name),
            ("people", string.Join(", ", plan.People.Select(person => person.Name)))
        );
    }

    private static async Task<Outcome<Done>> UndoAsync(WorkspaceWrite write, MemberRow editor, Guid from)
    {
        var world = await write.WorldAsync();
        if (!world.Groups.TryGetValue(from, out var group))
            return CommonRefusals.NotFound;
        var move = await write
            .Rows.GroupMoves.Where(m => m.GroupId == from)
            .OrderByDescending(m => m.Id)
            .FirstOrDefaultAsync();
        if (move is null || move.UndoneAt is not null)
            return new Refusal(
                "move.none",
                $"There is no move into {group.Name} to be undone.",
                "Nothing needs doing.",
                RefusalSort.Conflict
            );
        var kept = JsonSerializer.Deserialize<Kept>(move.Moved)!;
        if (group.Grants.All(grant => grant.Id != kept.Through))
            return new Refusal(
                "move.changed",
                $"What {group.Name} gives was taken since: giving it back directly would undo that.",
                "Give people what they are to have, one by one.",
                RefusalSort.Conflict
            );
        var still = await write
            .Rows.GroupMembers.Where(g => g.GroupId == from)
            .ToDictionaryAsync(g => g.MemberId);
        // Whoever was taken out of the group, or has left, is not let in again by the way.
        var back = kept.People.Where(p => still.ContainsKey(p.Member) && world.People.ContainsKey(p.Member));
        var views = new List<MovedInView>();
        foreach (var person in back)
        {
            var name = world.People[person.Member].Name;
            foreach (var grant in person.Grants.Where(grant => IsStillThere(world, grant)))
            {
                var row = RowOf(
                    write,
                    HolderKind.Member,
                    person.Member,
                    new Grant(grant.Id, grant.Role, grant.Resource, new Stay(grant.LastDay, grant.FirstDay)),
                    grant.GivenAt,
                    grant.GivenByName
                );
                write.Rows.Grants.Add(row);
                Grants.Record(write, "grant.given", row, world);
            }
            if (person.Joined)
            {
                write.Rows.GroupMembers.Remove(still[person.Member]);
                write.Record("group.left", person.Member, ("name", name), ("group", group.Name));
            }
            views.Add(new MovedInView(person.Member, name, person.Joined, []));
        }
        // Whoever came into the group since would lose the role with it.
        if (kept.IsGiven && still.Values.All(g => g.Since <= move.At))
        {
            var row = await write.Rows.Grants.FirstAsync(g => g.Id == kept.Through);
            Grants.Record(write, "grant.taken", row, world);
            write.Rows.Grants.Remove(row);
        }
        move.UndoneAt = write.Now;
        write.Record(
            "group.moved-back",
            group.Id,
            ("name", group.Name),
            ("people", string.Join(", ", views.Select(person => person.Name)))
        );
        return new Done(group.Name, GivesOf(world, group, kept.Through), views);
    }

    private static bool IsStillThere(AccessWorld world, KeptGrant grant) =>
        world.Roles.ContainsKey(grant.Role)
        && (grant.Resource is not { } at || world.Resources.ContainsKey(at));

    private static string GivesOf(AccessWorld world, Group group, Guid grant)
    {
        var given = group.Grants.First(one => one.Id == grant);
        var at = given.ResourceId is { } resource ? " at " + Bundles.ResourceName(world, resource) : "";
        return Bundles.RoleName(world, given.RoleId) + at;
    }

    private static GrantRow RowOf(
        WorkspaceWrite write,
        HolderKind kind,
        Guid holder,
        Grant grant,
        DateTimeOffset givenAt,
        string givenByName
    ) =>
        new()
        {
            WorkspaceId = write.Workspace.Id,
            Id = grant.Id,
            HolderKind = kind,
            HolderId = holder,
            RoleId = grant.RoleId,
            ResourceId = grant.ResourceId,
            FirstDay = grant.Window.FirstDay,
            LastDay = grant.Window.LastDay,
            GivenAt = givenAt,
            GivenByName = givenByName,
        };
}
