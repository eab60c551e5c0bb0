using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>Tells those who look after a workspace what became of the proof of a domain.</summary>
public sealed class DomainNews(Outbox outbox, ServiceSettings settings)
{
    private const int MostTold = 10;

    /// <summary>Queues the mails about a turn, within the change that makes it.</summary>
    public async Task TellAsync(WorkspaceWrite write, DomainRow row, DomainTurn turn)
    {
        var world = await write.WorldAsync();
        var told = world
            .People.Keys.Where(id => world.DutiesHeldBy(id, write.Today).HasFlag(Duties.Settings))
            .ToList();
        var members = await write
            .Rows.Members.AsNoTracking()
            .Where(m => told.Contains(m.Id) && m.EndedAt == null)
            .OrderBy(m => m.Id)
            .Take(MostTold)
            .ToListAsync();
        var link = settings.Link($"/w/{write.Workspace.ShortName}/workspace/domains");
        foreach (var member in members)
            outbox.Queue(
                write,
                Purposes.News,
                member.Address,
                Letters.DomainTurned(member, write.Workspace, row.Domain, turn, row.Proof.LostAt, link)
            );
    }
}
