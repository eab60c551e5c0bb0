using ComeAboard.Client.SignIn;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>What is kept about the holder of an account, in every workspace, written out for themselves.</summary>
public sealed class StoredAbout(Database database, YourAccount own, TimeProvider clock)
{
    /// <summary>Writes everything out.</summary>
    /// <param name="account">Whose.</param>
    /// <param name="session">The hash of the session that asks.</param>
    public async Task<StoredAboutYou> WriteAsync(AccountRow account, string? session)
    {
        var id = account.Id;
        await using var rows = database.Open();
        var proved = await rows
            .AccountAddresses.AsNoTracking()
            .Where(a => a.AccountId == id && a.ProvedAt != null)
            .ToListAsync();
        var keys = proved.Select(a => a.AddressKey).ToList();
        var members = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where member.AccountId == id
            orderby member.JoinedAt descending
            select new { member, workspace.Name }
        )
            .AsNoTracking()
            .ToListAsync();
        // A draft has gone to nobody, and tells what somebody only thinks of.
        var invitations = await (
            from invitation in rows.Invitations.IgnoreQueryFilters()
            join workspace in rows.Workspaces on invitation.WorkspaceId equals workspace.Id
            where
                (invitation.AccountId == id || keys.Contains(invitation.AddressKey))
                && invitation.State != InvitationState.Draft
            orderby invitation.CreatedAt descending
            select new { invitation, workspace.Name }
        )
            .AsNoTracking()
            .ToListAsync();
        var stopped = new List<string>();
        foreach (var address in proved)
        {
            var read = EmailAddress.Read(address.Address).Value;
            // Said to everybody, or to one of those who wrote.
            List<string> hashes =
            [
                OptOuts.HashOf(read),
                .. invitations
                    .Select(found => found.invitation.WorkspaceId)
                    .Distinct()
                    .Select(workspace => OptOuts.HashOf(read, workspace)),
            ];
            if (await rows.OptOuts.AnyAsync(o => hashes.Contains(o.AddressHash)))
                stopped.Add(address.Address);
        }
        var (places, ids) = (
            members.Select(found => found.member.WorkspaceId).Distinct().ToList(),
            members.Select(found => (Guid?)found.member.Id).ToList()
        );
        var records = await (
            from record in rows.SourceRecords.IgnoreQueryFilters()
            join connection in rows.Connections.IgnoreQueryFilters()
                on new { record.WorkspaceId, Id = record.ConnectionId } equals new
                {
                    connection.WorkspaceId,
                    connection.Id,
                }
            join workspace in rows.Workspaces on record.WorkspaceId equals workspace.Id
            where places.Contains(record.WorkspaceId) && ids.Contains(record.JoinedId)
            select new
            {
                record,
                Connection = connection.Name,
                workspace.Name,
            }
        )
            .AsNoTracking()
            .ToListAsync();
        return new StoredAboutYou(
            clock.Now(),
            await own.ShowAsync(account, session),
            account.Language,
            account.CreatedAt,
            [.. members.Select(found => Of(found.member, found.Name))],
            [
                .. invitations.Select(found => new StoredInvitation(
                    found.Name,
                    found.invitation.Address,
                    found.invitation.Name,
                    found.invitation.Kind.Word(),
                    found.invitation.State.Word(),
                    found.invitation.Message,
                    found.invitation.InvitedByName,
                    found.invitation.CreatedAt
                )),
            ],
            stopped,
            await own.WholeHistoryAsync(account)
        )
        {
            Records = [.. records.Select(found => Of(found.record, found.Connection, found.Name))],
        };
    }

    private static StoredRecord Of(SourceRecordRow row, string connection, string workspace)
    {
        var record = ConnectionViews.RecordOf(row);
        return new StoredRecord(
            workspace,
            connection,
            record.Shown,
            record.Address,
            record.OtherAddresses,
            record.Organisation,
            record.Title,
            record.Department,
            record.Phone
        );
    }

    private static StoredMembership Of(MemberRow member, string workspace) =>
        new(
            workspace,
            member.Address,
            member.Name,
            member.Kind.Word(),
            member.FirstDay,
            member.LastDay,
            member.Organisation,
            member.Title,
            member.Department,
            member.Manager,
            member.Country,
            member.Note,
            member.HostName,
            member.InvitedByName,
            member.JoinedAt,
            member.LastSeenAt,
            member.EndedAt
        );
}
