using ComeAboard.Client.Invitations;
using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Core.Workspaces;
using ComeAboard.Service.Workspaces;
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
        DateTimeOffset now
    )
    {
        if (
            !InvitationOffer
                .Read(wish, Days.Of(now, workspace.Zone), workspace.Language)
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
            request.Role,
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
        };

    /// <summary>Decides whether it may be sent by somebody at an instant; null when it may.</summary>
    public Refusal? Forbidden(
        MemberRow inviter,
        KnownAddresses known,
        WorkspaceRow workspace,
        DateTimeOffset now
    )
    {
        if (
            InvitingRules.ForbidsGiving(
                inviter.CoreRole.DutiesFor(inviter.Kind),
                inviter.CoreRole,
                Offer.Role
            ) is
            { } right
        )
            return right;
        if (
            InvitingRules.Forbids(Offer.Address, known.Of(Offer.Address, now, workspace.Zone)) is { } standing
        )
            return standing;
        var host = known.Host(Offer.Host);
        if (Offer.Host is not null && host is null)
            return new Refusal(
                "host.unknown",
                "The host is nobody of the staff here.",
                "Give the address of a member of the staff.",
                Field: "host"
            );
        return WorkspaceRules
            .Of(workspace)
            .Forbids(Offer, host is not null, (int)AnswerTime.TotalDays, Days.Of(now, workspace.Zone));
    }

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
            Role = Offer.Role.Name,
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
            NeedsApproval = WorkspaceRules.Of(workspace).NeedsApproval(Offer.Kind),
        }.WithDetails(Offer.Details);
}
