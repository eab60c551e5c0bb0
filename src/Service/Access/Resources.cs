using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Resources: made, changed, owned, handed over, removed.</summary>
public static class Resources
{
    private const int Most = 5_000;

    public static RouteGroupBuilder MapResources(this RouteGroupBuilder workspace)
    {
        var resources = workspace.MapGroup("/resources").WithTags("Resources");
        resources
            .MapGet("", ListAsync)
            .OrCsv("resources")
            .WithName("listResources")
            .Produces<Page<ResourceView>>();
        resources.MapGet("/{resource}", ShowAsync).WithName("showResource").Produces<ResourceView>();
        resources
            .MapPost("", AddAsync)
            .ForMembers(Duties.Access)
            .WithName("addResource")
            .Produces<ResourceView>(201);
        resources
            .MapPut("/{resource}", ChangeAsync)
            .ForMembers(Duties.Access)
            .WithName("changeResource")
            .Produces<ResourceView>();
        resources
            .MapDelete("/{resource}", RemoveAsync)
            .ForMembers(Duties.Access)
            .WithName("removeResource")
            .Produces<GroupAnswer>();
        resources.MapHandover();
        return workspace;
    }

    /// <summary>Those who look after access, and the others for what they see themselves.</summary>
    public static bool SeesAll(Visitor visitor) =>
        (visitor.Duties & (Duties.Access | Duties.People | Duties.Invite)) != Duties.None;

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        string? area,
        string? search,
        string? owner,
        ResourceAccess access,
        Database database
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = visitor.World.Resources.Values.AsEnumerable();
        if (area is { Length: > 0 })
        {
            if (!visitor.World.FindArea(area).Try(out var within, out var refusal))
                return refusal.ToResult();
            found = found.Where(r => r.AreaId == within.Id);
        }
        if (search?.Trim() is { Length: > 0 } part)
            found = found.Where(r => r.Name.Contains(part, StringComparison.OrdinalIgnoreCase));
        if (owner == "me")
            found = found.Where(r => r.Owner == visitor.Member.Id);
        else if (owner is { Length: > 0 })
        {
            if (await People.FindAsync(rows, owner) is not { } member)
                return People.NotFound.ToResult();
            found = found.Where(r => r.Owner == member.Id);
        }
        if (!SeesAll(visitor))
            found = found.Where(r =>
                r.Owner == visitor.Member.Id
                || visitor.World.LevelOf(visitor.Member.Id, Place.At(r), visitor.Today) > Level.None
            );
        var kept = found
            .OrderBy(r => AreaName(visitor.World, r), StringComparer.OrdinalIgnoreCase)
            .ThenBy(r => r.Name, StringComparer.OrdinalIgnoreCase)
            .ToList();
        return Results.Ok(new Page<ResourceView>(await ViewsAsync(rows, visitor, kept, access), null));
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string resource,
        HttpContext http,
        ResourceAccess access,
        Database database
    )
    {
        if (!Find(visitor, resource).Try(out var found, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var view = (await ViewsAsync(rows, visitor, [found], access))[0];
        http.Response.SayVersion(view.Version);
        return Results.Ok(view);
    }

    /// <summary>A resource as far as the visitor may know of it.</summary>
    public static Outcome<Resource> Find(Visitor visitor, string resource)
    {
        if (!visitor.World.FindResource(resource).Try(out var found, out var refusal))
            return SeesAll(visitor) ? refusal : CommonRefusals.NotFound;
        return
            SeesAll(visitor)
            || found.Owner == visitor.Member.Id
            || visitor.World.LevelOf(visitor.Member.Id, Place.At(found), visitor.Today) > Level.None
            ? found
            : CommonRefusals.NotFound;
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        ResourceRequest request,
        HttpContext http,
        Editing editing,
        ResourceAccess access,
        Database database,
        bool dryRun = false
    )
    {
        if (!Read(visitor, request).Try(out var wanted, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<ResourceRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Resources.AnyAsync(r => r.NameKey == Names.KeyOf(wanted.Name)))
                    return Areas.Taken("resource", wanted.Name);
                if (await write.Rows.Resources.CountAsync() >= Most)
                    return new Refusal(
                        "resource.too-many",
                        $"There are {Most} resources already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                if (!(await OwnerAsync(write, request.Owner)).Try(out var owner, out var no))
                    return no;
                var row = new ResourceRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    AreaId = wanted.Area.Id,
                    Name = wanted.Name,
                    NameKey = Names.KeyOf(wanted.Name),
                    About = wanted.About,
                    OwnerId = owner.Id,
                };
                write.Rows.Resources.Add(row);
                write.Record(
                    "resource.added",
                    row.Id,
                    ("name", row.Name),
                    ("area", wanted.Area.Name),
                    ("owner", owner.Name)
                );
                return row;
            }
        );
        return await AnswerAsync(visitor, edited, access, database, $"{http.Request.Path}");
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string resource,
        ResourceRequest request,
        HttpContext http,
        Editing editing,
        ResourceAccess access,
        Database database,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindResource(resource).Try(out var old, out var refusal))
            return refusal.ToResult();
        if (!Read(visitor, request).Try(out var wanted, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<ResourceRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, editor) =>
            {
                if (await write.Rows.Resources.FirstOrDefaultAsync(r => r.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                var key = Names.KeyOf(wanted.Name);
                if (await write.Rows.Resources.AnyAsync(r => r.NameKey == key && r.Id != row.Id))
                    return Areas.Taken("resource", wanted.Name);
                var world = await write.WorldAsync();
                if (
                    row.AreaId != wanted.Area.Id
                    && new[] { row.AreaId, wanted.Area.Id }.Any(area =>
                        world.LevelOf(editor.Id, new Place(area, null), write.Today) < Level.Manage
                    )
                )
                    return new Refusal(
                        "right.beyond-own",
                        "Putting a resource into another area changes who sees it: that takes manage in both areas.",
                        "Ask an administrator.",
                        RefusalSort.NotAllowed,
                        "area"
                    );
                if (!(await OwnerAsync(write, request.Owner)).Try(out var owner, out var no))
                    return no;
                write.Record(
                    "resource.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", wanted.Name),
                    ("area before", AreaName(world, old)),
                    ("area after", wanted.Area.Name),
                    ("owner after", owner.Name)
                );
                (row.Name, row.NameKey, row.About) = (wanted.Name, key, wanted.About);
                (row.AreaId, row.OwnerId) = (wanted.Area.Id, owner.Id);
                row.Version++;
                return row;
            }
        );
        return await AnswerAsync(visitor, edited, access, database, null);
    }

    private static async Task<IResult> RemoveAsync(
        Visitor visitor,
        string resource,
        Editing editing,
        bool dryRun = false,
        bool tell = false
    )
    {
        if (!visitor.World.FindResource(resource).Try(out var old, out var refusal))
            return refusal.ToResult();
        var removed = await editing.EditAsync<int>(
            visitor,
            new EditMode(Duties.Access, dryRun, tell),
            async (write, _) =>
            {
                if (await write.Rows.Resources.FirstOrDefaultAsync(r => r.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                var given = await write.Rows.Grants.Where(g => g.ResourceId == row.Id).ToListAsync();
                foreach (var grant in given)
                {
                    Grants.Record(write, "grant.taken", grant, await write.WorldAsync());
                    write.Rows.Grants.Remove(grant);
                }
                write.Rows.SwitchedOff.RemoveRange(
                    await write.Rows.SwitchedOff.Where(s => s.ResourceId == row.Id).ToListAsync()
                );
                write.Rows.Resources.Remove(row);
                write.Record("resource.removed", row.Id, ("name", row.Name));
                return given.Count;
            }
        );
        return removed.ToResult(done => Results.Ok(new GroupAnswer(done.Value, done.Difference)));
    }

    private static async Task<Outcome<(Guid? Id, string? Name)>> OwnerAsync(
        WorkspaceWrite write,
        string? owner
    )
    {
        if (string.IsNullOrWhiteSpace(owner))
            return (null, null);
        return (await People.ActiveAsync(write, owner)).Try(out var member, out var refusal)
            ? (member.Id, member.Name)
            : refusal with
            {
                Field = "owner",
            };
    }

    private static Outcome<(string Name, Area Area, string About)> Read(
        Visitor visitor,
        ResourceRequest request
    )
    {
        if (!Areas.ReadName(request.Name, "resource").Try(out var name, out var refusal))
            return refusal;
        if (Guid.TryParse(name, out _) || name == "handover")
            return new Refusal(
                "name.reserved",
                "That name is not free.",
                "Take another name.",
                Field: "name"
            );
        if (!visitor.World.FindArea(request.Area).Try(out var area, out refusal))
            return refusal with { Sort = RefusalSort.Invalid };
        return PlainText.ReadMessage(request.About).Try(out var about, out refusal)
            ? (name, area, about)
            : refusal with
            {
                Field = "about",
            };
    }

    private static async Task<IResult> AnswerAsync(
        Visitor visitor,
        Outcome<Edited<ResourceRow>> edited,
        ResourceAccess access,
        Database database,
        string? path
    )
    {
        if (!edited.Try(out var done, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var view = ViewOf(
            done.Value.Resource,
            done.Value,
            visitor with
            {
                World = done.World,
            },
            access,
            done.Value.OwnerId is { } owner ? done.World.People.GetValueOrDefault(owner)?.Name ?? "" : ""
        ) with
        {
            Difference = done.Difference,
        };
        return path is null ? Results.Ok(view) : Results.Created($"{path}/{view.Id}", view);
    }

    private static async Task<IReadOnlyList<ResourceView>> ViewsAsync(
        ComeAboardContext rows,
        Visitor visitor,
        IReadOnlyList<Resource> resources,
        ResourceAccess access
    )
    {
        var kept = await rows.Resources.AsNoTracking().ToDictionaryAsync(r => r.Id);
        return
        [
            .. resources
                .Where(r => kept.ContainsKey(r.Id))
                .Select(r =>
                    ViewOf(
                        r,
                        kept[r.Id],
                        visitor,
                        access,
                        r.Owner is { } owner ? visitor.World.People.GetValueOrDefault(owner)?.Name ?? "" : ""
                    )
                ),
        ];
    }

    private static ResourceView ViewOf(
        Resource resource,
        ResourceRow row,
        Visitor visitor,
        ResourceAccess access,
        string owner
    )
    {
        var holders = access.Of(visitor.WorkspaceId, visitor.World, resource, visitor.Today);
        return new ResourceView(
            resource.Id,
            resource.Name,
            AreaName(visitor.World, resource),
            row.About,
            resource.Owner,
            owner,
            SeesAll(visitor) ? holders.WithAccess : 0,
            SeesAll(visitor) ? holders.Outsiders : 0,
            row.Version
        );
    }

    private static string AreaName(AccessWorld world, Resource resource) =>
        world.Areas.GetValueOrDefault(resource.AreaId)?.Name ?? "";
}
