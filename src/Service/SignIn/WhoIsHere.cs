using ComeAboard.Client.SignIn;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Accounts as those see them who are signed in with one: who they are, and where they are let in.</summary>
public sealed class WhoIsHere(Database database, AccessWorlds worlds, TimeProvider clock)
{
    /// <summary>The account with an id; null where there is none.</summary>
    public async Task<AccountRow?> AccountAsync(Guid? id)
    {
        if (id is null)
            return null;
        await using var rows = database.Open();
        return await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id);
    }

    /// <summary>As whom an account is in a workspace; null when it is not.</summary>
    public async Task<Guid?> MemberAsync(Guid account, Guid workspace)
    {
        await using var rows = database.Open(workspace);
        return await rows
            .Members.Where(m => m.AccountId == account && m.EndedAt == null)
            .Select(m => (Guid?)m.Id)
            .FirstOrDefaultAsync();
    }

    /// <summary>The short name of the workspace an account has a duty in, when that is the only one it is in; else null.</summary>
    public async Task<string?> OnlyChargeAsync(Guid account)
    {
        await using var rows = database.Open();
        var found = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where member.AccountId == account && member.EndedAt == null
            select new { member.Id, workspace }
        )
            .AsNoTracking()
            .Take(2)
            .ToListAsync();
        if (found is not [var only])
            return null;
        var world = await worlds.OfAsync(only.workspace);
        return world.DutiesOf(only.Id, Days.Of(clock.Now(), only.workspace.Zone)) == Duties.None
            ? null
            : only.workspace.ShortName;
    }

    /// <summary>The account with the workspaces it is active in; a token sees only its own.</summary>
    /// <param name="id">The account; null for nobody.</param>
    /// <param name="only">The workspace of the token it came with; null for all.</param>
    public async Task<MeView?> FindAsync(Guid? id, Guid? only)
    {
        var now = clock.Now();
        await using var rows = database.Open();
        if (await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id) is not { } account)
            return null;
        var found = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where
                member.AccountId == account.Id
                && member.EndedAt == null
                && (only == null || member.WorkspaceId == only)
            orderby workspace.Name
            select new { member, workspace }
        )
            .AsNoTracking()
            .ToListAsync();
        var places = new List<PlaceView>();
        foreach (var (member, workspace) in found.Select(f => (f.member, f.workspace)))
        {
            if (!member.IsHere(now, workspace.Zone))
                continue;
            var world = await worlds.OfAsync(workspace);
            var today = Days.Of(now, workspace.Zone);
            var own = world.People.GetValueOrDefault(member.Id);
            places.Add(
                new PlaceView(
                    workspace.ShortName,
                    workspace.Name,
                    member.Kind.Word(),
                    Bundles.SummaryOf(world, member.Id),
                    Bundles.SentenceOf(Phrases.Of(account.Language), world, member.Id, member.Kind),
                    member.LastDay,
                    world.DutiesOf(member.Id, today).List()
                )
                {
                    From = member.Stay.IsBegun(now, workspace.Zone) ? null : member.FirstDay,
                    Host = member.HostName,
                    Stopped =
                        own is null || world.CutOf(own, today) is not (Cut.Paused or Cut.AgreementOver)
                            ? ""
                            : EntryRules.Forbids(world, member.Id, today)!.Sentence,
                    Leads = Readiness.LeadsOf(world, member.Id, today)?.Name ?? "",
                }
            );
        }
        return new MeView(account.Id, account.Name, account.Address, places)
        {
            IsAddressProved = await rows.AccountAddresses.AnyAsync(a =>
                a.AccountId == account.Id && a.Address == account.Address && a.ProvedAt != null
            ),
        };
    }
}
