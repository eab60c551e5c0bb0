using ComeAboard.Client.Invitations;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Service.Access;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Workspaces;

namespace ComeAboard.Service.Invitations;

/// <summary>How far the last mail about an invitation has come.</summary>
/// <param name="State">How far.</param>
/// <param name="Tries">How often it was handed to the mail server.</param>
/// <param name="DueAt">When it is tried next, while it waits.</param>
/// <param name="Answer">What the mail server said last; null before it said anything.</param>
public sealed record LastMail(DeliveryState State, int Tries, DateTimeOffset DueAt, string? Answer);

/// <summary>Invitations as they go over the wire.</summary>
public static class InvitationViews
{
    /// <summary>One invitation with the state of its last mail, as of an instant.</summary>
    public static InvitationView Of(
        InvitationRow row,
        LastMail? delivery,
        DateTimeOffset now,
        AccessWorld world,
        WorkspaceRow workspace
    ) =>
        new(
            row.Id,
            row.Address,
            row.Name,
            row.Kind.Word(),
            Bundles.Summary(row.Bundle, world),
            row.LastDay,
            row.Message,
            row.Language,
            InvitationLife.At(row.State, row.Deadline, now).Word(),
            row.Deadline,
            row.InvitedByName,
            row.CreatedAt,
            row.LastStepAt,
            row.SentAt,
            row.SeenAt,
            row.AnsweredAt,
            row.Resends,
            row.MemberId,
            delivery is null ? null : Of(delivery),
            row.Version
        )
        {
            Gives = Bundles.ViewOf(row.Bundle, world),
            OrganisationId = row.OrganisationId,
            From = row.FirstDay,
            GivenName = row.GivenName,
            FamilyName = row.FamilyName,
            Organisation = row.Organisation,
            Title = row.Title,
            Department = row.Department,
            Manager = row.Manager,
            Country = row.Country,
            Note = row.Note,
            Host = row.HostName,
            AnswerDays = (int)TimeSpan.FromSeconds(row.AnswerSeconds).TotalDays,
            NeedsApproval =
                row.NeedsApproval || WorkspaceRules.Of(workspace).NeedsApproval(row.Kind, row.Bundle),
            CameAs = row.CameAs,
            HandedBy = row.HandedByName,
            NextReminderAt = row.NextReminderAt,
            Reminders = row.Reminders,
            BatchId = row.BatchId,
            LinkId = row.LinkId,
        };

    /// <summary>Notes as they go over the wire.</summary>
    public static IReadOnlyList<NoteView> Of(IReadOnlyList<AddressNote> notes) =>
        [.. notes.Select(note => new NoteView(note.Code, note.Sentence, note.Suggestion))];

    private static DeliveryView Of(LastMail delivery)
    {
        var waits = delivery.State is DeliveryState.Due or DeliveryState.Deferred;
        return new DeliveryView(
            delivery.State.ToString().ToLowerInvariant(),
            Sentence(delivery),
            delivery.Tries,
            waits ? delivery.DueAt : null,
            delivery.Answer
        );
    }

    private static string Sentence(LastMail delivery) =>
        delivery.State switch
        {
            DeliveryState.Due when delivery.Tries == 0 => "The mail is about to be sent.",
            DeliveryState.Due => $"The mail waits: {Plain(delivery.Answer)}.",
            DeliveryState.Deferred =>
                $"The mail server asked to try again later: {EnhancedStatus.Explain(delivery.Answer)}.",
            DeliveryState.Accepted => "The mail server has taken the mail.",
            DeliveryState.Delivered => "The mail is in the recipient's mailbox.",
            DeliveryState.Bounced => $"The mail came back: {EnhancedStatus.Explain(delivery.Answer)}.",
            _ => $"The mail was not sent: {Plain(delivery.Answer)}.",
        };

    private static string Plain(string? answer) => (answer ?? "no reason was given").TrimEnd('.');
}
