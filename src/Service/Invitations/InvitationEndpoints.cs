using ComeAboard.Client.Invitations;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Record;
using ComeAboard.Service.Workspaces;

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
            .LimitedBy(Limits.Inviting);
        invitations.MapGet("", ListAsync).WithName("listInvitations").Produces<InvitationPage>().SaidAsCsv();
        invitations.MapGet("/{id:guid}", ShowAsync).WithName("showInvitation").Produces<InvitationView>();
        invitations
            .MapGet("/{id:guid}/history", HistoryAsync)
            .WithName("invitationHistory")
            .Produces<Page<RecordEntryView>>();
        workspace
            .MapGet("/invitations/figures", FiguresAsync)
            .ForMembers(Duties.Invite)
            .WithName("invitationFigures")
            .Produces<FiguresView>()
            .SaidAsCsv();
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
        var sent = await inviting.SendAsync(visitor, request, http.Request.IdempotencyKey());
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
        InvitationLists lists
    ) =>
        http.AsksForCsv()
            ? (await lists.TableAsync(visitor, query)).ToResult(table => Lists.Csv(table, "invitations"))
            : (await lists.PageAsync(visitor.Workspace, visitor.World, query)).ToResult(found =>
            {
                http.SayNext(found.Next);
                return Results.Ok(found);
            });

    private static async Task<IResult> ShowAsync(
        Visitor visitor,
        Guid id,
        HttpContext http,
        InvitationLists lists
    ) =>
        await lists.FindAsync(visitor, id) is { } view
            ? http.Versioned(view, view.Version)
            : CommonRefusals.NotFound.ToResult();

    private static async Task<IResult> HistoryAsync(Visitor visitor, Guid id, RecordLists record) =>
        await record.HistoryAsync(visitor, id) is { Items.Count: > 0 } history
            ? Results.Ok(history)
            : CommonRefusals.NotFound.ToResult();

    private static async Task<IResult> FiguresAsync(
        Visitor visitor,
        DateOnly? from,
        DateOnly? until,
        HttpContext http,
        Figures figures
    ) =>
        (await figures.CountAsync(visitor.Workspace, from, until)).ToResult(found =>
            http.AsksForCsv() ? Lists.Csv(Figures.TableOf(found), "figures") : Results.Ok(found)
        );
}
