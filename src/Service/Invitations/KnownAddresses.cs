using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>What a workspace knows of some addresses: who is a member, who is invited, who asked not to be.</summary>
public sealed class KnownAddresses
{
    private readonly Dictionary<string, (Guid Id, DateOnly? LastDay)> _members;
    private readonly Dictionary<string, (Guid Id, DateTimeOffset Deadline)> _pending;
    private readonly HashSet<string> _optedOut;

    private KnownAddresses(
        Dictionary<string, (Guid, DateOnly?)> members,
        Dictionary<string, (Guid, DateTimeOffset)> pending,
        HashSet<string> optedOut
    ) => (_members, _pending, _optedOut) = (members, pending, optedOut);

    /// <summary>Reads all that is known of some addresses, in three looks however many there are.</summary>
    public static async Task<KnownAddresses> ReadAsync(
        ComeAboardContext rows,
        IReadOnlyList<EmailAddress> addresses
    )
    {
        var keys = addresses.Select(address => address.Key).ToList();
        var hashes = addresses.Select(Inviting.OptOutHash).ToList();
        var members = await rows
            .Members.Where(m => keys.Contains(m.AddressKey) && m.EndedAt == null)
            .Select(m => new
            {
                m.AddressKey,
                m.Id,
                m.LastDay,
            })
            .ToListAsync();
        var pending = await rows
            .Invitations.Where(i =>
                keys.Contains(i.AddressKey)
                && (i.State == InvitationState.Queued || i.State == InvitationState.Sent)
            )
            .Select(i => new
            {
                i.AddressKey,
                i.Id,
                i.Deadline,
            })
            .ToListAsync();
        var optedOut = await rows
            .OptOuts.Where(o => hashes.Contains(o.AddressHash))
            .Select(o => o.AddressHash)
            .ToListAsync();
        return new KnownAddresses(
            members
                .GroupBy(m => m.AddressKey)
                .ToDictionary(g => g.Key, g => (g.First().Id, g.First().LastDay)),
            pending.ToDictionary(i => i.AddressKey, i => (i.Id, i.Deadline)),
            [.. optedOut]
        );
    }

    /// <summary>How an address stands at an instant.</summary>
    public AddressStanding Of(EmailAddress address, DateTimeOffset now, TimeZoneInfo zone)
    {
        Guid? member =
            _members.TryGetValue(address.Key, out var found) && !new Stay(found.LastDay).IsOver(now, zone)
                ? found.Id
                : null;
        Guid? pending =
            _pending.TryGetValue(address.Key, out var invited) && invited.Deadline > now ? invited.Id : null;
        return new AddressStanding(member, pending, _optedOut.Contains(Inviting.OptOutHash(address)));
    }

    /// <summary>Notes an invitation just decided, for those that are decided after it.</summary>
    public void NoteInvited(EmailAddress address, Guid id, DateTimeOffset deadline) =>
        _pending[address.Key] = (id, deadline);

    /// <summary>An overdue invitation nobody has noticed yet must not stand in the way of a new one.</summary>
    public async Task ExpireOverdueAsync(WorkspaceWrite write)
    {
        var overdue = _pending
            .Values.Where(invited => invited.Deadline <= write.Now)
            .Select(invited => invited.Id)
            .ToList();
        if (overdue.Count == 0)
            return;
        foreach (
            var invitation in await write.Rows.Invitations.Where(i => overdue.Contains(i.Id)).ToListAsync()
        )
            await InvitationSteps.ExpireAsync(write, invitation);
        await write.Rows.SaveChangesAsync();
    }
}
