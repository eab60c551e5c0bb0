using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Accounts;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Applications;
using ComeAboard.Service.Http;
using ComeAboard.Service.Jobs;
using ComeAboard.Service.SignIn;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Workspaces;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Workspaces;

/// <summary>The member on whose behalf a request about a workspace is made, looked up anew for every request.</summary>
/// <param name="Workspace">The workspace.</param>
/// <param name="Member">The member, active at this moment.</param>
/// <param name="Caller">How the record names them.</param>
/// <param name="World">Who may do what in the workspace.</param>
/// <param name="Today">Today in the workspace's time zone.</param>
public sealed record Visitor(
    WorkspaceRow Workspace,
    MemberRow Member,
    Caller Caller,
    AccessWorld World,
    DateOnly Today
)
{
    /// <summary>What they showed to be signed in; null for a program with a token.</summary>
    public Proof? Proof { get; init; }

    public Guid WorkspaceId => Workspace.Id;
    public Duties Duties => World.DutiesOf(Member.Id, Today);

    /// <summary>Hands the visitor of this request to an endpoint.</summary>
    public static ValueTask<Visitor?> BindAsync(HttpContext http) =>
        ValueTask.FromResult(http.Features.Get<Visitor>());
}

/// <summary>Somebody's membership of a workspace, as it was just read.</summary>
public sealed record Standing(WorkspaceRow Workspace, MemberRow Member);

/// <summary>Lets only members into a workspace's paths, and only holders of a duty further.</summary>
public static class Visitors
{
    public static Refusal NoWorkspace { get; } =
        new(
            "workspace.not-found",
            "There is no such workspace, or you are not in it.",
            "Check its short name.",
            RefusalSort.NotFound
        );

    /// <summary>Marks endpoints whose path holds <c>{workspace}</c> as for its members, or for holders of a duty; of several, one is enough.</summary>
    public static TBuilder ForMembers<TBuilder>(this TBuilder builder, Duties duty = Duties.None)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(new MembersOnly(duty));

    /// <summary>Marks endpoints that also leads of an organisation may use, who hold no duty.</summary>
    public static TBuilder OrLeads<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(new LeadsToo());

    /// <summary>Marks endpoints also for those who are kept out for now: paused, not begun yet, the agreement over.</summary>
    public static TBuilder EvenKeptOut<TBuilder>(this TBuilder builder)
        where TBuilder : IEndpointConventionBuilder => builder.WithMetadata(new KeptOutToo());

    /// <summary>Looks the visitor up before an endpoint for members runs or reads its request.</summary>
    public static IApplicationBuilder UseVisitors(this IApplicationBuilder app) =>
        app.Use(
            async (http, next) =>
            {
                if (http.GetEndpoint()?.Metadata.GetMetadata<MembersOnly>() is { } only)
                {
                    if (http.User.AccountId() is not { } account)
                    {
                        await CommonRefusals.SignInRequired.WriteAsync(http);
                        return;
                    }
                    var found = await FindAsync(http, account, (string)http.GetRouteValue("workspace")!);
                    if (!found.Try(out var visitor, out var refusal))
                    {
                        await refusal.WriteAsync(http);
                        return;
                    }
                    if (ForbidsProgram(http, only.Duty) is { } beyond)
                    {
                        await beyond.WriteAsync(http);
                        return;
                    }
                    var isLead =
                        visitor.Caller.Bound is null
                        && http.GetEndpoint()!.Metadata.GetMetadata<LeadsToo>() is not null
                        && Core.Invitations.Readiness.LeadsOf(visitor.World, visitor.Member.Id, visitor.Today)
                            is not null;
                    if (!isLead && only.Duty != Duties.None && (visitor.Duties & only.Duty) == Duties.None)
                    {
                        await DutyWords.Missing(only.Duty).WriteAsync(http);
                        NoteRefused(http, visitor);
                        return;
                    }
                    http.Features.Set(visitor);
                    await next(http);
                    if (
                        http.Response.StatusCode == StatusCodes.Status403Forbidden
                        && http.Features.Get<StaleProof>() is null
                    )
                        NoteRefused(http, visitor);
                    return;
                }
                await next(http);
            }
        );

