using ComeAboard.Client.Departures;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Departures;

/// <summary>Ending people's access.</summary>
public static class DepartureEndpoints
{
    public static RouteGroupBuilder MapDepartures(this RouteGroupBuilder workspace)
    {
        var person = workspace.MapGroup("/people/{person}/departure").ForMembers(Duties.People);
        person.MapPost("/plan", PlanAsync).WithName("planDeparture").Produces<DeparturePlanView>();
        person.MapPost("", EndAsync).WithName("endPerson").Produces<DepartureView>();
        person.MapDelete("", WithdrawAsync).WithName("withdrawDeparture").Produces<DepartureView>();
        workspace
            .MapGet("/departures", ListAsync)
            .ForMembers(Duties.People)
            .WithName("listDepartures")
            .Produces<Page<DepartureView>>()
            .OrCsv("departures");
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

    private static async Task<IResult> WithdrawAsync(
        Visitor visitor,
        string person,
        bool? dryRun,
        HttpContext http,
        Ending ending
    ) =>
        (
            await ending.WithdrawAsync(visitor, person, http.Request.ExpectedVersion(), dryRun ?? false)
        ).ToResult();

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        [AsParameters] Paging paging,
        HttpContext http,
        Ending ending
    ) => (await ending.ListAsync(visitor, paging)).ToPage(http);
}
