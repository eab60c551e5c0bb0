using ComeAboard.Client.Access;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Groups: made, changed, filled, emptied, removed.</summary>
public static class Groups
{
    private const int Most = 2_000;
    private const int MostAtOnce = 1_000;

    public static RouteGroupBuilder MapGroups(this RouteGroupBuilder workspace)
    {
        var groups = workspace.MapGroup("/groups").ForMembers(Duties.Access | Duties.Invite | Duties.People);
        groups.MapGet("", ListAsync).OrCsv("groups").WithName("listGroups").Produces<Page<GroupView>>();
        groups.MapGet("/{group}", ShowAsync).WithName("showGroup").Produces<GroupView>();
        groups.MapGet("/{group}/members", MembersAsync).WithName("groupMembers").Produces<Page<PersonView>>();
        groups.MapPost("", AddAsync).ForMembers(Duties.Access).WithName("addGroup").Produces<GroupView>(201);
        groups
            .MapPut("/{group}", ChangeAsync)
            .ForMembers(Duties.Access)
            .WithName("changeGroup")
            .Produces<GroupView>();
        groups
            .MapDelete("/{group}", RemoveAsync)
            .ForMembers(Duties.Access)
            .WithName("removeGroup")
            .Produces<GroupAnswer>();
        groups
            .MapPost("/{group}/members", PutInAsync)
            .ForMembers(Duties.Access)
            .WithName("addToGroup")
            .Produces<GroupAnswer>();
        groups
            .MapDelete("/{group}/members/{person}", TakeOutAsync)
            .ForMembers(Duties.Access)
            .WithName("takeFromGroup")
            .Produces<GroupAnswer>();
        return workspace;
    }

