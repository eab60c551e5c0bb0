using System.Security.Cryptography;
using System.Text;
using ComeAboard.Core;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>
/// Addresses whose owners want no invitations, kept as hashes. What was said with a mailed link counts in every
/// workspace; what was said with one handed over by another way proves no mailbox, and counts only where it was said.
/// </summary>
public static class OptOuts
{
    /// <summary>The form in which an opted-out address is kept.</summary>
    /// <param name="address">The address.</param>
    /// <param name="only">The only workspace where it counts; null for everywhere.</param>
    public static string HashOf(EmailAddress address, Guid? only = null) =>
        Convert.ToHexStringLower(
            SHA256.HashData(
                Encoding.UTF8.GetBytes(
                    only is { } id ? $"opt-out:{id}:{address.Key}" : "opt-out:" + address.Key
                )
            )
        );

    /// <summary>Keeps that the owner of an invited address wants no more invitations.</summary>
    public static async Task AddAsync(WorkspaceWrite write, InvitationRow invitation, bool isProved)
    {
        var address = EmailAddress.Read(invitation.Address).Value;
        var hash = HashOf(address, isProved ? null : write.Workspace.Id);
        if (await write.Rows.OptOuts.AnyAsync(o => o.AddressHash == hash))
            return;
        write.Rows.OptOuts.Add(new OptOutRow { AddressHash = hash, At = write.Now });
        write.Record(
            "address.opted-out",
            invitation.Id,
            ("address", invitation.Address),
            ("counts", isProved ? "everywhere" : "in this workspace")
        );
    }

    /// <summary>Lets an address be invited again, everywhere and here; its owner has proved it.</summary>
    public static async Task LiftAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var address = EmailAddress.Read(invitation.Address).Value;
        string[] hashes = [HashOf(address), HashOf(address, write.Workspace.Id)];
        if (await write.Rows.OptOuts.Where(o => hashes.Contains(o.AddressHash)).ExecuteDeleteAsync() > 0)
            write.Record("address.opted-in", invitation.Id, ("address", invitation.Address));
    }
}
