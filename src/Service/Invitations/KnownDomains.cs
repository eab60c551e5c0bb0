using ComeAboard.Core.Invitations;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>The mail domains in use in a workspace, from which likely corrections are learned.</summary>
public static class KnownDomains
{
    private const int Enough = 5_000;

    /// <summary>Reads the domains of the people here, and of those invited last.</summary>
    public static async Task<DomainsInUse> ReadAsync(ComeAboardContext rows)
    {
        var addresses = await rows
            .Members.OrderByDescending(m => m.Id)
            .Select(m => m.Address)
            .Take(Enough)
            .Concat(
                rows.Invitations.Where(i => i.State == InvitationState.Accepted)
                    .OrderByDescending(i => i.Id)
                    .Select(i => i.Address)
                    .Take(Enough)
            )
            .ToListAsync();
        return new DomainsInUse(
            addresses
                .Select(address => address[(address.LastIndexOf('@') + 1)..])
                .CountBy(domain => domain, StringComparer.Ordinal)
        );
    }
}