    private static async Task<Page<GroupView>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Groups.AsNoTracking().OrderBy(g => g.NameKey).ToListAsync();
        return new Page<GroupView>(await ViewsAsync(rows, visitor.World, found), null);
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string group,
        HttpContext http,
        Database database
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var found, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var row = await rows.Groups.AsNoTracking().FirstAsync(g => g.Id == found.Id);
        http.Response.SayVersion(row.Version);
        return Results.Ok((await ViewsAsync(rows, visitor.World, [row]))[0]);
    }

    private static async Task<IResult> MembersAsync(
        Visitor visitor,
        string group,
        string? cursor,
        int? limit,
        Database database,
        TimeProvider clock
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var found, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var inside = rows
            .Members.AsNoTracking()
            .Where(m =>
                m.EndedAt == null && rows.GroupMembers.Any(g => g.GroupId == found.Id && g.MemberId == m.Id)
            );
        if (cursor is { Length: > 0 })
        {
            if (!Requests.ReadCursor(cursor).Try(out var after, out refusal))
                return refusal.ToResult();
            inside = inside.Where(m => m.Id.CompareTo(after) < 0);
        }
        var size = Requests.PageSize(limit);
        var page = await inside.OrderByDescending(m => m.Id).Take(size + 1).ToListAsync();
        return Results.Ok(
            new Page<PersonView>(
                await People.ViewsAsync(
                    rows,
                    [.. page.Take(size)],
                    clock.Now(),
                    visitor.Workspace,
                    visitor.World
                ),
                page.Count > size ? page[size - 1].Id.ToString("N") : null
            )
        );
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        GroupRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!Read(request).Try(out var words, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<GroupRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Groups.AnyAsync(g => g.NameKey == Names.KeyOf(words.Name)))
                    return Areas.Taken("group", words.Name);
                if (await write.Rows.Groups.CountAsync() >= Most)
                    return new Refusal(
                        "group.too-many",
                        $"There are {Most} groups already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                var row = new GroupRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = words.Name,
                    NameKey = Names.KeyOf(words.Name),
                    About = words.About,
                };
                write.Rows.Groups.Add(row);
                write.Record("group.added", row.Id, ("name", row.Name));
                return row;
            }
        );
        return edited.ToResult(done =>
            Results.Created(
                $"{http.Request.Path}/{done.Value.Id}",
                new GroupView(done.Value.Id, done.Value.Name, done.Value.About, 0, [], 1)
            )
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string group,
        GroupRequest request,
        HttpContext http,
        Editing editing,
        Database database,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var old, out var refusal))
            return refusal.ToResult();
        if (!Read(request).Try(out var words, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<GroupRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Groups.FirstOrDefaultAsync(g => g.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                var key = Names.KeyOf(words.Name);
                if (await write.Rows.Groups.AnyAsync(g => g.NameKey == key && g.Id != row.Id))
                    return Areas.Taken("group", words.Name);
                write.Record("group.changed", row.Id, ("name before", row.Name), ("name after", words.Name));
                (row.Name, row.NameKey, row.About) = (words.Name, key, words.About);
                row.Version++;
                return row;
            }
        );
        if (!edited.Try(out var done, out refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        return Results.Ok((await ViewsAsync(rows, done.World, [done.Value]))[0]);
    }

    private static async Task<IResult> RemoveAsync(
        Visitor visitor,
        string group,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var old, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<int>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Groups.FirstOrDefaultAsync(g => g.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                var members = await write.Rows.GroupMembers.Where(g => g.GroupId == row.Id).ToListAsync();
                write.Rows.GroupMembers.RemoveRange(members);
                write.Rows.Grants.RemoveRange(
                    await write
                        .Rows.Grants.Where(g => g.HolderKind == HolderKind.Group && g.HolderId == row.Id)
                        .ToListAsync()
                );
                write.Rows.Groups.Remove(row);
                write.Record("group.removed", row.Id, ("name", row.Name), ("members", members.Count));
                return members.Count;
            }
        );
        return edited.ToResult(done => Results.Ok(new GroupAnswer(done.Value, done.Difference)));
    }

    private static async Task<IResult> PutInAsync(
        Visitor visitor,
        string group,
        PeopleRequest request,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var into, out var refusal))
            return refusal.ToResult();
        if (request.People is not { Count: > 0 and <= MostAtOnce })
            return HowMany.ToResult();
        var edited = await editing.EditAsync<int>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (!world.Groups.TryGetValue(into.Id, out var now))
                    return CommonRefusals.NotFound;
                if (GivingRules.Forbids(world, editor.Id, now.Grants, write.Today) is { } beyond)
                    return beyond;
                var count = 0;
                foreach (var name in request.People.Distinct(StringComparer.OrdinalIgnoreCase))
                {
                    if (await People.FindAsync(write.Rows, name) is not { EndedAt: null } member)
                        return People.NotFound with { Sentence = $"There is nobody here by \"{name}\"." };
                    if (await JoinAsync(write, now, member))
                        count++;
                }
                return count;
            }
        );
        return edited.ToResult(done => Results.Ok(new GroupAnswer(done.Value, done.Difference)));
    }

    private static async Task<bool> JoinAsync(WorkspaceWrite write, Group group, MemberRow member)
    {
        if (await write.Rows.GroupMembers.FindAsync(write.Workspace.Id, group.Id, member.Id) is not null)
            return false;
        write.Rows.GroupMembers.Add(
            new GroupMemberRow
            {
                WorkspaceId = write.Workspace.Id,
                GroupId = group.Id,
                MemberId = member.Id,
                Since = write.Now,
            }
        );
        write.Record("group.joined", member.Id, ("name", member.Name), ("group", group.Name));
        return true;
    }

    private static async Task<IResult> TakeOutAsync(
        Visitor visitor,
        string group,
        string person,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindGroup(group).Try(out var from, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<int>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await People.FindAsync(write.Rows, person) is not { } member)
                    return People.NotFound;
                if (
                    await write.Rows.GroupMembers.FirstOrDefaultAsync(g =>
                        g.GroupId == from.Id && g.MemberId == member.Id
                    )
                    is not { } row
                )
                    return CommonRefusals.NotFound;
                write.Rows.GroupMembers.Remove(row);
                write.Record("group.left", member.Id, ("name", member.Name), ("group", from.Name));
                return 1;
            }
        );
        return edited.ToResult(done => Results.Ok(new GroupAnswer(done.Value, done.Difference)));
    }

    private static Refusal HowMany { get; } =
        new("people.how-many", $"Name 1 to {MostAtOnce} people.", "Do it in several steps.", Field: "people");

    private static Outcome<(string Name, string About)> Read(GroupRequest request)
    {
        if (!Areas.ReadName(request.Name, "group").Try(out var name, out var refusal))
            return refusal;
        return PlainText.ReadMessage(request.About).Try(out var about, out refusal)
            ? (name, about)
            : refusal with
            {
                Field = "about",
            };
    }

    private static async Task<IReadOnlyList<GroupView>> ViewsAsync(
        ComeAboardContext rows,
        AccessWorld world,
        IReadOnlyList<GroupRow> groups
    )
    {
        var ids = groups.Select(g => g.Id).ToList();
        var grants = (
            await rows
                .Grants.AsNoTracking()
                .Where(g => g.HolderKind == HolderKind.Group && ids.Contains(g.HolderId))
                .ToListAsync()
        ).ToLookup(g => g.HolderId);
        var sizes = new Dictionary<Guid, int>();
        foreach (var group in world.People.Values.SelectMany(person => person.Groups))
            sizes[group] = sizes.GetValueOrDefault(group) + 1;
        return
        [
            .. groups.Select(g => new GroupView(
                g.Id,
                g.Name,
                g.About,
                sizes.GetValueOrDefault(g.Id),
                Grants.ViewsOf(grants[g.Id], world),
                g.Version
            )),
        ];
    }
}
