using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;

namespace ComeAboard.Service.Record;

/// <summary>The record, for those who account for things.</summary>
public static class RecordEndpoints
{
    public static RouteGroupBuilder MapRecord(this RouteGroupBuilder workspace)
    {
        var record = workspace.MapGroup("/record").ForMembers(Duties.Record);
        record.MapGet("", ListAsync).WithName("listRecord").Produces<Page<RecordEntryView>>();
        record.MapGet("/verification", VerifyAsync).WithName("verifyRecord").Produces<RecordVerification>();
        return workspace;
    }

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        string? cursor,
        int? limit,
        HttpContext http,
        Database database
    )
    {
        long? before = null;
        if (cursor is { Length: > 0 })
        {
            if (!long.TryParse(cursor, out var sequence))
                return new Refusal(
                    "cursor.malformed",
                    "The cursor is not one of this list.",
                    "Start from the first page.",
                    Field: "cursor"
                ).ToResult();
            before = sequence;
        }
        await using var rows = database.Open(visitor.WorkspaceId);
        var page = await RecordLists.PageAsync(rows, before, limit);
        http.SayNext(page.Next);
        return Results.Ok(page);
    }

    private static async Task<RecordVerification> VerifyAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await RecordLists.VerifyAsync(rows, visitor.WorkspaceId);
    }
}
