using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using MimeKit;

namespace ComeAboard.Service.Invitations;

/// <summary>Following up: steps for one and for many, fresh links, and what becomes of the mail.</summary>
public static class FollowUpEndpoints
{
    private const int LargestReport = 2 * 1024 * 1024;

    public static RouteGroupBuilder MapFollowUp(this RouteGroupBuilder workspace)
    {
        var invitations = workspace.MapGroup("/invitations").ForMembers(Duties.Invite | Duties.Approve);
        foreach (var step in (string[])["send", "resend", "remind", "revoke", "approve"])
            invitations
                .MapPost(
                    "/{id:guid}/" + step,
                    async (Visitor visitor, Guid id, HttpContext http, InvitationSteps steps) =>
                        Answer(http, await steps.TakeAsync(visitor, id, step, http.Request.ExpectedVersion()))
                )
                .WithName(step == "send" ? "sendDraft" : step + "Invitation")
                .Produces<InvitationView>()
                .LimitedBy(Limits.Inviting);
        invitations
            .MapPost("/{id:guid}/refuse", RefuseAsync)
            .WithName("refuseInvitation")
            .Produces<InvitationView>();
        invitations
            .MapPost("/{id:guid}/extend", ExtendAsync)
            .WithName("extendInvitation")
            .Produces<InvitationView>();
        invitations
            .MapPost("/{id:guid}/correct", CorrectAsync)
            .WithName("correctInvitation")
            .Produces<InvitationView>()
            .LimitedBy(Limits.Inviting);
        invitations.MapPut("/{id:guid}", ChangeDraftAsync).WithName("changeDraft").Produces<InvitationView>();
        invitations.MapPost("/{id:guid}/link", LinkAsync).WithName("freshLink").Produces<FreshLink>();
        invitations.MapPost("/steps", StepsAsync).WithName("takeSteps").Produces<StepsAnswer>();
        invitations
            .MapPost("/test", TestAsync)
            .WithName("testInvitation")
            .Produces(202)
            .LimitedBy(Limits.Inviting);
        workspace
            .MapGet("/bounced-addresses", BouncedAsync)
            .ForMembers(Duties.Invite)
            .WithName("listBouncedAddresses")
            .Produces<Page<BouncedAddressView>>()
            .OrCsv("bounced-addresses");
        workspace
            .MapDelete("/bounced-addresses/{address}", ForgetBounceAsync)
            .ForMembers(Duties.Invite)
            .WithName("forgetBouncedAddress")
            .OrTried()
            .Produces(204);
        workspace
            .MapPost("/delivery-reports", TakeReportAsync)
            .ForMembers(Duties.Invite)
            .WithName("takeDeliveryReport")
            .OrTried()
            .Produces<ReportAnswer>();
        return workspace;
    }

    private static async Task<IResult> RefuseAsync(
        Visitor visitor,
        Guid id,
        RefusalRequest request,
        HttpContext http,
        InvitationSteps steps
    ) =>
        Answer(
            http,
            await steps.TakeAsync(
                visitor,
                id,
                "refuse",
                http.Request.ExpectedVersion(),
                reason: request.Reason
            )
        );

    private static async Task<IResult> ExtendAsync(
        Visitor visitor,
        Guid id,
        ExtensionRequest request,
        HttpContext http,
        InvitationSteps steps
    ) =>
        Answer(
            http,
            await steps.TakeAsync(visitor, id, "extend", http.Request.ExpectedVersion(), request.Days)
        );

    private static async Task<IResult> CorrectAsync(
        Visitor visitor,
        Guid id,
        CorrectionRequest request,
        HttpContext http,
        InvitationSteps steps
    ) => Answer(http, await steps.CorrectAsync(visitor, id, request.Address, http.Request.ExpectedVersion()));

    private static async Task<IResult> ChangeDraftAsync(
        Visitor visitor,
        Guid id,
        InvitationRequest request,
        HttpContext http,
        Drafts drafts,
        TimeProvider clock
    ) =>
        Answer(
            http,
            await drafts.ChangeAsync(visitor, id, request, http.Request.ExpectedVersion(), clock.Now())
        );

    private static async Task<IResult> LinkAsync(Visitor visitor, Guid id, InvitationSteps steps) =>
        (await steps.LinkAsync(visitor, id)).ToResult();

    private static async Task<IResult> StepsAsync(
        Visitor visitor,
        StepsRequest request,
        InvitationSteps steps
    ) => (await steps.TakeAsync(visitor, request)).ToResult();

    private static async Task<IResult> TestAsync(
        Visitor visitor,
        InvitationRequest request,
        Inviting inviting
    ) => (await inviting.TestAsync(visitor, request)).ToResult(_ => Results.Accepted());

    private static Task<Page<BouncedAddressView>> BouncedAsync(Visitor visitor, BouncedAddresses bounced) =>
        bounced.ListAsync(visitor);

    private static async Task<IResult> ForgetBounceAsync(
        Visitor visitor,
        string address,
        BouncedAddresses bounced
    ) => (await bounced.ForgetAsync(visitor, address)).ToResult(_ => Results.NoContent());

    private static async Task<IResult> TakeReportAsync(
        Visitor visitor,
        HttpContext http,
        DeliveryReports reports
    )
    {
        using var content = new MemoryStream();
        var buffer = new byte[16_384];
        for (int read; (read = await http.Request.Body.ReadAsync(buffer, http.RequestAborted)) > 0; )
        {
            content.Write(buffer, 0, read);
            if (content.Length > LargestReport)
                return CommonRefusals.Malformed("the report is larger than 2 MB.").ToResult();
        }
        content.Position = 0;
        try
        {
            var message = await MimeMessage.LoadAsync(content, http.RequestAborted);
            return Results.Ok(
                await reports.TakeAsync(message, visitor.WorkspaceId, visitor.Caller.Rehearses)
            );
        }
        catch (FormatException)
        {
            return CommonRefusals.Malformed("the body is no mail (RFC 5322).").ToResult();
        }
    }

    private static IResult Answer(HttpContext http, Core.Outcome<InvitationView> outcome) =>
        outcome.ToResult(view =>
        {
            http.Response.SayVersion(view.Version);
            return Results.Ok(view);
        });
}
