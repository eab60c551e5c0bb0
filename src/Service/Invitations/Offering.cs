using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>An invitation read and checked for itself, before anything is known of its address.</summary>
/// <param name="Offer">What is offered.</param>
/// <param name="AnswerTime">How long it may be answered.</param>
public sealed record Offering(InvitationOffer Offer, TimeSpan AnswerTime)
{
    /// <summary>Reads a wish; the first fault found is the refusal.</summary>
    public static Outcome<Offering> Read(
        InvitationWish wish,
        int? answerDays,
        WorkspaceRow workspace,
        AccessWorld world,
        DateTimeOffset now
    )
    {
        if (
            !InvitationOffer
                .Read(wish, Days.Of(now, workspace.Zone), workspace.Language, world)
                .Try(out var offer, out var refusal)
        )
            return refusal;
        var answerTime = answerDays is { } days ? TimeSpan.FromDays(days) : workspace.AnswerTime;
        if (answerTime < TimeSpan.FromDays(1) || answerTime > InvitationLife.LongestAnswerTime)
            return new Refusal(
                "answer-time.out-of-range",
                "The time to answer must be 1 to 365 days.",
                "Give a number of days in that range.",
                Field: "answerDays"
            );
        return new Offering(offer, answerTime);
    }

    /// <summary>A request as a wish.</summary>
    public static InvitationWish WishOf(InvitationRequest request) =>
        new(
            request.Address,
            request.Kind,
            null,
            request.Name,
            request.Message,
            request.Until,
            request.Language
        )
        {
            From = request.From,
            GivenName = request.GivenName,
            FamilyName = request.FamilyName,
            Organisation = request.Organisation,
            Title = request.Title,
            Department = request.Department,
            Manager = request.Manager,
            Country = request.Country,
            Note = request.Note,
            Host = request.Host,
            More = Bundles.WishOf(request.Role, request.Resource, request.Gives),
        };

    /// <summary>What is known when somebody wants to send it.</summary>
    public InvitingFacts FactsFor(
        AccessWorld world,
        Guid inviter,
        KnownAddresses known,
        WorkspaceRow workspace,
        DateTimeOffset now
    ) =>
        new(
            world,
            WorkspaceRules.Of(workspace),
            inviter,
            Offer.Kind,
            Offer.Gives,
            Offer.OrganisationId is { } own ? world.Organisations.GetValueOrDefault(own) : null,
            Offer.Stay,
            (int)AnswerTime.TotalDays,
            Days.Of(now, workspace.Zone)
        )
        {
            Address = Offer.Address,
            Standing = known.Of(Offer.Address, now, workspace.Zone),
            NamesHost = Offer.Host is not null,
            HasHost = known.Host(Offer.Host) is not null,
            Seats = known.Seats,
            OfOrganisation = Offer.OrganisationId is { } of ? known.OfOrganisation(of) : 0,
        };

    /// <summary>Decides whether it may be sent by somebody at an instant; null when it may.</summary>
    public Refusal? Forbidden(
        AccessWorld world,
        Guid inviter,
        KnownAddresses known,
        WorkspaceRow workspace,
        DateTimeOffset now
    ) => Readiness.Blockers(FactsFor(world, inviter, known, workspace, now)).FirstOrDefault();

    /// <summary>The row of it.</summary>
    /// <param name="workspace">Where.</param>
    /// <param name="inviter">By whom.</param>
    /// <param name="host">The host, if one is named.</param>
    /// <param name="now">When.</param>
    /// <param name="secretHash">Of the link; null for a draft.</param>
    /// <param name="batch">The batch it comes from.</param>
    public InvitationRow ToRow(
        WorkspaceRow workspace,
        MemberRow inviter,
        MemberRow? host,
        DateTimeOffset now,
        string? secretHash,
        Guid? batch = null
    ) =>
        new InvitationRow
        {
            WorkspaceId = workspace.Id,
            Id = Guid.CreateVersion7(now),
            Address = Offer.Address.ToString(),
            AddressKey = Offer.Address.Key,
            Name = Offer.Name,
            Kind = Offer.Kind,
            Gives = BundleText.Of(Offer.Gives),
            OrganisationId = Offer.OrganisationId,
            FirstDay = Offer.Stay.FirstDay,
            LastDay = Offer.Stay.LastDay,
            Message = Offer.Message,
            Language = Offer.Language,
            State = secretHash is null ? InvitationState.Draft : InvitationState.Queued,
            SecretHash = secretHash,
            Deadline = now + AnswerTime,
            AnswerSeconds = (long)AnswerTime.TotalSeconds,
            InvitedBy = inviter.Id,
            InvitedByName = inviter.Name,
            CreatedAt = now,
            LastStepAt = now,
            HostId = host?.Id,
            HostName = host?.Name ?? "",
            BatchId = batch,
            NeedsApproval = WorkspaceRules.Of(workspace).NeedsApproval(Offer.Kind, Offer.Gives),
        }.WithDetails(Offer.Details);
}
