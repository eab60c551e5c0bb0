using ComeAboard.Client.Invitations;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Record;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;

namespace ComeAboard.Service.Invitations;

/// <summary>Invitations, for those who invite.</summary>
public static class InvitationEndpoints
{
    public static RouteGroupBuilder MapInvitations(this RouteGroupBuilder workspace)
    {
        var invitations = workspace.MapGroup("/invitations").ForMembers(Duties.Invite | Duties.Approve);
        invitations
            .MapPost("/preview", PreviewAsync)
            .WithName("previewInvitation")
            .Produces<InvitationPreview>();
        invitations
            .MapPost("", SendAsync)
            .WithName("sendInvitation")
            .Produces<InvitationView>(StatusCodes.Status201Created)
            .RequireRateLimiting(Limits.Inviting);
        invitations.MapGet("", ListAsync).WithName("listInvitations").Produces<InvitationPage>();
        invitations.MapGet("/{id:guid}", ShowAsync).WithName("showInvitation").Produces<InvitationView>();
        invitations
            .MapGet("/{id:guid}/history", HistoryAsync)
            .WithName("invitationHistory")
            .Produces<Page<RecordEntryView>>();
        return workspace;
    }

    private static Task<InvitationPreview> PreviewAsync(
        Visitor visitor,
        InvitationRequest request,
        Inviting inviting
    ) => inviting.PreviewAsync(visitor, request);

    private static async Task<IResult> SendAsync(
        Visitor visitor,
        InvitationRequest request,
        HttpContext http,
        Inviting inviting
    )
    {
        var key = http.Request.Headers["Idempotency-Key"].ToString();
        var sent = await inviting.SendAsync(visitor, request, key.Length > 0 ? key : null);
        return sent.ToResult(view =>
        {
            http.Response.SayVersion(view.Version);
            return Results.Created($"{http.Request.Path}/{view.Id}", view);
        });
    }

    private static async Task<IResult> ListAsync(
        Visitor visitor,
        [AsParameters] InvitationQuery query,
        HttpContext http,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var page = await InvitationLists.PageAsync(rows, query, clock.Now(), visitor.World);
        return page.ToResult(found =>
        {
            http.SayNext(found.Next);
            return Results.Ok(found);
        });
    }

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        if (await InvitationLists.FindAsync(rows, id, clock.Now(), visitor.World) is not { } view)
            return CommonRefusals.NotFound.ToResult();
        http.Response.SayVersion(view.Version);
        return Results.Ok(view);
    }

    private static async Task<IResult> HistoryAsync(Visitor visitor, Guid id, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        return await RecordLists.HistoryAsync(rows, id) is { Items.Count: > 0 } history
            ? Results.Ok(history)
            : CommonRefusals.NotFound.ToResult();
    }
}
