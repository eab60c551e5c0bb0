using ComeAboard.Client.Invitations;
using ComeAboard.Client.Workspaces;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Http;
using ComeAboard.Service.Mail;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage;
using Microsoft.EntityFrameworkCore;
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
                .Produces<InvitationView>();
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
            .Produces<InvitationView>();
        invitations.MapPut("/{id:guid}", ChangeDraftAsync).WithName("changeDraft").Produces<InvitationView>();
        invitations.MapPost("/{id:guid}/link", LinkAsync).WithName("freshLink").Produces<FreshLink>();
        invitations.MapPost("/steps", StepsAsync).WithName("takeSteps").Produces<StepsAnswer>();
        invitations.MapPost("/test", TestAsync).WithName("testInvitation").Produces(202);
        invitations
            .MapGet("/export.csv", ExportAsync)
            .WithName("exportInvitations")
            .Produces<string>(200, "text/csv");

        workspace
            .MapGet("/bounced-addresses", BouncedAsync)
            .ForMembers(Duties.Invite)
            .WithName("listBouncedAddresses")
            .Produces<Page<BouncedAddressView>>();
        workspace
            .MapDelete("/bounced-addresses/{address}", ForgetBounceAsync)
            .ForMembers(Duties.Invite)
            .WithName("forgetBouncedAddress")
            .Produces(204);
        workspace
            .MapPost("/delivery-reports", TakeReportAsync)
            .ForMembers(Duties.Invite)
            .WithName("takeDeliveryReport")
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
        InvitationSteps steps,
        TimeProvider clock
    ) =>
        Answer(
            http,
            await steps.ChangeDraftAsync(visitor, id, request, http.Request.ExpectedVersion(), clock.Now())
        );

    private static async Task<IResult> LinkAsync(Visitor visitor, Guid id, InvitationSteps steps) =>
        (await steps.LinkAsync(visitor, id)).ToResult();

    private static async Task<IResult> StepsAsync(
        Visitor visitor,
        StepsRequest request,
        StepsTogether together
    ) => (await together.TakeAsync(visitor, request)).ToResult();

    private static async Task<IResult> TestAsync(
        Visitor visitor,
        InvitationRequest request,
        Inviting inviting
    ) => (await inviting.TestAsync(visitor, request)).ToResult(_ => Results.Accepted());

    /// <summary>The list as it is narrowed and ordered, whole, as CSV.</summary>
    private static async Task<IResult> ExportAsync(
        Visitor visitor,
        [AsParameters] InvitationQuery query,
        Database database,
        TimeProvider clock
    )
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var table = new List<IReadOnlyList<string>> { InvitationLists.ExportHeadings };
        for (string? cursor = query.Cursor; ; )
        {
            var lot = query with { Cursor = cursor, Limit = Requests.LargestPage };
            if (
                !(await InvitationLists.PageAsync(rows, lot, clock.Now(), visitor.World)).Try(
                    out var page,
                    out var refusal
                )
            )
                return refusal.ToResult();
            table.AddRange(page.Items.Select(InvitationLists.ExportRow));
            if ((cursor = page.Next) is null)
                return Results.Bytes(Tables.Export(table), "text/csv; charset=utf-8", "invitations.csv");
        }
    }

    private static async Task<Page<BouncedAddressView>> BouncedAsync(Visitor visitor, Database database)
    {
        await using var rows = database.Open(visitor.WorkspaceId);
        var found = await rows
            .BouncedAddresses.AsNoTracking()
            .OrderBy(b => b.AddressKey)
            .Take(1_000)
            .ToListAsync();
        return new Page<BouncedAddressView>(
            [
                .. found
                    .OrderByDescending(b => b.At)
                    .Select(b => new BouncedAddressView(
                        b.Address,
                        $"Mail came back: {EnhancedStatus.Explain(b.Answer)}.",
                        b.Answer,
                        b.At
                    )),
            ],
            null
        );
    }

    private static async Task<IResult> ForgetBounceAsync(
        Visitor visitor,
        string address,
        WorkspaceWriter writer
    )
    {
        if (!EmailAddress.Read(address).Try(out var read, out var refusal))
            return refusal.ToResult();
        var forgotten = await writer.WriteAsync<bool>(
            visitor.WorkspaceId,
            visitor.Caller,
            async write =>
            {
                if (!(await write.RequireAsync(Duties.Invite)).Try(out _, out var no))
                    return no;
                var row = await write.Rows.BouncedAddresses.FirstOrDefaultAsync(b =>
                    b.AddressKey == read.Key
                );
                if (row is null)
                    return CommonRefusals.NotFound;
                write.Rows.BouncedAddresses.Remove(row);
                write.Record("bounce.forgotten", write.Workspace.Id, ("address", row.Address));
                return true;
            }
        );
        return forgotten.ToResult(_ => Results.NoContent());
    }

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
            return Results.Ok(await reports.TakeAsync(message, visitor.WorkspaceId));
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
