using ComeAboard.Client.Accounts;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Members as they are shown.</summary>
public static class PersonViews
{
    /// <summary>People as of an instant.</summary>
    public static async Task<IReadOnlyList<PersonView>> OfAsync(
        ComeAboardContext rows,
        IReadOnlyList<MemberRow> people,
        DateTimeOffset now,
        WorkspaceRow workspace,
        AccessWorld world
    )
    {
        // Whoever has left is not part of the picture any more; what they held last is looked up.
        var gone = people.Where(m => !world.People.ContainsKey(m.Id)).Select(m => m.Id).ToList();
        var held = (
            gone.Count == 0
                ? []
                : await rows
                    .Grants.AsNoTracking()
                    .Where(g => g.HolderKind == HolderKind.Member && gone.Contains(g.HolderId))
                    .ToListAsync()
        ).ToLookup(g => g.HolderId, g => new GivenRole(g.RoleId, g.ResourceId));
        var ids = people.Select(m => (Guid?)m.Id).ToList();
        var merged = (
            await rows
                .Members.AsNoTracking()
                .Where(m => m.MergedIntoId != null && ids.Contains(m.MergedIntoId))
                .OrderBy(m => m.Address)
                .Select(m => new { m.MergedIntoId, m.Address })
                .ToListAsync()
        ).ToLookup(m => m.MergedIntoId, m => m.Address);
        return
        [
            .. people.Select(m =>
                ViewOf(
                    m,
                    now,
                    workspace,
                    world,
                    world.People.ContainsKey(m.Id)
                        ? null
                        : Bundles.Summary(new Bundle([.. held[m.Id]], [], []), world)
                ) with
                {
                    AlsoAt = [.. merged[m.Id]],
                    MergedInto = m.MergedIntoId,
                }
            ),
        ];
    }

    /// <summary>One person as of an instant.</summary>
    public static async Task<PersonView> OfOneAsync(
        ComeAboardContext rows,
        MemberRow person,
        DateTimeOffset now,
        WorkspaceRow workspace,
        AccessWorld world
    ) => (await OfAsync(rows, [person], now, workspace, world))[0];

    private static PersonView ViewOf(
        MemberRow row,
        DateTimeOffset now,
        WorkspaceRow workspace,
        AccessWorld world,
        string? held
    )
    {
        var isHere = row.IsHere(now, workspace.Zone);
        var isActive = row.IsActive(now, workspace.Zone);
        var today = Days.Of(now, workspace.Zone);
        return new PersonView(
            row.Id,
            row.Name,
            row.Address,
            row.Kind.Word(),
            held ?? Bundles.SummaryOf(world, row.Id),
            isActive && world.DutiesHeldBy(row.Id, today).HasFlag(DutyWords.OfAdministrator),
            !isHere ? "ended"
                : row.PausedAt is not null ? "paused"
                : isActive ? "active"
                : "upcoming",
            row.LastDay,
            row.JoinedAt,
            row.EndedAt ?? (isHere ? null : row.Stay.Over(workspace.Zone)),
            row.InvitedByName,
            row.Version
        )
        {
            InvitedAs = row.InvitedAs,
            VouchedBy = row.VouchedByName,
            From = row.FirstDay,
            Organisation = row.Organisation,
            OrganisationId = row.OrganisationId,
            Leads = row.Leads,
            LastSeenAt = row.LastSeenAt,
            Title = row.Title,
            Department = row.Department,
            Manager = row.Manager,
            Country = row.Country,
            Note = row.Note,
            Host = row.HostName,
            LinkId = row.LinkId,
            NameByStandard = isHere
                ? WorkspaceRules
                    .Of(workspace)
                    .OutsiderNames.Offer(
                        row.Name,
                        row.OrganisationId is { } own && world.Organisations.TryGetValue(own, out var known)
                            ? known.Name
                            : row.Organisation,
                        row.Kind
                    )
                : null,
        };
    }
}
