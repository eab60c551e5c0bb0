using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Roles given to members, groups and organisations; changed, and taken.</summary>
public static class Grants
{
    private const int Most = 500;

    public static RouteGroupBuilder MapGrants(this RouteGroupBuilder workspace)
    {
        var grants = workspace.MapGroup("/grants");
        grants
            .MapGet("", ListAsync)
            .OrCsv("grants")
            .ForMembers(Duties.Access)
            .WithName("listGrants")
            .Produces<Page<GrantView>>();
        grants.MapPost("", AddAsync).WithName("giveGrant").Produces<GrantAnswer>(201);
        grants.MapPut("/{id:guid}", ChangeAsync).WithName("changeGrant").Produces<GrantAnswer>();
        grants.MapDelete("/{id:guid}", TakeAsync).WithName("takeGrant").Produces<GrantAnswer>();
        return workspace;
    }

    /// <summary>The grants of some holders, as they go over the wire.</summary>
    public static IReadOnlyList<GrantView> ViewsOf(IEnumerable<GrantRow> rows, AccessWorld world) =>
        [.. rows.OrderBy(g => g.GivenAt).Select(g => ViewOf(g, world))];

    /// <summary>One grant.</summary>
    public static GrantView ViewOf(GrantRow row, AccessWorld world) =>
        new(
            row.Id,
            Bundles.RoleName(world, row.RoleId),
            row.HolderKind switch
            {
                HolderKind.Member => world.People.GetValueOrDefault(row.HolderId)?.Name,
                HolderKind.Group => world.Groups.GetValueOrDefault(row.HolderId)?.Name,
                _ => world.Organisations.GetValueOrDefault(row.HolderId)?.Name,
            } ?? "gone",
            row.HolderKind.ToString().ToLowerInvariant(),
            row.HolderId,
            row.ResourceId is { } at ? Bundles.ResourceName(world, at) : null,
            row.FirstDay,
            row.LastDay,
            row.GivenByName,
            row.GivenAt,
            row.Version
        );

    private static async Task<Page<GrantView>> ListAsync(
        Visitor visitor,
        string? role,
        string? resource,
        Database database
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = rows.Grants.AsNoTracking();
        if (role is { Length: > 0 } && visitor.World.FindRole(role).Try(out var wanted, out _))
            found = found.Where(g => g.RoleId == wanted.Id);
        if (resource is { Length: > 0 } && visitor.World.FindResource(resource).Try(out var at, out _))
            found = found.Where(g => g.ResourceId == at.Id);
        return new Page<GrantView>(
            ViewsOf(await found.OrderByDescending(g => g.Id).Take(Most).ToListAsync(), visitor.World),
            null
        );
    }

    private static async Task<IResult> AddAsync(
        Visitor visitor,
        GrantRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        var edited = await editing.EditAsync<GrantRow>(
            visitor,
            new EditMode(Duties.None, dryRun, request.Tell),
            (write, editor) => GiveAsync(write, editor.Id, editor.Name, request)
        );
        return edited.ToResult(done =>
            dryRun
                ? Results.Ok(AnswerOf(done))
                : Results.Created($"{http.Request.Path}/{done.Value.Id}", AnswerOf(done))
        );
    }