    /// <summary>
    /// Refuses, with <c>scope.missing</c>, what no duty covers that a program was given: it may look at what every member
    /// sees, and do only what its duties are for.
    /// </summary>
    private static Refusal? ForbidsProgram(HttpContext http, Duties duty) =>
        http.Features.Get<ActingProgram>() is { Bound: { } most }
        && (duty == Duties.None ? !HttpMethods.IsGet(http.Request.Method) : (duty & most) == Duties.None)
            ? new Refusal(
                "scope.missing",
                duty == Duties.None
                    ? "This is for people themselves, whatever a program may do for them."
                    : $"The program was not given the scope \"{string.Join(", ", duty.List())}\".",
                "Let an administrator register it with what it needs, and sign in to it again.",
                RefusalSort.NotAllowed
            )
            : null;

    private static void NoteRefused(HttpContext http, Visitor visitor) =>
        http
            .RequestServices.GetRequiredService<SecurityEvents>()
            .NoteRefused(
                visitor,
                $"refused: {http.GetEndpoint()?.Metadata.GetMetadata<IEndpointNameMetadata>()?.EndpointName ?? http.Request.Method}",
                Limits.NetworkOf(http)
            );

    private sealed record MembersOnly(Duties Duty);

    private sealed record LeadsToo;

    private sealed record KeptOutToo;

    private static async Task<Outcome<Visitor>> FindAsync(HttpContext http, Guid account, string shortName)
    {
        var clock = http.RequestServices.GetRequiredService<TimeProvider>();
        // Whoever came with a token has been looked up with it.
        var found = http.Features.Get<Standing>() ?? await HolderAsync(http, account, shortName);
        if (found is null || found.Workspace.ShortName != shortName)
            return NoWorkspace;
        var isHere = found.Member.IsHere(clock.Now(), found.Workspace.Zone);
        var isWelcome = isHere && http.GetEndpoint()?.Metadata.GetMetadata<KeptOutToo>() is not null;
        if (!isWelcome && !found.Member.IsActive(clock.Now(), found.Workspace.Zone))
            return EntryRules.Inactive(found.Member.Stay, isHere);
        var program = http.Features.Get<ActingProgram>();
        var world = await http.RequestServices.GetRequiredService<AccessWorlds>().OfAsync(found.Workspace);
        if (program is { Bound: { } most })
            world = world.BoundTo(found.Member.Id, most);
        var today = Days.Of(clock.Now(), found.Workspace.Zone);
        http.RequestServices.GetRequiredService<SeenMarks>().NoteMember(found.Member);
        if (!isWelcome && EntryRules.Forbids(world, found.Member.Id, today) is { } cut)
            return cut;
        var proof = http.Features.Get<Proof>();
        if (
            (proof ?? program?.Proof) is { } shown
            && WorkspaceRules
                .Of(found.Workspace)
                .ForbidsSignIn(shown, world.DutiesOf(found.Member.Id, today), today)
                is { } weak
        )
            return weak;
        return new Visitor(
            found.Workspace,
            found.Member,
            Caller.Member(found.Member.Id, found.Member.Name, Via(http)) with
            {
                Rehearses = http.IsRehearsal(),
                Bound = program?.Bound,
            },
            world,
            today
        )
        {
            Proof = proof,
        };
    }

    private static async Task<Standing?> HolderAsync(HttpContext http, Guid account, string shortName)
    {
        await using var rows = http.RequestServices.GetRequiredService<Database>().Open();
        return await (
            from workspace in rows.Workspaces
            from member in rows.Members.IgnoreQueryFilters().Where(m => m.WorkspaceId == workspace.Id)
            where workspace.ShortName == shortName && member.AccountId == account
            orderby member.EndedAt == null descending
            select new Standing(workspace, member)
        )
            .AsNoTracking()
            .FirstOrDefaultAsync(http.RequestAborted);
    }

    /// <summary>Through what a request came, as the record says it.</summary>
    public static string Via(HttpContext http)
    {
        if (http.User.Identity?.AuthenticationType == SessionSignIn.Scheme)
            return "console";
        return http.Request.Headers.UserAgent.ToString().StartsWith("aboard/", StringComparison.Ordinal)
            ? "client"
            : "http";
    }
}
