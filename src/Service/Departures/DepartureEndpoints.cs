using ComeAboard.Client.Departures;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Departures;

/// <summary>Ending people's access.</summary>
public static class DepartureEndpoints
{
    public static RouteGroupBuilder MapDepartures(this RouteGroupBuilder workspace)
    {
        var person = workspace.MapGroup("/people/{person}/departure").ForMembers(Duties.People);
        person.MapPost("/plan", PlanAsync).WithName("planDeparture").Produces<DeparturePlanView>();
        person.MapPost("", EndAsync).WithName("endPerson").Produces<DepartureView>();
        workspace
            .MapGet("/departures", ListAsync)
            .ForMembers(Duties.People)
            .WithName("listDepartures")
            .Produces<Page<DepartureView>>();
        return workspace;
    }

    private static async Task<IResult> PlanAsync(
        Visitor visitor,
        string person,
        DepartureRequest request,
        Ending ending
    ) => (await ending.PlanAsync(visitor, person, request.On)).ToResult();

    private static async Task<IResult> EndAsync(
        Visitor visitor,
        string person,
        DepartureRequest request,
        HttpContext http,
        Ending ending
    ) => (await ending.EndAsync(visitor, person, request.On, http.Request.ExpectedVersion())).ToResult();

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        string? cursor,
        int? limit,
        HttpContext http,
        Database database
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var departures = rows.Departures.AsNoTracking();
        if (cursor is { Length: > 0 })
        {
            if (!Requests.ReadCursor(cursor).Try(out var after, out var refusal))
                return refusal.ToResult();
            departures = departures.Where(d => d.Id.CompareTo(after) < 0);
        }
        var size = Requests.PageSize(limit);
        var found = await departures.OrderByDescending(d => d.Id).Take(size + 1).ToListAsync();
        var next = found.Count > size ? found[size - 1].Id.ToString("N") : null;
        http.SayNext(next);
        return Results.Ok(new Page<DepartureView>([.. found.Take(size).Select(Ending.ViewOf)], next));
    }
}
