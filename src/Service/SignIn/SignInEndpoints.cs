using ComeAboard.Client.SignIn;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.AspNetCore.Antiforgery;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.SignIn;

/// <summary>Signing in and out, for browsers' scripts and for programs.</summary>
public static class SignInEndpoints
{
    public static RouteGroupBuilder MapSignIn(this RouteGroupBuilder api)
    {
        api.MapPost("/sessions", OpenAsync)
            .WithName("openSession")
            .Produces(204)
            .RequireRateLimiting(Limits.SigningIn);
        api.MapDelete("/sessions/current", (Delegate)CloseAsync).WithName("closeSession").Produces(204);
        api.MapPost("/tokens", SignInAsync)
            .WithName("signInProgram")
            .Produces<NewToken>(201)
            .RequireRateLimiting(Limits.SigningIn);
        api.MapDelete("/tokens/current", SignOutAsync).WithName("signOutProgram").Produces(204);
        api.MapGet("/me", (Delegate)MeAsync).WithName("whoAmI").Produces<MeView>();
        api.MapGet("/antiforgery", Antiforgery).WithName("antiforgery").Produces<AntiforgeryView>();
        return api;
    }

    /// <summary>The account with the workspaces it is active in; a token sees only its own.</summary>
    public static async Task<MeView?> FindAsync(HttpContext http)
    {
        if (http.User.AccountId() is not { } id)
            return null;
        var now = http.RequestServices.GetRequiredService<TimeProvider>().Now();
        await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
        if (await rows.Accounts.AsNoTracking().FirstOrDefaultAsync(a => a.Id == id) is not { } account)
            return null;
        var only = http.User.TokenWorkspace();
        var found = await (
            from member in rows.Members.IgnoreQueryFilters()
            join workspace in rows.Workspaces on member.WorkspaceId equals workspace.Id
            where
                member.AccountId == id
                && member.EndedAt == null
                && (only == null || member.WorkspaceId == only)
            orderby workspace.Name
            select new { member, workspace }
        )
            .AsNoTracking()
            .ToListAsync();
        var worlds = http.RequestServices.GetRequiredService<AccessWorlds>();
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
                            : Visitors.Forbids(world, member.Id, today)!.Sentence,
                    Leads = Readiness.LeadsOf(world, member.Id, today)?.Name ?? "",
                }
            );
        }
        return new MeView(account.Id, account.Name, account.Address, places);
    }

    private static async Task<IResult> OpenAsync(SignInRequest request, HttpContext http, SignInDesk desk)
    {
        if (!(await desk.CheckAsync(request.Address, request.Password)).Try(out var account, out var refusal))
            return refusal.ToResult();
        await SessionSignIn.OpenAsync(http, account);
        return Results.NoContent();
    }

    private static async Task<IResult> CloseAsync(HttpContext http)
    {
        await SessionSignIn.CloseAsync(http);
        return Results.NoContent();
    }

    private static async Task<IResult> SignInAsync(
        ProgramSignInRequest request,
        SignInDesk desk,
        ApiTokens tokens,
        Database database,
        TimeProvider clock
    )
    {
        if (!(await desk.CheckAsync(request.Address, request.Password)).Try(out var account, out var refusal))
            return refusal.ToResult();
        await using var rows = database.Open();
        var found = await (
            from workspace in rows.Workspaces
            from member in rows.Members.IgnoreQueryFilters().Where(m => m.WorkspaceId == workspace.Id)
            where
                workspace.ShortName == request.Workspace
                && member.AccountId == account.Id
                && member.EndedAt == null
            select new { workspace, member }
        )
            .AsNoTracking()
            .FirstOrDefaultAsync();
        if (found is null || !found.member.IsActive(clock.Now(), found.workspace.Zone))
            return Visitors.NoWorkspace.ToResult();
        var caller = Caller.Member(found.member.Id, found.member.Name, "client");
        var label = string.IsNullOrWhiteSpace(request.Label) ? "command line" : request.Label;
        return (
            await tokens.AddAsync(found.workspace.Id, found.workspace.ShortName, found.member, label, caller)
        ).ToResult(token => Results.Created((string?)null, token));
    }

    private static async Task<IResult> SignOutAsync(HttpContext http, ApiTokens tokens, Database database)
    {
        if (http.User.TokenWorkspace() is not { } workspace || http.User.TokenId() is not { } id)
            return CommonRefusals.SignInRequired.ToResult();
        await using var rows = database.Open(workspace);
        var holder = await (
            from token in rows.ApiTokens
            join member in rows.Members on token.MemberId equals member.Id
            where token.Id == id
            select member
        ).FirstAsync();
        return (
            await tokens.RevokeAsync(workspace, id, Caller.Member(holder.Id, holder.Name, "client"))
        ).ToResult(_ => Results.NoContent());
    }

    private static async Task<IResult> MeAsync(HttpContext http) =>
        await FindAsync(http) is { } me ? Results.Ok(me) : CommonRefusals.SignInRequired.ToResult();

    private static AntiforgeryView Antiforgery(HttpContext http, IAntiforgery antiforgery) =>
        new(antiforgery.GetAndStoreTokens(http).RequestToken!);
}
