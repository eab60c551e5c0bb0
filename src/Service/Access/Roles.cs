using System.Collections.Immutable;
using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Roles: made, changed, compared, removed.</summary>
public static class Roles
{
    private const int Most = 200;

    public static RouteGroupBuilder MapRoles(this RouteGroupBuilder workspace)
    {
        var roles = workspace.MapGroup("/roles").ForMembers(Duties.Access | Duties.Invite | Duties.People);
        roles.MapGet("", ListAsync).OrCsv("roles").WithName("listRoles").Produces<Page<RoleDetail>>();
        roles.MapGet("/compare", CompareAsync).WithName("compareRoles").Produces<MatrixView>();
        roles.MapGet("/{role}", ShowAsync).WithName("showRole").Produces<RoleDetail>();
        roles.MapPost("", AddAsync).ForMembers(Duties.Access).WithName("addRole").Produces<RoleChange>(201);
        roles
            .MapPut("/{role}", ChangeAsync)
            .ForMembers(Duties.Access)
            .WithName("changeRole")
            .Produces<RoleChange>();
        roles
            .MapDelete("/{role}", RemoveAsync)
            .ForMembers(Duties.Access)
            .WithName("removeRole")
            .Produces(204);
        return workspace;
    }

    private static async Task<Page<RoleDetail>> ListAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return new Page<RoleDetail>(
            await ViewsAsync(rows, visitor.World, AccessWorld.InOrder(visitor.World.Roles.Values)),
            null
        );
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string role,
        HttpContext http,
        Database database
    )
    {
        if (!visitor.World.FindRole(role).Try(out var found, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open(visitor.WorkspaceId);
        var view = (await ViewsAsync(rows, visitor.World, [found]))[0];
        http.Response.SayVersion(view.Version);
        return Results.Ok(view);
    }

    private static async Task<IResult> CompareAsync(Visitor visitor, string[]? role, Database database)
    {
        var chosen = new List<Role>();
        foreach (var name in role ?? [])
        {
            if (!visitor.World.FindRole(name).Try(out var found, out var refusal))
                return refusal.ToResult();
            chosen.Add(found);
        }
        if (chosen.Count == 0)
            chosen.AddRange(AccessWorld.InOrder(visitor.World.Roles.Values));
        var matrix = RoleMatrix.Of(visitor.World, chosen);
        await using var rows = database.Open(visitor.WorkspaceId);
        return Results.Ok(
            new MatrixView(
                await ViewsAsync(rows, visitor.World, chosen),
                [
                    .. matrix.Lines.Select(line => new MatrixLineView(
                        line.Area?.Name ?? "everything else",
                        false,
                        [.. line.Levels.Select(level => level.Word())],
                        line.Differs
                    )),
                    .. DutyWords.Each.Select(duty =>
                    {
                        string[] cells = [.. chosen.Select(r => r.Duties.HasFlag(duty) ? "yes" : "no")];
                        return new MatrixLineView(duty.List()[0], true, cells, cells.Distinct().Count() > 1);
                    }),
                ]
            )
        );
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        RoleRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!Read(request, Guid.CreateVersion7(), visitor.World).Try(out var role, out var refusal))
            return refusal.ToResult();
        var edited = await editing.EditAsync<Role>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, editor) =>
            {
                if (await ForbidsAsync(write, editor.Id, role) is { } no)
                    return no;
                if (await write.Rows.Roles.CountAsync() >= Most)
                    return new Refusal(
                        "role.too-many",
                        $"There are {Most} roles already.",
                        "Remove one that is not used.",
                        RefusalSort.Conflict
                    );
                write.Rows.Roles.Add(
                    new RoleRow
                    {
                        WorkspaceId = write.Workspace.Id,
                        Id = role.Id,
                        Name = role.Name,
                        NameKey = Names.KeyOf(role.Name),
                        Sentence = role.Sentence,
                        Everywhere = role.Everywhere,
                        Duties = role.Duties,
                        Areas = RoleRow.AreasText(role),
                    }
                );
                write.Record(
                    "role.added",
                    role.Id,
                    ("name", role.Name),
                    ("after", Words(role, await write.WorldAsync()))
                );
                return role;
            }
        );
        return edited.ToResult(done =>
            dryRun
                ? Results.Ok(ChangeOf(done, 1))
                : Results.Created($"{http.Request.Path}/{role.Id}", ChangeOf(done, 1))
        );
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string role,
        RoleRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        if (!visitor.World.FindRole(role).Try(out var old, out var refusal))
            return refusal.ToResult();
        if (old.IsBuiltIn)
            return BuiltIn(old).ToResult();
        if (!Read(request, old.Id, visitor.World).Try(out var wanted, out refusal))
            return refusal.ToResult();
        var expected = http.Request.ExpectedVersion();
        var version = 0;
        var edited = await editing.EditAsync<Role>(
            visitor,
            new EditMode(Duties.Access, dryRun),
            async (write, editor) =>
            {
                if (await write.Rows.Roles.FirstOrDefaultAsync(r => r.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                if (expected is { } seen && seen != row.Version)
                    return CommonRefusals.Stale;
                if (await ForbidsAsync(write, editor.Id, wanted) is { } no)
                    return no;
                var world = await write.WorldAsync();
                write.Record(
                    "role.changed",
                    row.Id,
                    ("name", row.Name),
                    ("before", Words(row.Role, world)),
                    ("after", Words(wanted, world))
                );
                (row.Name, row.NameKey, row.Sentence) = (
                    wanted.Name,
                    Names.KeyOf(wanted.Name),
                    wanted.Sentence
                );
                (row.Everywhere, row.Duties, row.Areas) = (
                    wanted.Everywhere,
                    wanted.Duties,
                    RoleRow.AreasText(wanted)
                );
                version = ++row.Version;
                return wanted;
            }
        );
        return edited.ToResult(done => Results.Ok(ChangeOf(done, version)));
    }

    private static async Task<IResult> RemoveAsync(Visitor visitor, string role, Editing editing)
    {
        if (!visitor.World.FindRole(role).Try(out var old, out var refusal))
            return refusal.ToResult();
        if (old.IsBuiltIn)
            return BuiltIn(old).ToResult();
        var removed = await editing.EditAsync<bool>(
            visitor,
            new EditMode(Duties.Access),
            async (write, _) =>
            {
                if (await write.Rows.Roles.FirstOrDefaultAsync(r => r.Id == old.Id) is not { } row)
                    return CommonRefusals.NotFound;
                var holders = await write.Rows.Grants.CountAsync(g => g.RoleId == old.Id);
                if (holders > 0)
                    return new Refusal(
                        "role.in-use",
                        $"The role {row.Name} is given {holders} times.",
                        "Give those people another role first.",
                        RefusalSort.Conflict
                    );
                write.Rows.Roles.Remove(row);
                write.Record("role.removed", row.Id, ("name", row.Name));
                return true;
            }
        );
        return removed.ToResult(_ => Results.NoContent());
    }

    private static Outcome<Role> Read(RoleRequest request, Guid id, AccessWorld world)
    {
        if (!Role.ReadWords(request.Name, request.Sentence).Try(out var words, out var refusal))
            return refusal;
        if (!Levels.Read(request.Everywhere ?? "none").Try(out var everywhere, out refusal))
            return refusal with { Field = "everywhere" };
        var areas = ImmutableSortedDictionary.CreateBuilder<Guid, Level>();
        foreach (var (name, word) in request.Areas ?? [])
        {
            if (!world.FindArea(name).Try(out var area, out refusal))
                return refusal with { Sort = RefusalSort.Invalid };
            if (!Levels.Read(word).Try(out var level, out refusal))
                return refusal with { Field = "areas" };
            areas[area.Id] = level;
        }
        if (!DutyWords.Read(request.Duties).Try(out var duties, out refusal))
            return refusal;
        return new Role(id, words.Name, words.Sentence, everywhere, areas.ToImmutable(), duties);
    }

    private static async Task<Refusal?> ForbidsAsync(WorkspaceWrite write, Guid editor, Role role)
    {
        var world = await write.WorldAsync();
        if (GivingRules.Forbids(world, editor, role, null, write.Today) is { } beyond)
            return beyond;
        return world.FindRole(role.Name).Try(out var other, out _) && other.Id != role.Id
            ? new Refusal(
                "role.name-taken",
                $"There is a role \"{other.Name}\" already.",
                "Take another name, or change that role.",
                RefusalSort.Conflict,
                "name"
            )
            : null;
    }

    private static Refusal BuiltIn(Role role) =>
        new(
            "role.built-in",
            $"The role {role.Name} is the same in every workspace and cannot be changed.",
            "Make a role of your own.",
            RefusalSort.Conflict
        );

    private static RoleChange ChangeOf(Edited<Role> edited, int version)
    {
        var advice = DependencyAdvice.For(edited.Value, edited.World.Dependencies);
        return new RoleChange(
            ViewOf(edited.Value, edited.World, 0, version),
            [
                .. advice.Gaps.Select(gap => new GapView(
                    edited.World.Areas[gap.Dependency.Area].Name,
                    edited.World.Areas[gap.Dependency.Needs].Name,
                    gap.Dependency.AtLeast.Word(),
                    gap.Has.Word()
                )),
            ],
            LevelsOf(advice.Raised, edited.World),
            LevelsOf(advice.Lowered, edited.World),
            edited.Difference
        );
    }

    private static async Task<IReadOnlyList<RoleDetail>> ViewsAsync(
        ComeAboardContext rows,
        AccessWorld world,
        IEnumerable<Role> roles
    )
    {
        var given = await rows
            .Grants.GroupBy(g => g.RoleId)
            .Select(g => new { g.Key, Count = g.Count() })
            .ToDictionaryAsync(g => g.Key, g => g.Count);
        var versions = await rows
            .Roles.Select(r => new { r.Id, r.Version })
            .ToDictionaryAsync(r => r.Id, r => r.Version);
        return
        [
            .. roles.Select(role =>
                ViewOf(role, world, given.GetValueOrDefault(role.Id), versions.GetValueOrDefault(role.Id, 1))
            ),
        ];
    }

    private static RoleDetail ViewOf(Role role, AccessWorld world, int holders, int version) =>
        new(
            role.Id,
            role.Name,
            role.Sentence,
            role.IsBuiltIn,
            role.Everywhere.Word(),
            LevelsOf(role, world),
            role.Duties.List(),
            holders,
            version
        );

    private static IReadOnlyList<AreaLevel> LevelsOf(Role role, AccessWorld world) =>
        [
            .. role
                .Areas.Where(area => world.Areas.ContainsKey(area.Key))
                .Select(area => new AreaLevel(world.Areas[area.Key].Name, area.Value.Word()))
                .OrderBy(area => area.Area, StringComparer.OrdinalIgnoreCase),
        ];

    private static string Words(Role role, AccessWorld world) =>
        $"everywhere {role.Everywhere.Word()}"
        + string.Concat(LevelsOf(role, world).Select(area => $", {area.Area} {area.Level}"))
        + (role.Duties == Duties.None ? "" : "; duties " + string.Join(", ", role.Duties.List()));
}
