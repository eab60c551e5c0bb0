using ComeAboard.Client.Access;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Roles given, changed and taken one by one.</summary>
public sealed class GrantEdits(Database database, Editing editing)
{
    private const int Most = 500;

    /// <summary>The latest grants, those of a role or at a resource.</summary>
    public async Task<Page<GrantView>> ListAsync(Visitor visitor, string? role, string? resource)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = rows.Grants.AsNoTracking();
        if (role is { Length: > 0 } && visitor.World.FindRole(role).Try(out var wanted, out _))
            found = found.Where(g => g.RoleId == wanted.Id);
        if (resource is { Length: > 0 } && visitor.World.FindResource(resource).Try(out var at, out _))
            found = found.Where(g => g.ResourceId == at.Id);
        return new Page<GrantView>(
            Grants.ViewsOf(await found.OrderByDescending(g => g.Id).Take(Most).ToListAsync(), visitor.World),
            null
        );
    }

    /// <summary>Gives a role to a member, a group or an organisation.</summary>
    public async Task<Outcome<GrantAnswer>> GiveAsync(Visitor visitor, GrantRequest request, bool dryRun) =>
        AnswerOf(
            await editing.EditAsync<GrantRow>(
                visitor,
                new EditMode(Duties.None, dryRun, request.Tell),
                (write, editor) => Grants.GiveAsync(write, editor.Id, editor.Name, request)
            )
        );

    /// <summary>Changes the role of a grant, or its end.</summary>
    public async Task<Outcome<GrantAnswer>> ChangeAsync(
        Visitor visitor,
        Guid id,
        GrantChangeRequest request,
        Wanted wanted
    )
    {
        var edited = await editing.EditAsync<GrantRow>(
            visitor,
            new EditMode(Duties.None, wanted.DryRun, wanted.Tell),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (
                    !(await FindAsync(write, world, editor.Id, id, wanted.Expected)).Try(
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
                    ("holder", Grants.ViewOf(row, world).Holder),
                    ("resource", Grants.ViewOf(row, world).Resource),
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
        return AnswerOf(edited);
    }

    /// <summary>Takes a grant.</summary>
    public async Task<Outcome<GrantAnswer>> TakeAsync(Visitor visitor, Guid id, Wanted wanted)
    {
        var edited = await editing.EditAsync<GrantRow>(
            visitor,
            new EditMode(Duties.None, wanted.DryRun, wanted.Tell),
            async (write, editor) =>
            {
                var world = await write.WorldAsync();
                if (
                    !(await FindAsync(write, world, editor.Id, id, wanted.Expected)).Try(
                        out var row,
                        out var refusal
                    )
                )
                    return refusal;
                write.Rows.Grants.Remove(row);
                Grants.Record(write, "grant.taken", row, world);
                return row;
            }
        );
        return AnswerOf(edited);
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
        return row.IsStale(expected) ? CommonRefusals.Stale : row;
    }

    private static Outcome<GrantAnswer> AnswerOf(Outcome<Edited<GrantRow>> outcome) =>
        outcome.Then(edited => new GrantAnswer(
            Grants.ViewOf(edited.Value, edited.World),
            edited.Difference,
            edited.Told
        ));
}
