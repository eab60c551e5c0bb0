using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Accounts;

/// <summary>The people of a workspace.</summary>
public static class PeopleEndpoints
{
    public static RouteGroupBuilder MapPeople(this RouteGroupBuilder workspace)
    {
        var people = workspace.MapGroup("/people").ForMembers(Duties.People | Duties.Access);
        people.MapGet("", ListAsync).WithName("listPeople").Produces<Page<PersonView>>();
        people.MapGet("/export", ExportAsync).WithName("exportPeople").Produces<string>(200, "text/csv");
        people
            .MapPost("/steps", StepsAsync)
            .ForMembers(Duties.People | Duties.Access)
            .WithName("peopleSteps")
            .Produces<PeopleStepAnswer>();
        people.MapPut("/{person}", ChangeAsync).WithName("changePerson").Produces<PersonView>();
        people.MapGet("/{person}", ShowAsync).WithName("showPerson").Produces<PersonView>();
        people
            .MapGet("/{person}/history", HistoryAsync)
            .WithName("personHistory")
            .Produces<Page<RecordEntryView>>();
        return workspace;
    }

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        string? state,
        string? kind,
        string? search,
        Guid? link,
        Guid? organisation,
        string? cursor,
        int? limit,
        HttpContext http,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var now = clock.Now();
        var today = Days.Of(now, visitor.Workspace.Zone);
        if (
            !Narrow(rows.Members.AsNoTracking(), state, kind, search, today)
                .Try(out var narrowed, out var refusal)
        )
            return refusal.ToResult();
        if (link is not null)
            narrowed = narrowed.Where(m => m.LinkId == link);
        if (organisation is not null)
            narrowed = narrowed.Where(m => m.OrganisationId == organisation);
        if (cursor is { Length: > 0 })
        {
            if (!Requests.ReadCursor(cursor).Try(out var after, out refusal))
                return refusal.ToResult();
            narrowed = narrowed.Where(m => m.Id.CompareTo(after) < 0);
        }
        var size = Requests.PageSize(limit);
        var found = await narrowed.OrderByDescending(m => m.Id).Take(size + 1).ToListAsync();
        var page = await People.ViewsAsync(
            rows,
            [.. found.Take(size)],
            now,
            visitor.Workspace,
            visitor.World
        );
        var next = found.Count > size ? page[^1].Id.ToString("N") : null;
        http.SayNext(next);
        return Results.Ok(new Page<PersonView>(page, next));
    }

    private static async Task<IResult> ExportAsync(
        Visitor visitor,
        string? state,
        string? kind,
        string? search,
        Guid? link,
        Guid? organisation,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (
            !Narrow(rows.Members.AsNoTracking(), state, kind, search, visitor.Today)
                .Try(out var narrowed, out var refusal)
        )
            return refusal.ToResult();
        if (link is not null)
            narrowed = narrowed.Where(m => m.LinkId == link);
        if (organisation is not null)
            narrowed = narrowed.Where(m => m.OrganisationId == organisation);
        var all = new List<PersonView>();
        foreach (var lot in (await narrowed.OrderByDescending(m => m.Id).ToListAsync()).Chunk(500))
            all.AddRange(await People.ViewsAsync(rows, lot, clock.Now(), visitor.Workspace, visitor.World));
        return Lists.Csv(Lists.TableOf(all), "people");
    }

    private static async Task<IResult> StepsAsync(
        Visitor visitor,
        PeopleStepRequest request,
        PeopleSteps steps,
        bool dryRun = false
    ) => (await steps.TakeAsync(visitor, request, dryRun)).ToResult();

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string person,
        DetailsRequest request,
        HttpContext http,
        PeopleSteps steps,
        bool dryRun = false
    )
    {
        var expected = http.Request.ExpectedVersion();
        var step = new PeopleStepRequest(
            "change",
            [person],
            Details: request,
            Versions: expected is { } version ? [version] : null
        );
        if (!(await steps.TakeAsync(visitor, step, dryRun)).Try(out var answer, out var refusal))
            return refusal.ToResult();
        if (answer.Refused is [var refused, ..])
            return Results.Json(
                refused.Problem,
                WireJson.Default.Problem,
                Problem.MediaType,
                refused.Problem.Status
            );
        http.Response.SayVersion(answer.Done[0].Version);
        return Results.Ok(answer.Done[0]);
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        string person,
        HttpContext http,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound.ToResult();
        http.Response.SayVersion(member.Version);
        return Results.Ok(
            await People.ViewAsync(rows, member, clock.Now(), visitor.Workspace, visitor.World)
        );
    }

    private static async Task<IResult> HistoryAsync(Visitor visitor, string person, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await People.FindAsync(rows, person) is not { } member)
            return People.NotFound.ToResult();
        Guid[] subjects = member.InvitationId is { } invitation ? [invitation, member.Id] : [member.Id];
        return Results.Ok(await RecordLists.HistoryAsync(rows, subjects));
    }

    private static Outcome<IQueryable<MemberRow>> Narrow(
        IQueryable<MemberRow> rows,
        string? state,
        string? kind,
        string? search,
        DateOnly today
    )
    {
        if (kind is { Length: > 0 })
        {
            if (!Kinds.Read(kind).Try(out var known, out var refusal))
                return refusal;
            rows = rows.Where(m => m.Kind == known);
        }
        if (search?.Trim() is { Length: > 0 } part)
        {
            var pattern = "%" + InvitationLists.Escape(part.ToLowerInvariant()) + "%";
            rows = rows.Where(m => EF.Functions.Like(m.SearchText, pattern, "\\"));
        }
        return state switch
        {
            null or "" => Outcome.Of(rows),
            "active" => Outcome.Of(
                rows.Where(m =>
                    m.EndedAt == null
                    && m.PausedAt == null
                    && (m.LastDay == null || m.LastDay >= today)
                    && (m.FirstDay == null || m.FirstDay <= today)
                )
            ),
            "upcoming" => Outcome.Of(
                rows.Where(m => m.EndedAt == null && m.PausedAt == null && m.FirstDay > today)
            ),
            "paused" => Outcome.Of(
                rows.Where(m =>
                    m.EndedAt == null && m.PausedAt != null && (m.LastDay == null || m.LastDay >= today)
                )
            ),
            "ended" => Outcome.Of(rows.Where(m => m.EndedAt != null || m.LastDay < today)),
            _ => new Refusal(
                "state.unknown",
                "There is no such state of a person.",
                "Use upcoming, active, paused or ended.",
                Field: "state"
            ),
        };
    }
}
