using ComeAboard.Client;
using ComeAboard.Client.Accounts;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Accounts;

/// <summary>The people of a workspace over HTTP: listed, and steps taken with them.</summary>
public static class PeopleEndpoints
{
    public static RouteGroupBuilder MapPeople(this RouteGroupBuilder workspace)
    {
        var people = workspace.MapGroup("/people").ForMembers(Duties.People | Duties.Access);
        people.MapGet("", ListAsync).WithName("listPeople").Produces<Page<PersonView>>().SaidAsCsv();
        people
            .MapPost("/steps", StepsAsync)
            .ForMembers(Duties.People | Duties.Access)
            .WithName("peopleSteps")
            .Produces<PeopleStepAnswer>();
        workspace
            .MapGet(
                "/suggestions",
                (Visitor visitor, string? text, Suggestions suggestions) =>
                    suggestions.FindAsync(visitor, text)
            )
            .ForMembers(Duties.Invite | Duties.People | Duties.Access)
            .WithName("suggest")
            .Produces<Page<SuggestionView>>();
        people
            .MapPost(
                "/{person}/sweep",
                async (Visitor visitor, string person, Connections.Elsewhere all, CancellationToken stop) =>
                    (await all.AskAsync(visitor, person, stop)).ToResult()
            )
            .WithName("sweepPerson")
            .Produces<Page<Client.Connections.PersonThereView>>()
            .LimitedBy(Limits.Codes);
        people.MapPut("/{person}", ChangeAsync).WithName("changePerson").Produces<PersonView>();
        return workspace;
    }

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        [AsParameters] PeopleQuery query,
        [AsParameters] Paging paging,
        PeopleLists lists,
        HttpContext http
    ) =>
        http.AsksForCsv()
            ? (await lists.LotsAsync(visitor, query)).ToResult(lots => Lists.Csv(lots, "people"))
            : (await lists.PageAsync(visitor, query, paging)).ToPage(http);

    private static async Task<IResult> StepsAsync(
        Visitor visitor,
        PeopleStepRequest request,
        MemberSteps steps,
        bool dryRun = false
    ) => (await steps.TakeAsync(visitor, request, dryRun)).ToResult();

    private static async Task<IResult> ChangeAsync(
        Visitor visitor,
        string person,
        DetailsRequest request,
        HttpContext http,
        MemberSteps steps,
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
}
