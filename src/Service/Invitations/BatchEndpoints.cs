using System.Net.ServerSentEvents;
using System.Runtime.CompilerServices;
using System.Text.Json;
using ComeAboard.Client;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using Microsoft.AspNetCore.Mvc;

namespace ComeAboard.Service.Invitations;

/// <summary>Inviting many at once, from files and pasted lists.</summary>
public static class BatchEndpoints
{
    private const string Xlsx = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet";
    private static readonly TimeSpan Beat = TimeSpan.FromMilliseconds(400);
    private static readonly TimeSpan AskAgain = TimeSpan.FromSeconds(2);

    public static RouteGroupBuilder MapBatches(this RouteGroupBuilder workspace)
    {
        var batches = workspace.MapGroup("/batches").ForMembers(Duties.Invite);
        // Put together at the start: written when this is compiled, they describe the fields of a form as one text.
#pragma warning disable RDG002
        Delegate add = AddFileAsync;
        Delegate check = CheckFileAsync;
        batches
            .MapPost("", add)
            .WithName("addBatch")
            .Produces<BatchView>(201)
            .Produces<BatchView>()
            .DisableAntiforgery()
            .WithMetadata(new RequestSizeLimitAttribute(Tables.LargestFile + 1024 * 1024));
        batches
            .MapPost("/check", check)
            .WithName("checkBatch")
            .Produces<BatchCheck>()
            .DisableAntiforgery()
            .WithMetadata(new RequestSizeLimitAttribute(Tables.LargestFile + 1024 * 1024));
#pragma warning restore RDG002
        batches.MapPost("/pasted", AddPastedAsync).WithName("addPastedBatch").Produces<BatchView>(201);
        batches
            .MapPost("/pasted/check", CheckPastedAsync)
            .WithName("checkPastedBatch")
            .Produces<BatchCheck>();
        batches.MapGet("", ListAsync).WithName("listBatches").Produces<Page<BatchView>>().OrCsv("lists");
        batches.MapGet("/{id:guid}", ShowAsync).WithName("showBatch").Produces<BatchView>();
        batches
            .MapGet("/{id:guid}/entries", EntriesAsync)
            .WithName("listBatchEntries")
            .Produces<Page<BatchEntryView>>()
            .SaidAsCsv();
        batches
            .MapPatch("/{id:guid}/entries/{number:int}", MendAsync)
            .WithName("mendBatchEntry")
            .Produces<BatchEntryView>();
        batches.MapPost("/{id:guid}/send", SendAsync).WithName("sendBatch").Produces<BatchView>();
        batches
            .MapGet("/{id:guid}/progress", Progress)
            .WithName("watchBatch")
            .Produces<BatchView>(200, "text/event-stream");
        batches
            .MapGet("/template", Template)
            .WithName("batchTemplate")
            .Produces<string>(200, "text/csv")
            .Produces<byte[]>(200, Xlsx);
        return workspace;
    }

    private static async Task<IResult> AddFileAsync(
        Visitor visitor,
        IFormFile file,
        [FromForm] string? defaults,
        [FromForm] bool? send,
        HttpContext http,
        Batches batches
    )
    {
        if (
            !Tables
                .Read(file.OpenReadStream, file.Length, http.RequestAborted)
                .Try(out var table, out var refusal)
        )
            return refusal.ToResult();
        if (!DefaultsOf(defaults).Try(out var read, out refusal))
            return refusal.ToResult();
        var name = Path.GetFileName(file.FileName);
        var added = await batches.AddAsync(
            visitor,
            name.Length > 100 ? name[^100..] : name,
            Tables.IsXlsx(file.OpenReadStream) ? "xlsx" : "csv",
            Batches.DigestOf(file.OpenReadStream()),
            table,
            read,
            send ?? false
        );
        return added.ToResult(view =>
            view.HandedInBefore ? Results.Ok(view) : Results.Created($"{http.Request.Path}/{view.Id}", view)
        );
    }

    private static async Task<IResult> CheckFileAsync(
        Visitor visitor,
        IFormFile file,
        [FromForm] string? defaults,
        HttpContext http,
        BatchLists lists
    )
    {
        if (
            !Tables
                .Read(file.OpenReadStream, file.Length, http.RequestAborted)
                .Try(out var table, out var refusal)
        )
            return refusal.ToResult();
        if (!DefaultsOf(defaults).Try(out var read, out refusal))
            return refusal.ToResult();
        return Answer(
            http,
            await lists.CheckAsync(visitor, Batches.DigestOf(file.OpenReadStream()), table, read)
        );
    }

    private static async Task<IResult> AddPastedAsync(
        Visitor visitor,
        PastedRequest request,
        HttpContext http,
        Batches batches
    )
    {
        if (!Tables.ReadPasted(request.Text).Try(out var table, out var refusal))
            return refusal.ToResult();
        var added = await batches.AddAsync(
            visitor,
            request.Name,
            "list",
            "",
            table,
            request.Defaults ?? new BatchDefaults(),
            false
        );
        return added.ToResult(view =>
            Results.Created(
                $"{http.Request.Path.Value!.Replace("/pasted", "", StringComparison.Ordinal)}/{view.Id}",
                view
            )
        );
    }

