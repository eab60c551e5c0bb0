using System.Text.Json;
using System.Text.Json.Serialization;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Departures;
using ComeAboard.Service.Access;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Connections;
using ComeAboard.Storage.Invitations;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>The steps of a departure: carried out, kept, and written into the record.</summary>
public static class DepartureSteps
{
    private static readonly JsonSerializerOptions Kept = new(JsonSerializerDefaults.Web)
    {
        Converters = { new JsonStringEnumConverter() },
    };

    /// <summary>Steps as they are kept.</summary>
    public static string Write(IReadOnlyList<DepartureStep> steps) => JsonSerializer.Serialize(steps, Kept);

    /// <summary>Steps as they were kept.</summary>
    public static IReadOnlyList<DepartureStep> Read(string kept) =>
        kept.Length == 0 ? [] : JsonSerializer.Deserialize<IReadOnlyList<DepartureStep>>(kept, Kept) ?? [];

    /// <summary>How many of each deed there were, and by what names, for the entry that says somebody was ended.</summary>
    public static (string Name, object? Value)[] ForTheRecord(IReadOnlyList<DepartureStep> steps) =>
        [
            ("seats freed", Names(steps, DepartureDeed.FreeSeat)),
            ("resources passed on", Names(steps, DepartureDeed.HandOver)),
            ("guests passed on", Names(steps, DepartureDeed.PassOnGuest)),
            ("join links closed", Names(steps, DepartureDeed.CloseLink)),
            ("lists stopped", Names(steps, DepartureDeed.StopList)),
            ("sessions closed", Count(steps, DepartureDeed.CloseSession)),
            ("tokens revoked", Count(steps, DepartureDeed.RevokeToken)),
            ("invitations passed on", Count(steps, DepartureDeed.PassOnInvitation)),
            ("accounts to close", Names(steps, DepartureDeed.CloseAccount)),
            ("passed on to", steps.FirstOrDefault(step => step.Heir is not null)?.HeirName),
        ];

    /// <summary>Carries the steps out; gives back the accounts elsewhere that they close.</summary>
    public static async Task<IReadOnlyList<AccountThereRow>> CarryOutAsync(
        WorkspaceWrite write,
        MemberRow leaver,
        Guid departure,
        IReadOnlyList<DepartureStep> steps
    )
    {
        IReadOnlyList<AccountThereRow> closing = [];
        foreach (var alike in steps.GroupBy(step => step.Deed))
        {
            var by = alike.ToDictionary(step => step.Subject);
            var ids = by.Keys.ToList();
            if (alike.Key == DepartureDeed.CloseAccount)
            {
                closing = await CloseAccountsAsync(write, leaver, departure, ids);
                continue;
            }
            await (
                alike.Key switch
                {
                    DepartureDeed.StopAccess => StopAccessAsync(write, leaver),
                    DepartureDeed.CloseSession => CloseSessionsAsync(write, ids),
                    DepartureDeed.RevokeToken => RevokeTokensAsync(write, ids),
                    DepartureDeed.CloseLink => CloseLinksAsync(write, ids),
                    DepartureDeed.StopList => StopListsAsync(write, leaver, ids),
                    DepartureDeed.PassOnInvitation => PassOnInvitationsAsync(write, leaver, by),
                    DepartureDeed.PassOnHosting => PassOnHostingAsync(write, by),
                    DepartureDeed.PassOnGuest => PassOnGuestsAsync(write, leaver, by),
                    DepartureDeed.HandOver => HandOverAsync(write, leaver, by),
                    _ => Seating.TakeAllAsync(write, leaver.Id, leaver.Name),
                }
            );
        }
        return closing;
    }

    private static string? Names(IReadOnlyList<DepartureStep> steps, DepartureDeed deed)
    {
        var names = steps.Where(step => step.Deed == deed).Select(step => step.Name).ToList();
        return names.Count > 0 ? string.Join(", ", names) : null;
    }

    private static int Count(IReadOnlyList<DepartureStep> steps, DepartureDeed deed) =>
        steps.Count(step => step.Deed == deed);

    private static Task StopAccessAsync(WorkspaceWrite write, MemberRow leaver)
    {
        leaver.EndedAt = write.Now;
        leaver.Version++;
        return Task.CompletedTask;
    }

    private static async Task CloseSessionsAsync(WorkspaceWrite write, List<Guid> ids) =>
        write.Rows.Sessions.RemoveRange(
            await write.Rows.Sessions.Where(s => ids.Contains(s.Id)).ToListAsync()
        );

