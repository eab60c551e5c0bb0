using ComeAboard.Client.Accounts;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
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

    /// <summary>A person as of an instant.</summary>
    public static PersonView ViewOf(MemberRow row, DateTimeOffset now, WorkspaceRow workspace)
    {
        var isHere = row.IsHere(now, workspace.Zone);
        var isActive = row.IsActive(now, workspace.Zone);
        return new PersonView(
            row.Id,
            row.Name,
            row.Address,
            row.Kind.Word(),
            row.Role,
            isActive && row.CoreRole.DutiesFor(row.Kind) != Duties.None,
            isActive ? "active"
                : isHere ? "upcoming"
                : "ended",
            row.LastDay,
            row.JoinedAt,
            row.EndedAt ?? (isHere ? null : row.Stay.Over(workspace.Zone)),
            row.InvitedByName,
            row.Version
        )
        {
            From = row.FirstDay,
            Organisation = row.Organisation,
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
