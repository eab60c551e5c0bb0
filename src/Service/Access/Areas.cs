using System.Text.Json;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Areas of work, and what they need of one another.</summary>
public static class Areas
{
    private const int Most = 200;

    public static RouteGroupBuilder MapAreas(this RouteGroupBuilder workspace)
    {
        var areas = workspace.MapGroup("/areas").ForMembers(Duties.Access | Duties.Invite | Duties.People);
        areas.MapGet("", ListAsync).OrCsv("areas").WithName("listAreas").Produces<Page<AreaView>>();
        areas.MapPost("", AddAsync).ForMembers(Duties.Access).WithName("addArea").Produces<AreaView>(201);
        areas
            .MapPut("/{area}", ChangeAsync)
            .ForMembers(Duties.Access)
            .WithName("changeArea")
            .Produces<AreaView>();
        areas
            .MapDelete("/{area}", RemoveAsync)
            .ForMembers(Duties.Access)
            .WithName("removeArea")
            .Produces(204);
        return workspace;
    }

    /// <summary>Reads a name that must not be empty; refuses with <c>name.missing</c> or <c>name.*</c>.</summary>
    public static Outcome<string> ReadName(string? written, string what)
    {
        if (!PlainText.ReadName(written).Try(out var name, out var refusal))
            return refusal;
        return name.Length > 0
            ? name
            : new Refusal("name.missing", $"The {what} has no name.", "Give it one.", Field: "name");
    }

    /// <summary>For a name that something of the same sort has already.</summary>
    public static Refusal Taken(string what, string name) =>
        new(
            what.Replace(' ', '-') + ".name-taken",
            $"There is a {what} \"{name}\" already.",
            "Take another name.",
            RefusalSort.Conflict,
            "name"
        );

    private static async Task<Page<AreaView>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows.Areas.AsNoTracking().OrderBy(a => a.NameKey).ToListAsync();
        return new Page<AreaView>([.. found.Select(a => ViewOf(a, visitor.World))], null);
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        AreaRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!ReadName(request.Name, "area").Try(out var name, out var refusal))
            return refusal.ToResult();
        if (!ReadNeeds(request, visitor.World).Try(out var needs, out refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<AreaRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Areas.AnyAsync(a => a.NameKey == Names.KeyOf(name)))
                    return Taken("area", name);
                if (await write.Rows.Areas.CountAsync() >= Most)
                    return new Refusal(
                        "area.too-many",
                        $"There are {Most} areas already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                var row = new AreaRow
                {
                    WorkspaceId = write.Workspace.Id,
                    Id = Guid.CreateVersion7(write.Now),
                    Name = name,
                    NameKey = Names.KeyOf(name),
                    HasPrivateEntries = request.PrivateEntries,
                    Needs = needs,
                };
                write.Rows.Areas.Add(row);
                write.Record("area.added", row.Id, ("name", name));
                return row;
            }
        );
        return edited.ToResult(done =>
            Results.Created($"{http.Request.Path}/{done.Value.Id}", ViewOf(done.Value, done.World))
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string area,
        AreaRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindArea(area).Try(out var found, out var refusal))
            return refusal.ToResult();
        if (!ReadName(request.Name, "area").Try(out var name, out refusal))
            return refusal.ToResult();
        if (!ReadNeeds(request, visitor.World).Try(out var needs, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<AreaRow>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, _) =>
            {
                if (await write.Rows.Areas.FirstOrDefaultAsync(a => a.Id == found.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } version && version != row.Version)
                    return CommonRefusals.Stale;
                if (await write.Rows.Areas.AnyAsync(a => a.NameKey == Names.KeyOf(name) && a.Id != row.Id))
                    return Taken("area", name);
                write.Record(
                    "area.changed",
                    row.Id,
                    ("name before", row.Name),
                    ("name after", name),
                    ("private entries before", row.HasPrivateEntries),
                    ("private entries after", request.PrivateEntries)
                );
                (row.Name, row.NameKey) = (name, Names.KeyOf(name));
                (row.HasPrivateEntries, row.Needs) = (request.PrivateEntries, needs);
                row.Version++;
                return row;
            }
        );
        return edited.ToResult(done => Results.Ok(ViewOf(done.Value, done.World)));
    }

    private static async Task<IResult> RemoveAsync(Visitor visitor, string area, Editing editing)
    {
        if (!visitor.World.FindArea(area).Try(out var found, out var refusal))
            return refusal.ToResult();
        var removed = await editing.EditAsync<bool>(
            visitor,
            new EditMode(Duties.Access),
            async (write, _) =>
            {
                if (await write.Rows.Areas.FirstOrDefaultAsync(a => a.Id == found.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (await write.Rows.Resources.AnyAsync(r => r.AreaId == row.Id))
                    return new Refusal(
                        "area.in-use",
                        $"There are resources in {row.Name}.",
                        "Remove them, or put them into another area first.",
                        RefusalSort.Conflict
                    );
                write.Rows.Areas.Remove(row);
                write.Record("area.removed", row.Id, ("name", row.Name));
                return true;
            }
        );
        return removed.ToResult(_ => Results.NoContent());
    }

    private static Outcome<string> ReadNeeds(AreaRequest request, AccessWorld world)
    {
        var needs = new Dictionary<Guid, Level>();
        foreach (var (name, word) in request.Needs ?? [])
        {
            if (!world.FindArea(name).Try(out var area, out var refusal))
                return refusal with { Sort = RefusalSort.Invalid, Field = "needs" };
            if (!Levels.Read(word).Try(out var level, out refusal))
                return refusal with { Field = "needs" };
            if (level > Level.None)
                needs[area.Id] = level;
        }
        return JsonSerializer.Serialize(needs);
    }

    private static AreaView ViewOf(AreaRow row, AccessWorld world) =>
        new(
            row.Id,
            row.Name,
            row.HasPrivateEntries,
            [
                .. row
                    .NeedsByArea.Where(need => world.Areas.ContainsKey(need.Key))
                    .Select(need => new AreaLevel(world.Areas[need.Key].Name, need.Value.Word())),
            ],
            world.Resources.Values.Count(r => r.AreaId == row.Id),
            row.Version
        );
}
