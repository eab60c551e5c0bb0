using ComeAboard.Client.Departures;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Departures;
using Microsoft.AspNetCore.Mvc;

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
            .MapPost(
                "/people/{person}/reinstate",
                async (Visitor visitor, string person, Reinstating reinstating) =>
                    (await reinstating.ReinstateAsync(visitor, person)).ToResult()
            )
            .ForMembers(Duties.People)
            .WithName("reinstate")
            .OrTried()
            .Produces<ReinstateView>();
        workspace
            .MapPost(
                "/people/{person}/erase",
                async (Visitor visitor, string person, Erasing erasing) =>
                    (await erasing.EraseAsync(visitor, person)).ToResult()
            )
            .ForMembers(Duties.People)
            .WithName("erasePerson")
            .OrTried()
            .Produces<ErasedView>();
        MapSeveral(workspace.MapGroup("/departures").ForMembers(Duties.People));
        return workspace;
    }

    /// <summary>The keys with which receipts can be verified, for whoever has one.</summary>
    public static IEndpointRouteBuilder MapReceiptKeys(this IEndpointRouteBuilder app)
    {
        app.MapGet(
                "/w/{workspace}/receipt-keys.json",
                async (string workspace, Receipts receipts) =>
                    TypedResults.Json(await receipts.ShownAsync(workspace))
            )
            .ExcludeFromDescription();
        return app;
    }

    private static void MapSeveral(RouteGroupBuilder departures)
    {
        departures
            .MapGet(
                "",
                async (
                    Visitor visitor,
                    string? state,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    Departures all
                ) => (await all.ListAsync(visitor, state, paging)).ToPage(http)
            )
            .WithName("listDepartures")
            .Produces<Page<DepartureView>>()
            .OrCsv("departures");
        departures
            .MapGet("/progress", (Visitor visitor, Departures all) => all.ProgressAsync(visitor))
            .WithName("departureProgress")
            .Produces<DepartureProgress>();
        departures
            .MapPost(
                "/plan",
                async (Visitor visitor, DeparturesRequest request, Departures all) =>
                    (await all.PlanAsync(visitor, request)).ToResult()
            )
            .WithName("planDepartures")
            .Produces<DeparturesPlan>();
        departures
            .MapPost(
                "",
                async (Visitor visitor, DeparturesRequest request, Departures all) =>
                    (await all.StartAsync(visitor, request)).ToResult()
            )
            .WithName("startDepartures")
            .Produces<DeparturesAnswer>();
        departures
            .MapGet(
                "/{departure:guid}",
                async (Visitor visitor, Guid departure, Departures all) =>
                    (await all.ShowAsync(visitor, departure)).ToResult()
            )
            .WithName("showDeparture")
            .Produces<DepartureView>();
        departures
            .MapPost(
                "/{departure:guid}/retry",
                async (Visitor visitor, Guid departure, Departures all) =>
                    (await all.RetryAsync(visitor, departure)).ToResult()
            )
            .WithName("retryDeparture")
            .Produces<DepartureView>();
        departures
            .MapPost(
                "/{departure:guid}/steps/{step}/confirm",
                async (
                    Visitor visitor,
                    Guid departure,
                    string step,
                    ConfirmRequest request,
                    Departures all
                ) =>
                    (
                        await all.ConfirmAsync(visitor, departure, step, request.Reason, request.File)
                    ).ToResult()
            )
            .WithName("confirmStep")
            .WithMetadata(new RequestSizeLimitAttribute(2 * StepFileRow.Largest))
            .OrTried()
            .Produces<DepartureView>();
        departures
            .MapGet(
                "/{departure:guid}/steps/{step}/file",
                async (Visitor visitor, Guid departure, string step, Departures all) =>
                    (await all.FileAsync(visitor, departure, step)).ToResult()
            )
            .WithName("showStepFile")
            .Produces<StepFile>();
    }

    private static async Task<IResult> PlanAsync(
        Visitor visitor,
        string person,
        DepartureRequest request,
        Ending ending
    ) => (await ending.PlanAsync(visitor, person, request)).ToResult();

    private static async Task<IResult> EndAsync(
        Visitor visitor,
        string person,
        DepartureRequest request,
        HttpContext http,
        Ending ending
    ) => (await ending.EndAsync(visitor, person, request, http.Request.ExpectedVersion())).ToResult();

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
}
