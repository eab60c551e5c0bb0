using ComeAboard.Client.Invitations;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;

namespace ComeAboard.Service.Invitations;

/// <summary>Invitations as they go over the wire.</summary>
public static class InvitationViews
{
    /// <summary>One invitation with the state of its last mail, as of an instant.</summary>
    public static InvitationView Of(InvitationRow row, DeliveryRow? delivery, DateTimeOffset now) =>
        new(
            row.Id,
            row.Address,
            row.Name,
            row.Kind.Word(),
            row.Role,
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
        );

    private static DeliveryView Of(DeliveryRow delivery)
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

    private static string Sentence(DeliveryRow delivery) =>
        delivery.State switch
        {
            DeliveryState.Due when delivery.Tries == 0 => "The mail is about to be sent.",
            DeliveryState.Due => $"The mail waits: {Lower(delivery.Answer)}.",
            DeliveryState.Deferred => "The mail server asked to try again later.",
            DeliveryState.Accepted => "The mail server has taken the mail.",
            DeliveryState.Bounced => $"The mail server refused the address: {Lower(delivery.Answer)}.",
            _ => $"The mail was not sent: {Lower(delivery.Answer)}.",
        };

    private static string Lower(string? answer) => (answer ?? "no reason was given").TrimEnd('.');
}
