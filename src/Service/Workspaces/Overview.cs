using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Connections;
using ComeAboard.Service.Departures;
using ComeAboard.Service.Invitations;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>A workspace at a glance.</summary>
public sealed class Overview(Database database, TimeProvider clock)
{
    private const int SoonEndingDays = 30;
    private const int SoonExpiringDays = 3;
    private const int Most = 20;

    /// <summary>The colour of the workspace with a short name; null where it has none, or there is no such workspace.</summary>
    public async Task<string?> ColourAsync(string shortName)
    {
        await using var rows = database.Open();
        return await rows
            .Workspaces.Where(w => w.ShortName == shortName)
            .Select(w => w.Colour)
            .FirstOrDefaultAsync();
    }

    /// <summary>The workspace itself, as its members see it.</summary>
    public WorkspaceView ShowWorkspace(Visitor visitor)
    {
        var workspace = visitor.Workspace;
        return new WorkspaceView(
            workspace.Name,
            workspace.ShortName,
            workspace.TimeZone,
            workspace.Language,
            workspace.SenderName,
            workspace.ReplyTo,
            (int)workspace.AnswerTime.TotalDays,
            Days.Of(clock.Now(), workspace.Zone),
            [
                .. AccessWorld
                    .InOrder(visitor.World.Roles.Values)
                    .Select(role => new RoleView(role.Name, role.Sentence)),
            ]
        )
        {
            Colour = workspace.Colour,
            UsualStayDays = Kinds
                .All.Select(kind => (Kind: kind, Days: WorkspaceRules.Of(workspace).UsualDays(kind)))
                .Where(usual => usual.Days is not null)
                .ToDictionary(usual => usual.Kind.Word(), usual => usual.Days!.Value),
            Appearance = WorkspaceRules.AppearanceOf(workspace),
            Duties = visitor.Duties.List(),
            StrongSignInFrom =
                visitor.Duties != Duties.None && visitor.Proof is { IsStrong: false }
                    ? WorkspaceRules.Of(workspace).StrongSignInFrom
                    : null,
            Pages = [.. ConsolePages.For(visitor.Duties).Select(page => page.Title())],
        };
    }

    /// <summary>What waits and who is here, in numbers; who leaves soon and what expires, as far as the visitor's duties go.</summary>
    public async Task<OverviewView> ShowAsync(Visitor visitor)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var now = clock.Now();
        var zone = visitor.Workspace.Zone;
        var today = Days.Of(now, zone);
        var soon = today.AddDays(SoonEndingDays);
        var closing = now.AddDays(SoonExpiringDays);
        var present = rows
            .Members.AsNoTracking()
            .Where(m => m.EndedAt == null && (m.LastDay == null || m.LastDay >= today));
        var kinds = await present
            .GroupBy(m => m.Kind)
            .Select(g => new { g.Key, Count = g.LongCount() })
            .ToListAsync();
        var seesPeople = (visitor.Duties & (Duties.People | Duties.Access)) != Duties.None;
        var seesInvitations = (visitor.Duties & (Duties.Invite | Duties.Approve)) != Duties.None;
        var ending = await present
            .Where(m => seesPeople && m.LastDay <= soon)
            .OrderBy(m => m.LastDay)
            .ThenBy(m => m.Id)
            .Take(Most)
            .ToListAsync();
        var expiring = await rows
            .Invitations.AsNoTracking()
            .Where(i =>
                seesInvitations
                && (i.State == InvitationState.Queued || i.State == InvitationState.Sent)
                && i.Deadline > now
                && i.Deadline <= closing
            )
            .OrderBy(i => i.Deadline)
            .Take(Most)
            .ToListAsync();
        var strongFrom = WorkspaceRules.Of(visitor.Workspace).StrongSignInFrom;
        return new OverviewView(
            await InvitationLists.CountsAsync(rows),
            Enum.GetValues<Kind>()
                .ToDictionary(
                    kind => kind.Word(),
                    kind => kinds.FirstOrDefault(k => k.Key == kind)?.Count ?? 0
                ),
            AdministratorRule.Lasting(visitor.World, today).Count(),
            await rows.Deliveries.CountAsync(d => d.SettledAt == null),
            await PersonViews.OfAsync(rows, ending, now, visitor.Workspace, visitor.World),
            [.. expiring.Select(i => InvitationViews.Of(i, null, now, visitor.World, visitor.Workspace))]
        )
        {
            HeldPersonally = visitor.Duties.HasFlag(Duties.Claims)
                ? await Claims.CountFoundAsync(rows, visitor.WorkspaceId)
                : 0,
            TwiceHere = visitor.Duties.HasFlag(Duties.Claims) ? await Duplicates.CountOpenAsync(rows) : 0,
            StuckDepartures = visitor.Duties.HasFlag(Duties.People)
                ? await DepartureViews.StuckOf(rows).CountAsync()
                : 0,
            LeftOver = visitor.Duties.HasFlag(Duties.Settings)
                ? await LeftOvers.OpenOf(rows, today).CountAsync()
                : 0,
            GoneThere = visitor.Duties.HasFlag(Duties.Claims) ? await SourceRecords.CountGoneAsync(rows) : 0,
            StrongSignInFrom = strongFrom,
            WithoutStrongSignIn =
                strongFrom is not null && seesPeople
                    ? await PersonViews.OfAsync(
                        rows,
                        await WithoutStrongAsync(rows, visitor, today),
                        now,
                        visitor.Workspace,
                        visitor.World
                    )
                    : [],
        };
    }

    /// <summary>Holders of duties whose account has neither a passkey nor a second step.</summary>
    private static async Task<List<MemberRow>> WithoutStrongAsync(
        ComeAboardContext rows,
        Visitor visitor,
        DateOnly today
    )
    {
        var holders = visitor
            .World.People.Keys.Where(id => visitor.World.DutiesHeldBy(id, today) != Duties.None)
            .ToList();
        return await rows
            .Members.AsNoTracking()
            .Where(m =>
                holders.Contains(m.Id)
                && m.EndedAt == null
                && !rows.Credentials.Any(c =>
                    c.AccountId == m.AccountId
                    && (c.Kind == CredentialKind.Passkey || c.Kind == CredentialKind.TimeCode)
                )
            )
            .OrderBy(m => m.Name)
            .ThenBy(m => m.Id)
            .Take(Most)
            .ToListAsync();
    }
}
