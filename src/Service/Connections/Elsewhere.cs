using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Connections;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Connections;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Connections;

/// <summary>What one person has in all connected systems, asked there at this moment.</summary>
public sealed class Elsewhere(Database database, Sources sources, Targets targets, TimeProvider clock)
{
    /// <summary>Asks every connected system for somebody's account, side by side.</summary>
    public async Task<Outcome<Page<PersonThereView>>> AskAsync(
        Visitor visitor,
        string person,
        CancellationToken stop
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound;
        var connections = await rows
            .Connections.AsNoTracking()
            .Where(c => rows.Lanes.Any(l => l.WorkspaceId == c.WorkspaceId && l.Id == c.Id))
            .OrderBy(c => c.NameKey)
            .ToListAsync(stop);
        var asked = new List<Task<PersonThereView>>();
        foreach (var connection in connections)
        {
            var mapping = await Carrier.MappingOf(rows, connection.Id);
            var wanted = Carrying.Of(
                visitor.World,
                mapping,
                member.Id,
                Days.Of(clock.Now(), visitor.Workspace.Zone)
            );
            var row =
                await rows
                    .AccountsThere.AsNoTracking()
                    .FirstOrDefaultAsync(
                        a => a.ConnectionId == connection.Id && a.MemberId == member.Id,
                        stop
                    )
                ?? new AccountThereRow
                {
                    WorkspaceId = visitor.WorkspaceId,
                    ConnectionId = connection.Id,
                    MemberId = member.Id,
                    // Whatever is there by their address is of interest, whether or not we know of it.
                    Wanted = AccountThere.On,
                    WantedGroups = "",
                    Address = member.Address,
                    Name = member.Name,
                    State = ThereState.Confirmed,
                    Urgency = 1,
                };
            asked.Add(
                AskAsync(visitor, connection, KnownAccounts.Managed(mapping, [row]), row, wanted, stop)
            );
        }
        return new Page<PersonThereView>(await Task.WhenAll(asked), null);
    }

    private async Task<PersonThereView> AskAsync(
        Visitor visitor,
        ConnectionRow connection,
        HashSet<string> managed,
        AccountThereRow row,
        WantedThere wanted,
        CancellationToken stop
    )
    {
        var profile = KnownAccounts.ProfileOf(row, visitor.Workspace.Zone);
        try
        {
            var target = targets.Find(connection.Type)!;
            await using var session = await target.OpenAsync(sources.AccessOf(connection), managed, stop);
            if (session is not IAskedSession there)
                return ViewOf(row.Held?.Word() ?? "", Carrier.SetOf(row.HeldGroups), "told", "");
            var held = await Push.HeldAsync(there, row, profile, stop);
            var isOurs =
                held is not null
                && (held.Key == row.TheirKey ? row.IsOurs : Pairing.IsMarked(held, row.MemberId));
            var steps = ThereDifference.Between(wanted, profile, held, managed, isOurs);
            return ViewOf(
                ThereDifference.StateOf(held).Word(),
                [.. held?.Groups ?? []],
                steps.Count == 0 ? "as it ought to be" : "otherwise",
                steps.Count == 0 ? "" : "to be " + string.Join(", ", steps.Select(step => step.Said()))
            );
        }
        catch (TargetException no)
        {
            return ViewOf("", [], "not answered", no.Message);
        }

        PersonThereView ViewOf(string held, IReadOnlyList<string> groups, string state, string answer) =>
            new(
                connection.Name,
                connection.Type,
                wanted.Account.Word(),
                [.. wanted.Groups],
                held,
                groups,
                state,
                answer
            );
    }
}
