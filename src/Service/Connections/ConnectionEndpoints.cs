using ComeAboard.Client.Connections;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Invitations;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Mvc;

namespace ComeAboard.Service.Connections;

/// <summary>Outside systems that people are read from, over HTTP.</summary>
public static class ConnectionEndpoints
{
    public static RouteGroupBuilder MapConnections(this RouteGroupBuilder workspace)
    {
        MapWork(workspace.MapGroup("/connections").ForMembers(Duties.Claims));
        MapSettings(workspace.MapGroup("/connections").ForMembers(Duties.Settings));
        MapCarrying(workspace.MapGroup("/connections/{connection}").ForMembers(Duties.Settings));
        return workspace;
    }

    private static void MapWork(RouteGroupBuilder connections)
    {
        connections
            .MapGet("", (Visitor visitor, Connections all) => all.ListAsync(visitor))
            .WithName("listConnections")
            .OrCsv("connections")
            .Produces<Page<ConnectionView>>();
        connections
            .MapGet(
                "/{connection}",
                async (Visitor visitor, string connection, Connections all) =>
                    (await all.ShowAsync(visitor, connection)).ToResult()
            )
            .WithName("showConnection")
            .Produces<ConnectionView>();
        connections
            .MapPost(
                "/{connection}/read",
                async (Visitor visitor, string connection, ReadRequest request, Connections all) =>
                    (await all.ReadAsync(visitor, connection, request.Believe)).ToResult()
            )
            .WithName("readConnection")
            .Produces<ConnectionView>();
        connections
            .MapGet(
                "/{connection}/records",
                async (
                    Visitor visitor,
                    string connection,
                    string? verdict,
                    string? search,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    SourceRecords all
                ) => (await all.ListAsync(visitor, connection, verdict, search, paging)).ToPage(http)
            )
            .WithName("listSourceRecords")
            .OrCsv("match-table")
            .Produces<Page<SourceRecordView>>();
        connections
            .MapPost(
                "/{connection}/decisions",
                async (Visitor visitor, string connection, DecideRequest request, SourceRecords all) =>
                    (await all.DecideAsync(visitor, connection, request)).ToResult()
            )
            .WithName("decideSourceRecords")
            .OrTried()
            .Produces<DecideAnswer>();
        connections
            .MapPost(
                "/{connection}/run",
                async (Visitor visitor, string connection, Connections all) =>
                    (await all.RunAsync(visitor, connection)).ToResult()
            )
            .WithName("runConnection")
            .OrTried()
            .Produces<ConnectionView>();
        connections
            .MapPost("/{connection}/file", HandInAsync)
            .WithName("handInFile")
            .Produces<ConnectionView>()
            .DisableAntiforgery()
            .WithMetadata(new RequestSizeLimitAttribute(Tables.LargestFile + 1024 * 1024));
    }

    private static void MapSettings(RouteGroupBuilder connections)
    {
        connections
            .MapPost(
                "",
                async (Visitor visitor, ConnectionRequest request, Connections all) =>
                    (await all.AddAsync(visitor, request)).ToResult(view =>
                        Results.Created((string?)null, view)
                    )
            )
            .WithName("addConnection")
            .OrTried()
            .Produces<ConnectionView>(201);
        connections
            .MapPut(
                "/{connection}",
                async (Visitor visitor, string connection, ConnectionRequest request, Connections all) =>
                    (await all.ChangeAsync(visitor, connection, request)).ToResult()
            )
            .WithName("changeConnection")
            .OrTried()
            .Produces<ConnectionView>();
        connections
            .MapDelete(
                "/{connection}",
                async (Visitor visitor, string connection, Connections all) =>
                    (await all.RemoveAsync(visitor, connection)).ToResult()
            )
            .WithName("removeConnection")
            .OrTried()
            .Produces<ConnectionView>();
        connections
            .MapPost(
                "/{connection}/test",
                async (Visitor visitor, string connection, Connections all, CancellationToken stop) =>
                    (await all.TestAsync(visitor, connection, stop)).ToResult()
            )
            .WithName("testConnection")
            .Produces<ConnectionTest>()
            .LimitedBy(Limits.Codes);
    }

