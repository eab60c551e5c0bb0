using ComeAboard.Core.Invitations;
using Microsoft.EntityFrameworkCore;
using Xunit;

namespace ComeAboard.Service.Tests.World;

/// <summary>Nothing that is open names somebody who has gone.</summary>
public static class OpenThings
{
    public static async Task NameNobodyGoneAsync(Harbour harbour, Ship ship)
    {
        await using var rows = harbour.Database.Open(ship.Id);
        var here = (
            await rows.Members.Where(m => m.EndedAt == null).Select(m => m.Id).ToListAsync()
        ).ToHashSet();
        var named = new List<Guid>();
        foreach (
            var open in await rows
                .Invitations.Where(i => i.IsPending || i.State == InvitationState.Draft)
                .ToListAsync()
        )
        {
            named.Add(open.InvitedBy);
            if (open.HostId is { } host)
                named.Add(host);
        }
        named.AddRange(
            await rows.JoinLinks.Where(l => l.ClosedAt == null).Select(l => l.CreatedBy).ToListAsync()
        );
        named.AddRange(
            await rows
                .Members.Where(m => m.EndedAt == null && m.HostId != null)
                .Select(m => m.HostId!.Value)
                .ToListAsync()
        );
        named.AddRange(
            (await rows.Resources.Select(r => r.OwnerId).ToListAsync())
                .Where(id => id != null)
                .Select(id => id!.Value)
        );
        Assert.All(named, id => Assert.Contains(id, here));
    }
}
