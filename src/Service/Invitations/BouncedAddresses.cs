using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Invitations;

/// <summary>Addresses from which mail came back: none is written to again before somebody says so.</summary>
public sealed class BouncedAddresses(Database database, WorkspaceWriter writer)
{
    private const int Most = 1_000;

    /// <summary>They, latest first.</summary>
    public async Task<Page<BouncedAddressView>> ListAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows
            .BouncedAddresses.AsNoTracking()
            .OrderBy(b => b.AddressKey)
            .Take(Most)
            .ToListAsync();
        return new Page<BouncedAddressView>(
            [
                .. found
                    .OrderByDescending(b => b.At)
                    .Select(b => new BouncedAddressView(
                        b.Address,
                        $"Mail came back: {EnhancedStatus.Explain(b.Answer)}.",
                        b.Answer,
                        b.At
                    )),
            ],
            null
        );
    }

    /// <summary>Lets an address be written to again.</summary>
    public async Task<Outcome<bool>> ForgetAsync(Visitor visitor, string address)
    {
        if (!EmailAddress.Read(address).Try(out var read, out var refusal))
            return refusal;
        return await writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.BouncedAddresses.FirstOrDefaultAsync(b =>
                    b.AddressKey == read.Key
                );
                if (row is null)
                    return CommonRefusals.NotFound;
                write.Rows.BouncedAddresses.Remove(row);
                write.Record("bounce.forgotten", write.Workspace.Id, ("address", row.Address));
                return true;
            }
        );
    }
}
