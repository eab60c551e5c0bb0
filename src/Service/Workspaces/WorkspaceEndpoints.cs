using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Core.Departures;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Accounts;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>The workspace itself: what it is, what waits in it, and its API tokens.</summary>
public static class WorkspaceEndpoints
{
    private const int SoonEndingDays = 30;
    private const int SoonExpiringDays = 3;
    private const int Most = 20;

    public static RouteGroupBuilder MapWorkspace(this RouteGroupBuilder workspace)
    {
        workspace.MapGet("", Show).WithName("showWorkspace").Produces<WorkspaceView>();
        workspace
            .MapGet("/overview", OverviewAsync)
            .ForMembers(Duties.People)
            .WithName("overview")
            .Produces<OverviewView>();
        workspace
            .MapGet("/tokens", ListTokensAsync)
            .ForMembers(Duties.Settings)
            .WithName("listTokens")
            .Produces<Page<TokenView>>();
        workspace
            .MapPost("/tokens", AddTokenAsync)
            .ForMembers(Duties.Settings)
            .WithName("addToken")
            .Produces<NewToken>(201);
        workspace
            .MapDelete("/tokens/{id:guid}", RevokeTokenAsync)
            .ForMembers(Duties.Settings)
            .WithName("revokeToken")
            .Produces(204);
        return workspace;
    }

    private static WorkspaceView Show(Visitor visitor, TimeProvider clock)
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
        };
    }

    private static async Task<OverviewView> OverviewAsync(
        Visitor visitor,
        Database database,
        TimeProvider clock
    )
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
        var ending = await present
            .Where(m => m.LastDay <= soon)
            .OrderBy(m => m.LastDay)
            .ThenBy(m => m.Id)
            .Take(Most)
            .ToListAsync();
        var expiring = await rows
            .Invitations.AsNoTracking()
            .Where(i =>
                (i.State == InvitationState.Queued || i.State == InvitationState.Sent)
                && i.Deadline > now
                && i.Deadline <= closing
            )
            .OrderBy(i => i.Deadline)
            .Take(Most)
            .ToListAsync();
        return new OverviewView(
            await InvitationLists.CountsAsync(rows),
            Enum.GetValues<Kind>()
                .ToDictionary(
                    kind => kind.Word(),
                    kind => kinds.FirstOrDefault(k => k.Key == kind)?.Count ?? 0
                ),
            AdministratorRule.Lasting(visitor.World, today).Count(),
            await rows.Deliveries.CountAsync(d => d.SettledAt == null && d.Tries > 0),
            await People.ViewsAsync(rows, ending, now, visitor.Workspace, visitor.World),
            [.. expiring.Select(i => InvitationViews.Of(i, null, now, visitor.World))]
        );
    }

    private static async Task<Page<TokenView>> ListTokensAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var tokens = await (
            from token in rows.ApiTokens
            join member in rows.Members on token.MemberId equals member.Id
            orderby token.Id descending
            select new TokenView(token.Id, token.Label, member.Name, token.CreatedAt, token.RevokedAt)
        )
            .Take(Requests.LargestPage)
            .ToListAsync();
        return new Page<TokenView>(tokens, null);
    }

    private static async Task<IResult> AddTokenAsync(
        Visitor visitor,
        TokenRequest request,
        ApiTokens tokens
    ) =>
        (
            await tokens.AddAsync(
                visitor.WorkspaceId,
                visitor.Workspace.ShortName,
                visitor.Member,
                request.Label,
                visitor.Caller
            )
        ).ToResult(token => Results.Created((string?)null, token));

    private static async Task<IResult> RevokeTokenAsync(Visitor visitor, Guid id, ApiTokens tokens) =>
        (await tokens.RevokeAsync(visitor.WorkspaceId, id, visitor.Caller)).ToResult(_ =>
            Results.NoContent()
        );
}
