using System.Globalization;
using System.Net.Http.Headers;
using System.Net.Http.Json;
using ComeAboard.Client.Invitations;
using ComeAboard.Client.Record;
using ComeAboard.Client.Workspaces;

namespace ComeAboard.Client;

// Invitations: inviting, following up, answering.
public sealed partial class AboardClient
{
    /// <summary>Shows what sending would do, and the exact mail. Changes nothing.</summary>
    public Task<InvitationPreview> PreviewInvitationAsync(
        InvitationRequest request,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            _workspace + "/invitations/preview",
            request,
            WireJson.Default.InvitationRequest,
            WireJson.Default.InvitationPreview,
            cancellation
        );

    /// <summary>Sends an invitation.</summary>
    /// <param name="request">What to send.</param>
    /// <param name="idempotencyKey">A key of the caller's: the same key twice sends once and answers the same.</param>
    /// <param name="cancellation">Stops waiting; the invitation may have been sent.</param>
    public Task<InvitationView> SendInvitationAsync(
        InvitationRequest request,
        string idempotencyKey,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            _workspace + "/invitations",
            request,
            WireJson.Default.InvitationRequest,
            WireJson.Default.InvitationView,
            cancellation,
            idempotencyKey
        );

    /// <summary>A page of invitations.</summary>
    /// <param name="state">A state, <c>pending</c>, or null for all.</param>
    /// <param name="search">Any part of a name, address or organisation, or null.</param>
    /// <param name="cursor">The cursor of the page before, or null for the first.</param>
    /// <param name="limit">At most so many, 1 to 200.</param>
    /// <param name="sort">newest (when null), oldest, deadline (soonest first) or last-step (latest first).</param>
    /// <param name="kind">Only those of this kind, or null.</param>
    /// <param name="batch">Only those of this batch, or null.</param>
    /// <param name="link">Only those that came by this join link, or null.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<InvitationPage> InvitationsAsync(
        string? state = null,
        string? search = null,
        string? cursor = null,
        int limit = 50,
        string? sort = null,
        string? kind = null,
        Guid? batch = null,
        Guid? link = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/invitations?limit={limit}"
                + Query("state", state)
                + Query("sort", sort)
                + Query("kind", kind)
                + Query("batch", batch?.ToString())
                + Query("link", link?.ToString())
                + Query("search", search)
                + Query("cursor", cursor),
            WireJson.Default.InvitationPage,
            cancellation
        );

    /// <summary>One invitation.</summary>
    public Task<InvitationView> InvitationAsync(Guid id, CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/invitations/{id}", WireJson.Default.InvitationView, cancellation);

    /// <summary>What happened to one invitation, oldest first.</summary>
    public Task<Page<RecordEntryView>> InvitationHistoryAsync(
        Guid id,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/invitations/{id}/history",
            WireJson.Default.PageRecordEntryView,
            cancellation
        );

    /// <summary>Sends an invitation again with a new secret; the old link dies.</summary>
    public Task<InvitationView> ResendInvitationAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/resend", WireJson.Default.InvitationView, cancellation);

    /// <summary>Takes an invitation back.</summary>
    public Task<InvitationView> RevokeInvitationAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/revoke", WireJson.Default.InvitationView, cancellation);

    /// <summary>Reads what an invitation's link offers; nothing is answered by it.</summary>
    public Task<LandingView> ReadLinkAsync(string secret, CancellationToken cancellation = default) =>
        PostAsync(
            "api/v1/invitation-links/read",
            new LinkRequest(secret),
            WireJson.Default.LinkRequest,
            WireJson.Default.LandingView,
            cancellation
        );

    /// <summary>Says yes to an invitation.</summary>
    public Task<AcceptAnswer> AcceptAsync(AcceptRequest request, CancellationToken cancellation = default) =>
        PostAsync(
            "api/v1/invitation-links/accept",
            request,
            WireJson.Default.AcceptRequest,
            WireJson.Default.AcceptAnswer,
            cancellation
        );

    /// <summary>Has a code mailed to the invited address.</summary>
    public Task AskCodeAsync(CodeRequest request, CancellationToken cancellation = default) =>
        SendAsync(
            Post("api/v1/invitation-links/code", JsonContent.Create(request, WireJson.Default.CodeRequest)),
            cancellation
        );

    /// <summary>Says no to an invitation.</summary>
    public Task DeclineAsync(DeclineRequest request, CancellationToken cancellation = default) =>
        SendAsync(
            Post(
                "api/v1/invitation-links/decline",
                JsonContent.Create(request, WireJson.Default.DeclineRequest)
            ),
            cancellation
        );

    /// <summary>Sends a draft.</summary>
    public Task<InvitationView> SendDraftAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/send", WireJson.Default.InvitationView, cancellation);

    /// <summary>Reminds of an invitation now; its mail has a link of its own, and the first goes on counting.</summary>
    public Task<InvitationView> RemindAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/remind", WireJson.Default.InvitationView, cancellation);

    /// <summary>Approves what an invitee accepted.</summary>
    public Task<InvitationView> ApproveAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/approve", WireJson.Default.InvitationView, cancellation);

    /// <summary>Turns down what an invitee accepted.</summary>
    public Task<InvitationView> RefuseAsync(
        Guid id,
        string? reason = null,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/invitations/{id}/refuse",
            new RefusalRequest(reason),
            WireJson.Default.RefusalRequest,
            WireJson.Default.InvitationView,
            cancellation
        );

    /// <summary>Gives more time to answer, counted from now.</summary>
    public Task<InvitationView> ExtendAsync(Guid id, int days, CancellationToken cancellation = default) =>
        PostAsync(
            $"{_workspace}/invitations/{id}/extend",
            new ExtensionRequest(days),
            WireJson.Default.ExtensionRequest,
            WireJson.Default.InvitationView,
            cancellation
        );

    /// <summary>Puts the right address in and sends again.</summary>
    public Task<InvitationView> CorrectAsync(
        Guid id,
        string address,
        CancellationToken cancellation = default
    ) =>
        PostAsync(
            $"{_workspace}/invitations/{id}/correct",
            new CorrectionRequest(address),
            WireJson.Default.CorrectionRequest,
            WireJson.Default.InvitationView,
            cancellation
        );

    /// <summary>Replaces what a draft carries.</summary>
    public Task<InvitationView> ChangeDraftAsync(
        Guid id,
        InvitationRequest request,
        CancellationToken cancellation = default
    ) =>
        CallAsync(
            HttpMethod.Put,
            $"{_workspace}/invitations/{id}",
            request,
            WireJson.Default.InvitationRequest,
            WireJson.Default.InvitationView,
            cancellation
        );

    /// <summary>Makes a link to hand over by another way than mail.</summary>
    public Task<FreshLink> FreshLinkAsync(Guid id, CancellationToken cancellation = default) =>
        StepAsync($"{_workspace}/invitations/{id}/link", WireJson.Default.FreshLink, cancellation);

    /// <summary>Takes the same step for several invitations.</summary>
    public Task<StepsAnswer> TakeStepsAsync(StepsRequest request, CancellationToken cancellation = default) =>
        PostAsync(
            $"{_workspace}/invitations/steps",
            request,
            WireJson.Default.StepsRequest,
            WireJson.Default.StepsAnswer,
            cancellation
        );

    /// <summary>Has the exact mail sent to oneself; its link opens nothing.</summary>
    public Task TestInvitationAsync(InvitationRequest request, CancellationToken cancellation = default) =>
        SendAsync(
            Post(
                $"{_workspace}/invitations/test",
                JsonContent.Create(request, WireJson.Default.InvitationRequest)
            ),
            cancellation
        );

    /// <summary>How invitations were answered in a span of days.</summary>
    /// <param name="from">The first day, inclusive; 90 days before the last when null.</param>
    /// <param name="until">The last day, inclusive; today when null.</param>
    /// <param name="cancellation">Stops waiting.</param>
    public Task<FiguresView> FiguresAsync(
        DateOnly? from = null,
        DateOnly? until = null,
        CancellationToken cancellation = default
    ) =>
        GetAsync(
            $"{_workspace}/invitations/figures?{Span(from, until)}",
            WireJson.Default.FiguresView,
            cancellation
        );

    /// <summary>The same as CSV.</summary>
    public Task<byte[]> FiguresCsvAsync(
        DateOnly? from = null,
        DateOnly? until = null,
        CancellationToken cancellation = default
    ) =>
        BytesAsync(
            new HttpRequestMessage(
                HttpMethod.Get,
                $"{_workspace}/invitations/figures?format=csv&{Span(from, until)}"
            ),
            cancellation
        );

    /// <summary>The list of invitations as CSV, whole, as it is narrowed and ordered.</summary>
    public Task<byte[]> ExportInvitationsAsync(
        string? state = null,
        string? search = null,
        string? sort = null,
        string? kind = null,
        CancellationToken cancellation = default
    ) =>
        BytesAsync(
            new HttpRequestMessage(
                HttpMethod.Get,
                $"{_workspace}/invitations?format=csv&"
                    + Query("state", state)
                    + Query("search", search)
                    + Query("sort", sort)
                    + Query("kind", kind)
            ),
            cancellation
        );

    /// <summary>Addresses at which mail came back for good.</summary>
    public Task<Page<BouncedAddressView>> BouncedAddressesAsync(CancellationToken cancellation = default) =>
        GetAsync($"{_workspace}/bounced-addresses", WireJson.Default.PageBouncedAddressView, cancellation);

    /// <summary>Takes an address off the list of those at which mail came back.</summary>
    public Task ForgetBounceAsync(
        string address,
        bool dryRun = false,
        CancellationToken cancellation = default
    ) =>
        DeleteAsync(
            $"{_workspace}/bounced-addresses/{Uri.EscapeDataString(address)}" + Dry(dryRun),
            cancellation
        );

    /// <summary>Hands in a delivery report (RFC 3464), as the mail it came in.</summary>
    public async Task<ReportAnswer> TakeReportAsync(
        Stream mail,
        bool dryRun = false,
        CancellationToken cancellation = default
    )
    {
        using var message = Post($"{_workspace}/delivery-reports" + Dry(dryRun), new StreamContent(mail));
        message.Content!.Headers.ContentType = new MediaTypeHeaderValue("message/rfc822");
        using var answer = await SendAsync(message, cancellation).ConfigureAwait(false);
        return await ReadAsync(answer, WireJson.Default.ReportAnswer, cancellation).ConfigureAwait(false);
    }

    private static string Span(DateOnly? from, DateOnly? until) =>
        Query("from", from?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture))
        + Query("until", until?.ToString("yyyy-MM-dd", CultureInfo.InvariantCulture));
}
