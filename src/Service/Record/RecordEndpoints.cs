using ComeAboard.Client.Record;
using ComeAboard.Client.SignIn;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.SignIn;
using ComeAboard.Service.Workspaces;

namespace ComeAboard.Service.Record;

/// <summary>The record and what touches safety, for those who account for things.</summary>
public static class RecordEndpoints
{
    public static RouteGroupBuilder MapRecord(this RouteGroupBuilder workspace)
    {
        var record = workspace.MapGroup("/record").ForMembers(Duties.Record);
        record
            .MapGet(
                "",
                async (Visitor visitor, [AsParameters] Paging paging, HttpContext http, RecordLists lists) =>
                    (await lists.PageAsync(visitor, paging)).ToPage(http)
            )
            .WithName("listRecord")
            .Produces<Page<RecordEntryView>>()
            .OrCsv("record");
        record
            .MapGet(
                "/verification",
                (Visitor visitor, RecordLists lists) => lists.VerifyAsync(visitor.WorkspaceId)
            )
            .WithName("verifyRecord")
            .Produces<RecordVerification>();
        workspace
            .MapGet("/security-events", ListEventsAsync)
            .ForMembers(Duties.Record)
            .WithName("listSecurityEvents")
            .Produces<Page<SecurityEventView>>()
            .SaidAsCsv();
        return workspace;
    }

    private static async Task<IResult> ListEventsAsync(
        Visitor visitor,
        [AsParameters] Paging paging,
        HttpContext http,
        SecurityEvents events
    ) =>
        http.AsksForCsv()
            ? Lists.Csv(events.LotsAsync(visitor), "security-events")
            : (await events.ListAsync(visitor, paging)).ToPage(http);
}