    private static async Task<IResult> CheckPastedAsync(
        Visitor visitor,
        PastedRequest request,
        HttpContext http,
        BatchLists lists
    ) =>
        Tables.ReadPasted(request.Text).Try(out var table, out var refusal)
            ? Answer(
                http,
                await lists.CheckAsync(visitor, "", table, request.Defaults ?? new BatchDefaults())
            )
            : refusal.ToResult();

    /// <summary>As JSON, or – asked for – all entries as CSV.</summary>
    private static IResult Answer(
        HttpContext http,
        Outcome<(BatchCheck Check, IReadOnlyList<BatchEntryView> All)> outcome
    ) =>
        outcome.ToResult(found =>
            http.Request.Headers.Accept.ToString().Contains("text/csv", StringComparison.Ordinal)
                ? Results.Bytes(
                    Tables.Export([BatchLists.ResultHeadings, .. found.All.Select(BatchLists.ResultRow)]),
                    "text/csv; charset=utf-8",
                    "results.csv"
                )
                : Results.Ok(found.Check)
        );

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        [AsParameters] Paging paging,
        HttpContext http,
        BatchLists lists
    ) => (await lists.ListAsync(visitor, paging)).ToPage(http);

    private static async Task<IResult> ShowAsync(Visitor visitor, Guid id, BatchLists lists) =>
        await lists.FindAsync(visitor.WorkspaceId, id) is { } view
            ? Results.Ok(view)
            : CommonRefusals.NotFound.ToResult();

    private static async Task<IResult> EntriesAsync(
        Visitor visitor,
        Guid id,
        string? verdict,
        [AsParameters] Paging paging,
        HttpContext http,
        BatchLists lists
    )
    {
        var page = await lists.EntriesAsync(visitor, id, verdict, paging);
        return http.AsksForCsv() && page.Succeeded
            ? Lists.Csv(lists.ResultsAsync(visitor.WorkspaceId, id, verdict), "results")
            : page.ToPage(http);
    }

    private static async Task<IResult> MendAsync(
        Visitor visitor,
        Guid id,
        int number,
        MendRequest request,
        bool? dryRun,
        Batches batches
    ) => (await batches.MendAsync(visitor, id, number, request, dryRun ?? false)).ToResult();

    private static async Task<IResult> SendAsync(Visitor visitor, Guid id, Batches batches) =>
        (await batches.SendAsync(visitor, id)).ToResult();

    /// <summary>How far a batch has come, as server-sent events, until it rests.</summary>
    private static async Task<IResult> Progress(
        Visitor visitor,
        Guid id,
        BatchLists lists,
        IHostApplicationLifetime life
    ) =>
        await lists.FindAsync(visitor.WorkspaceId, id) is null
            ? CommonRefusals.NotFound.ToResult()
            : TypedResults.ServerSentEvents(
                WatchAsync(visitor.WorkspaceId, id, lists, life.ApplicationStopping)
            );

    /// <summary>How far a list has come, until it rests. A service that stops ends it, and says when to ask again.</summary>
    private static async IAsyncEnumerable<SseItem<BatchView>> WatchAsync(
        Guid workspace,
        Guid id,
        BatchLists lists,
        CancellationToken stopping,
        [EnumeratorCancellation] CancellationToken gone = default
    )
    {
        using var either = CancellationTokenSource.CreateLinkedTokenSource(stopping, gone);
        while (!gone.IsCancellationRequested && await lists.FindAsync(workspace, id) is { } view)
        {
            var isLast = stopping.IsCancellationRequested;
            yield return new SseItem<BatchView>(view, "progress")
            {
                ReconnectionInterval = isLast ? AskAgain : null,
            };
            if (isLast || view.State is "resting" or "stopped")
                yield break;
            await Task.Delay(Beat, either.Token).ContinueWith(_ => { }, TaskScheduler.Default);
        }
    }

    private static IResult Template(Visitor visitor, string? language, string? format) =>
        !Languages.Read(language ?? visitor.Workspace.Language).Try(out var tag, out var refusal)
            ? refusal.ToResult()
            : format switch
            {
                null or "csv" => Results.Bytes(
                    Tables.TemplateCsv(tag),
                    "text/csv; charset=utf-8",
                    "invitations.csv"
                ),
                "xlsx" => Results.Bytes(Tables.TemplateXlsx(tag), Xlsx, "invitations.xlsx"),
                _ => CommonRefusals.Malformed("format is csv or xlsx.").ToResult(),
            };

    private static Outcome<BatchDefaults> DefaultsOf(string? json)
    {
        if (string.IsNullOrWhiteSpace(json))
            return new BatchDefaults();
        try
        {
            return JsonSerializer.Deserialize(json, WireJson.Default.BatchDefaults) ?? new BatchDefaults();
        }
        catch (JsonException fault)
        {
            return CommonRefusals.Malformed($"the defaults are not JSON: {fault.Message}");
        }
    }
}