    private static void MapCarrying(RouteGroupBuilder one)
    {
        one.MapGet(
                "/mapping",
                async (Visitor visitor, string connection, Mappings all) =>
                    (await all.ListAsync(visitor, connection)).ToResult()
            )
            .WithName("listMapping")
            .Produces<Page<MappingView>>();
        one.MapPost(
                "/mapping",
                async (Visitor visitor, string connection, MappingRequest request, Mappings all) =>
                    (await all.AddAsync(visitor, connection, request)).ToResult(view =>
                        Results.Created((string?)null, view)
                    )
            )
            .WithName("addMapping")
            .OrTried()
            .Produces<MappingView>(201);
        one.MapDelete(
                "/mapping/{line:guid}",
                async (Visitor visitor, string connection, Guid line, Mappings all) =>
                    (await all.RemoveAsync(visitor, connection, line)).ToResult()
            )
            .WithName("removeMapping")
            .OrTried()
            .Produces<MappingView>();
        one.MapPost(
                "/preview",
                async (
                    Visitor visitor,
                    string connection,
                    PreviewRequest request,
                    CarryingOut all,
                    CancellationToken stop
                ) => (await all.PreviewAsync(visitor, connection, request, stop)).ToResult()
            )
            .WithName("previewCarrying")
            .Produces<PushPreview>()
            .LimitedBy(Limits.Codes);
        one.MapGet(
                "/status",
                async (Visitor visitor, string connection, CarryingOut all) =>
                    (await all.StatusAsync(visitor, connection)).ToResult()
            )
            .WithName("showLane")
            .Produces<LaneView>();
        one.MapPost(
                "/sweep",
                async (Visitor visitor, string connection, Sweeps all, CancellationToken stop) =>
                    (await all.RunAsync(visitor, connection, stop)).ToResult()
            )
            .WithName("sweepConnection")
            .Produces<SweepView>()
            .LimitedBy(Limits.Codes);
        one.MapGet(
                "/left-overs",
                async (
                    Visitor visitor,
                    string connection,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    LeftOvers all
                ) => (await all.ListAsync(visitor, connection, paging)).ToPage(http)
            )
            .WithName("listLeftOvers")
            .OrCsv("left-overs")
            .Produces<Page<LeftOverView>>();
        one.MapPost(
                "/left-overs",
                async (
                    Visitor visitor,
                    string connection,
                    LeftOverRequest request,
                    LeftOvers all,
                    CancellationToken stop
                ) => (await all.DecideAsync(visitor, connection, request, stop)).ToResult()
            )
            .WithName("decideLeftOvers")
            .OrTried()
            .Produces<LeftOverAnswer>()
            .LimitedBy(Limits.Codes);
        one.MapGet(
                "/deliveries",
                async (
                    Visitor visitor,
                    string connection,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    EventsSent all
                ) => (await all.ListAsync(visitor, connection, paging)).ToPage(http)
            )
            .WithName("listEventsSent")
            .OrCsv("deliveries")
            .Produces<Page<EventSentView>>();
        one.MapPost(
                "/deliveries/{delivery:guid}/send-again",
                async (
                    Visitor visitor,
                    string connection,
                    Guid delivery,
                    EventsSent all,
                    CancellationToken stop
                ) => (await all.SendAgainAsync(visitor, connection, delivery, stop)).ToResult()
            )
            .WithName("sendEventAgain")
            .Produces<EventSentView>()
            .LimitedBy(Limits.Codes);
        one.MapPost(
                "/pause",
                async (Visitor visitor, string connection, CarryingOut all) =>
                    (await all.PauseAsync(visitor, connection, true)).ToResult()
            )
            .WithName("pauseLane")
            .Produces<LaneView>();
        one.MapPost(
                "/resume",
                async (Visitor visitor, string connection, CarryingOut all) =>
                    (await all.PauseAsync(visitor, connection, false)).ToResult()
            )
            .WithName("resumeLane")
            .Produces<LaneView>();
        one.MapGet(
                "/accounts",
                async (
                    Visitor visitor,
                    string connection,
                    string? state,
                    [AsParameters] Paging paging,
                    HttpContext http,
                    CarryingOut all
                ) => (await all.AccountsAsync(visitor, connection, state, paging)).ToPage(http)
            )
            .WithName("listAccountsThere")
            .OrCsv("accounts-there")
            .Produces<Page<AccountThereView>>();
    }

    private static async Task<IResult> HandInAsync(
        Visitor visitor,
        string connection,
        IFormFile file,
        Connections all,
        CancellationToken stop
    )
    {
        using var memory = new MemoryStream((int)file.Length);
        await file.CopyToAsync(memory, stop);
        return (
            await all.HandInAsync(
                visitor,
                connection,
                Path.GetFileName(file.FileName),
                memory.ToArray(),
                stop
            )
        ).ToResult();
    }
}
