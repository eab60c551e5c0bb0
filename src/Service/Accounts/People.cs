using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Finding people, and showing them.</summary>
public static class People
{
    public static Refusal NotFound { get; } =
        new(
            "person.not-found",
            "There is nobody here by that address or id.",
            "Look the person up in the list of people.",
            RefusalSort.NotFound
        );

    /// <summary>
    /// The member with an id, or at an address: the one not ended if there is one, else the latest. Tracked, so that a
    /// change can go on from it.
    /// </summary>
    public static async Task<MemberRow?> FindAsync(ComeAboardContext rows, string person)
    {
        if (Guid.TryParse(person, out var id))
            return await rows.Members.FirstOrDefaultAsync(m => m.Id == id);
        if (!EmailAddress.Read(person).Try(out var address, out _))
            return null;
        return await rows
            .Members.Where(m => m.AddressKey == address.Key)
            .OrderByDescending(m => m.EndedAt == null)
            .ThenByDescending(m => m.Id)
            .FirstOrDefaultAsync();
    }

    /// <summary>The active member at an address or with an id; refuses with <c>person.not-found</c> or <c>person.not-active</c>.</summary>
    public static async Task<Outcome<MemberRow>> ActiveAsync(WorkspaceWrite write, string person)
    {
        if (await FindAsync(write.Rows, person) is not { } member)
            return NotFound;
        var world = await write.WorldAsync();
        return Visitors.Forbids(world, member.Id, write.Today) is null
            ? member
            : new Refusal(
                "person.not-active",
                $"{member.Name} has no access here today.",
                "Choose somebody who has.",
                RefusalSort.Conflict
            );
    }

    /// <summary>People as of an instant.</summary>
    public static async Task<IReadOnlyList<PersonView>> ViewsAsync(
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
                )
            ),
        ];
    }

    /// <summary>One person as of an instant.</summary>
    public static async Task<PersonView> ViewAsync(
        ComeAboardContext rows,
        MemberRow person,
        DateTimeOffset now,
        WorkspaceRow workspace,
        AccessWorld world
    ) => (await ViewsAsync(rows, [person], now, workspace, world))[0];

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
            isActive && world.DutiesOf(row.Id, today).HasFlag(DutyWords.OfAdministrator),
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
        };
    }
}