    /// <summary>Gives a role within a change.</summary>
    public static async Task<Outcome<GrantRow>> GiveAsync(
        WorkspaceWrite write,
        Guid giver,
        string giverName,
        GrantRequest request
    )
    {
        var world = await write.WorldAsync();
        Guid? at = null;
        var atAll = world.FindResource(request.Resource).Try(out var resource, out var refusal);
        if (atAll)
            at = resource.Id;
        // Whoever may not arrange it learns nothing of who and what there is.
        if (GivingRules.ForbidsArranging(world, giver, at, write.Today) is { } arranging)
            return arranging;
        if (!atAll && !string.IsNullOrWhiteSpace(request.Resource))
            return refusal with { Sort = RefusalSort.Invalid };
        if (!(await HolderAsync(write, world, request)).Try(out var holder, out refusal))
            return refusal;
        if (!world.FindRole(request.Role).Try(out var role, out refusal))
            return refusal with { Sort = RefusalSort.Invalid };
        if (!Stay.Between(request.From, request.Until, write.Today).Try(out var window, out refusal))
            return refusal;
        if (GivingRules.Forbids(world, giver, role, at, write.Today) is { } beyond)
            return beyond;
        var same = await write
            .Rows.Grants.AsNoTracking()
            .FirstOrDefaultAsync(g =>
                g.HolderKind == holder.Kind
                && g.HolderId == holder.Id
                && g.RoleId == role.Id
                && g.ResourceId == at
                && (g.LastDay == null || g.LastDay >= write.Today)
            );
        if (same is not null)
            return new Refusal(
                "grant.same",
                $"{holder.Name} has the role {role.Name} there already.",
                "Change that grant if its end should be another.",
                RefusalSort.Conflict,
                Related: same.Id
            );
        var row = new GrantRow
        {
            WorkspaceId = write.Workspace.Id,
            Id = Guid.CreateVersion7(write.Now),
            HolderKind = holder.Kind,
            HolderId = holder.Id,
            RoleId = role.Id,
            ResourceId = at,
            FirstDay = window.FirstDay,
            LastDay = window.LastDay,
            GivenAt = write.Now,
            GivenByName = giverName,
        };
        write.Rows.Grants.Add(row);
        Record(write, "grant.given", row, world);
        return row;
    }

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        Guid id,
        GrantChangeRequest request,
        HttpContext http,
        Editing editing,
        bool dryRun = false
    )
    {
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<GrantRow>(
            visitor,
            new EditMode(Duties.None, dryRun, request.Tell),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (
                    !(await FindAsync(write, world, editor.Id, id, expected)).Try(
                        out var row,
                        out var refusal
                    )
                )
                    return refusal;
                if (!world.FindRole(request.Role).Try(out var role, out refusal))
                    return refusal with { Sort = RefusalSort.Invalid };
                if (!Stay.Between(row.FirstDay, request.Until, write.Today).Try(out var window, out refusal))
                    return refusal;
                if (GivingRules.Forbids(world, editor.Id, role, row.ResourceId, write.Today) is { } beyond)
                    return beyond;
                write.Record(
                    "grant.changed",
                    row.HolderId,
                    ("holder", ViewOf(row, world).Holder),
                    ("resource", ViewOf(row, world).Resource),
                    ("role before", Bundles.RoleName(world, row.RoleId)),
                    ("role after", role.Name),
                    ("until before", row.LastDay?.ToString("yyyy-MM-dd") ?? "no end"),
                    ("until after", window.LastDay?.ToString("yyyy-MM-dd") ?? "no end")
                );
                (row.RoleId, row.LastDay) = (role.Id, window.LastDay);
                row.Version++;
                return row;
            }
        );
        return edited.ToResult(done => Results.Ok(AnswerOf(done)));
    }

    private static async Task<IResult> TakeAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        Editing editing,
        bool dryRun = false,
        bool tell = false
    )
    {
        var expected = http.Request.ExpectedVersion();
        var edited = await editing.EditAsync<GrantRow>(
            visitor,
            new EditMode(Duties.None, dryRun, tell),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (
                    !(await FindAsync(write, world, editor.Id, id, expected)).Try(
                        out var row,
                        out var refusal
                    )
                )
                    return refusal;
                write.Rows.Grants.Remove(row);
                Record(write, "grant.taken", row, world);
                return row;
            }
        );
        return edited.ToResult(done => Results.Ok(AnswerOf(done)));
    }

    /// <summary>Writes into the record what is given or taken.</summary>
    public static void Record(WorkspaceWrite write, string action, GrantRow row, AccessWorld world)
    {
        var view = ViewOf(row, world);
        write.Record(
            action,
            row.HolderId,
            ("holder", view.Holder),
            ("through", view.HolderKind == "member" ? null : view.HolderKind),
            ("role", view.Role),
            ("resource", view.Resource),
            ("from", row.FirstDay?.ToString("yyyy-MM-dd")),
            ("until", row.LastDay?.ToString("yyyy-MM-dd"))
        );
    }

    private static async Task<Outcome<GrantRow>> FindAsync(
        WorkspaceWrite write,
        AccessWorld world,
        Guid editor,
        Guid id,
        int? expected
    )
    {
        if (await write.Rows.Grants.FirstOrDefaultAsync(g => g.Id == id) is not { } row)
            return CommonRefusals.NotFound;
        if (GivingRules.ForbidsArranging(world, editor, row.ResourceId, write.Today) is { } arranging)
            // Whoever may not arrange it does not learn that it is there.
            return world.DutiesOf(editor, write.Today) == Duties.None ? CommonRefusals.NotFound : arranging;
        return expected is { } version && version != row.Version ? CommonRefusals.Stale : row;
    }

    private static async Task<Outcome<(HolderKind Kind, Guid Id, string Name)>> HolderAsync(
        WorkspaceWrite write,
        AccessWorld world,
        GrantRequest request
    )
    {
        var named = new[] { request.Person, request.Group, request.Organisation }.Count(name =>
            !string.IsNullOrWhiteSpace(name)
        );
        if (named != 1)
            return new Refusal(
                "grant.holder",
                "Exactly one of person, group and organisation must be named.",
                "Name the one it is given to.",
                Field: "person"
            );
        if (!string.IsNullOrWhiteSpace(request.Group))
            return world.FindGroup(request.Group).Try(out var group, out var refusal)
                ? (HolderKind.Group, group.Id, group.Name)
                : refusal;
        if (!string.IsNullOrWhiteSpace(request.Organisation))
            return world.FindOrganisation(request.Organisation).Try(out var organisation, out var refusal)
                ? (HolderKind.Organisation, organisation.Id, organisation.Name)
                : refusal;
        return await People.FindAsync(write.Rows, request.Person!) is { EndedAt: null } member
            ? (HolderKind.Member, member.Id, member.Name)
            : People.NotFound;
    }

    private static GrantAnswer AnswerOf(Edited<GrantRow> edited) =>
        new(ViewOf(edited.Value, edited.World), edited.Difference, edited.Told);
}
