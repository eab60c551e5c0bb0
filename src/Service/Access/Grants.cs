using System.Linq.Expressions;
using ComeAboard.Client.Access;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Access;

/// <summary>Roles given to members, groups and organisations; changed, and taken.</summary>
public static class Grants
{
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

    /// <summary>What is given to some groups, or to some organisations.</summary>
    public static async Task<ILookup<Guid, GrantRow>> OfAsync(
        ComeAboardContext rows,
        HolderKind kind,
        IReadOnlyList<Guid> holders
    ) =>
        (
            await rows
                .Grants.AsNoTracking()
                .Where(g => g.HolderKind == kind && holders.Contains(g.HolderId))
                .ToListAsync()
        ).ToLookup(g => g.HolderId);

    /// <summary>Takes what hangs on something that is removed.</summary>
    /// <returns>How many grants are taken.</returns>
    public static async Task<int> TakeAllAsync(WorkspaceWrite write, Expression<Func<GrantRow, bool>> hanging)
    {
        var given = await write.Rows.Grants.Where(hanging).ToListAsync();
        foreach (var grant in given)
            Record(write, "grant.taken", grant, await write.WorldAsync());
        write.Rows.Grants.RemoveRange(given);
        return given.Count;
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
}
