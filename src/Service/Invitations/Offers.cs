using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Access;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>Offers read from requests, laid beside what is known, and kept as rows.</summary>
public static class Offers
{
    /// <summary>Reads a wish by what is usual in a workspace; the first fault found is the refusal.</summary>
    public static Outcome<InvitationOffer> Read(
        InvitationWish wish,
        WorkspaceRow workspace,
        AccessWorld world,
        DateTimeOffset now
    ) => InvitationOffer.Read(wish, UsualIn(workspace, now), world);

    /// <summary>What is usual in a workspace.</summary>
    public static UsualOffer UsualIn(WorkspaceRow workspace, DateTimeOffset now) =>
        new(
            Days.Of(now, workspace.Zone),
            workspace.Language,
            workspace.AnswerTime,
            WorkspaceRules.Of(workspace)
        );

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
            AnswerDays = request.AnswerDays,
            NoEnd = request.NoEnd,
            OrganisationAsWritten = request.OrganisationAsWritten,
            More = Bundles.WishOf(request.Role, request.Resource, request.Gives),
        };

    /// <summary>What is known when somebody wants to send an offer.</summary>
    public static InvitingFacts FactsFor(
        this InvitationOffer offer,
        AccessWorld world,
        Guid inviter,
        KnownAddresses known,
        WorkspaceRow workspace,
        DateTimeOffset now
    ) =>
        InvitingFacts.Of(
            offer,
            world,
            WorkspaceRules.Of(workspace),
            inviter,
            Days.Of(now, workspace.Zone)
        ) with
        {
            Standing = known.Of(offer.Address, now, workspace.Zone),
            HasHost = known.Host(offer.Host) is not null,
            Seats = known.Seats,
            OfOrganisation = offer.OrganisationId is { } of ? known.OfOrganisation(of) : 0,
        };

    /// <summary>Decides whether an offer may be sent by somebody at an instant; null when it may.</summary>
    public static Refusal? Forbidden(
        this InvitationOffer offer,
        AccessWorld world,
        Guid inviter,
        KnownAddresses known,
        WorkspaceRow workspace,
        DateTimeOffset now
    ) => Readiness.Blockers(offer.FactsFor(world, inviter, known, workspace, now)).FirstOrDefault();

    /// <summary>The row of an offer: a draft that nothing has been done with yet.</summary>
    /// <param name="offer">The offer.</param>
    /// <param name="workspace">Where.</param>
    /// <param name="inviter">By whom.</param>
    /// <param name="host">The host, if one is named.</param>
    /// <param name="now">When.</param>
    /// <param name="batch">The batch it comes from.</param>
    public static InvitationRow ToRow(
        this InvitationOffer offer,
        WorkspaceRow workspace,
        MemberRow inviter,
        MemberRow? host,
        DateTimeOffset now,
        Guid? batch = null
    ) =>
        new InvitationRow
        {
            WorkspaceId = workspace.Id,
            Id = Guid.CreateVersion7(now),
            Address = offer.Address.ToString(),
            AddressKey = offer.Address.Key,
            Name = offer.Name,
            Kind = offer.Kind,
            Gives = BundleText.Of(offer.Gives),
            OrganisationId = offer.OrganisationId,
            FirstDay = offer.Stay.FirstDay,
            LastDay = offer.Stay.LastDay,
            Message = offer.Message,
            Language = offer.Language,
            State = InvitationState.Draft,
            SecretHash = null,
            Deadline = now + offer.AnswerTime,
            AnswerSeconds = (long)offer.AnswerTime.TotalSeconds,
            InvitedBy = inviter.Id,
            InvitedByName = inviter.Name,
            CreatedAt = now,
            LastStepAt = now,
            HostId = host?.Id,
            HostName = host?.Name ?? "",
            BatchId = batch,
        }.WithDetails(offer.Details);
}