    private static async Task RevokeTokensAsync(WorkspaceWrite write, List<Guid> ids)
    {
        foreach (var token in await write.Rows.ApiTokens.Where(t => ids.Contains(t.Id)).ToListAsync())
            token.RevokedAt = write.Now;
    }

    private static async Task CloseLinksAsync(WorkspaceWrite write, List<Guid> ids)
    {
        foreach (var link in await write.Rows.JoinLinks.Where(l => ids.Contains(l.Id)).ToListAsync())
        {
            link.ClosedAt = write.Now;
            link.Version++;
            write.Record("link.closed", link.Id, ("label", link.Label), ("uses", link.Uses));
        }
    }

    private static async Task StopListsAsync(WorkspaceWrite write, MemberRow leaver, List<Guid> ids)
    {
        foreach (var list in await write.Rows.Batches.Where(b => ids.Contains(b.Id)).ToListAsync())
        {
            (list.State, list.FinishedAt) = (BatchState.Stopped, write.Now);
            list.Fault = $"{leaver.Name}, in whose name it was sent, has left.";
            write.Record("batch.stopped", list.Id, ("name", list.Name), ("why", list.Fault));
        }
    }

    /// <summary>What is to be closed elsewhere is due with the very change that ends access here.</summary>
    private static async Task<IReadOnlyList<AccountThereRow>> CloseAccountsAsync(
        WorkspaceWrite write,
        MemberRow leaver,
        Guid departure,
        List<Guid> connections
    )
    {
        var closing = new List<AccountThereRow>();
        foreach (var connection in connections)
        {
            if (
                await write.Rows.AccountsThere.FindAsync(write.Workspace.Id, connection, leaver.Id)
                is not { } account
            )
                continue;
            if (account.Wanted != AccountThere.Gone)
                Carrier.Want(account, WantedThere.Nothing, write.Now);
            account.DepartureId = departure;
            closing.Add(account);
        }
        write.Wake(connections);
        return closing;
    }

    /// <summary>What a leaver asked is asked by the heir from now on, so that every open question has an owner.</summary>
    private static async Task PassOnInvitationsAsync(
        WorkspaceWrite write,
        MemberRow leaver,
        Dictionary<Guid, DepartureStep> by
    )
    {
        var ids = by.Keys.ToList();
        foreach (var invitation in await write.Rows.Invitations.Where(i => ids.Contains(i.Id)).ToListAsync())
        {
            var step = by[invitation.Id];
            (invitation.InvitedBy, invitation.InvitedByName) = (step.Heir!.Value, step.HeirName);
            invitation.Version++;
            write.Record(
                "invitation.passed-on",
                invitation.Id,
                ("address", invitation.Address),
                ("before", leaver.Name),
                ("after", step.HeirName)
            );
        }
    }

    private static async Task PassOnHostingAsync(WorkspaceWrite write, Dictionary<Guid, DepartureStep> by)
    {
        var ids = by.Keys.ToList();
        foreach (var invitation in await write.Rows.Invitations.Where(i => ids.Contains(i.Id)).ToListAsync())
        {
            var step = by[invitation.Id];
            (invitation.HostId, invitation.HostName) = (step.Heir, step.HeirName);
            invitation.Version++;
        }
    }

    private static async Task PassOnGuestsAsync(
        WorkspaceWrite write,
        MemberRow leaver,
        Dictionary<Guid, DepartureStep> by
    )
    {
        var ids = by.Keys.ToList();
        foreach (var guest in await write.Rows.Members.Where(m => ids.Contains(m.Id)).ToListAsync())
        {
            var step = by[guest.Id];
            (guest.HostId, guest.HostName) = (step.Heir, step.HeirName);
            guest.Version++;
            write.Record(
                "member.host-changed",
                guest.Id,
                ("name", guest.Name),
                ("before", leaver.Name),
                ("after", step.HeirName)
            );
        }
    }

    /// <summary>What a leaver owned is owned by the heir: nothing is left without somebody answerable.</summary>
    private static async Task HandOverAsync(
        WorkspaceWrite write,
        MemberRow leaver,
        Dictionary<Guid, DepartureStep> by
    )
    {
        var ids = by.Keys.ToList();
        foreach (var resource in await write.Rows.Resources.Where(r => ids.Contains(r.Id)).ToListAsync())
        {
            resource.OwnerId = by[resource.Id].Heir!.Value;
            resource.Version++;
            write.Record(
                "resource.handed-over",
                resource.Id,
                ("name", resource.Name),
                ("before", leaver.Name),
                ("after", by[resource.Id].HeirName)
            );
        }
    }
}
