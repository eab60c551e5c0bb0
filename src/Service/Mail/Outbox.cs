using System.Text.Json;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using ComeAboard.Storage.Workspaces;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>Writes mails beside the changes they announce, sealed, for the worker to send.</summary>
public sealed class Outbox(IDataProtectionProvider protection, ServiceSettings settings)
{
    private readonly IDataProtector _seal = protection.CreateProtector("ComeAboard.Mail.Letter.v1");

    /// <summary>Lays a letter out as it will go out from a workspace.</summary>
    public static Letter LayOut(
        LetterWords words,
        WorkspaceRow workspace,
        string toName,
        string? language = null
    ) =>
        LetterLayout.LayOut(
            words,
            workspace.Name,
            workspace.SenderName,
            workspace.ReplyTo,
            toName,
            language ?? workspace.Language
        );

    /// <summary>Queues a letter within a change.</summary>
    public void Queue(WorkspaceWrite write, string purpose, string to, Letter letter, Guid? invitation = null)
    {
        var id = Guid.CreateVersion7();
        write.Queue(
            new DeliveryRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = id,
                Purpose = purpose,
                InvitationId = invitation,
                ToAddress = to,
                MessageId = $"{id:N}@{settings.Mail.From.Domain}",
                SealedLetter = _seal.Protect(JsonSerializer.SerializeToUtf8Bytes(letter)),
                State = DeliveryState.Due,
                DueAt = write.Now,
                CreatedAt = write.Now,
            }
        );
    }

    /// <summary>Queues a notice to the inviter, as long as they are here.</summary>
    public async Task TellInviterAsync(WorkspaceWrite write, InvitationRow invitation, LetterWords words)
    {
        var inviter = await write
            .Rows.Members.AsNoTracking()
            .FirstOrDefaultAsync(m => m.Id == invitation.InvitedBy);
        if (inviter is not null && inviter.IsActive(write.Now, write.Workspace.Zone))
            Queue(write, Purposes.Notice, inviter.Address, LayOut(words, write.Workspace, inviter.Name));
    }

    /// <summary>Gives up what has not been sent yet of an invitation's own mails: their link is dead.</summary>
    public static async Task WithdrawAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var waiting = await write
            .Rows.Deliveries.Where(d =>
                d.InvitationId == invitation.Id && d.Purpose == Purposes.Invitation && d.SettledAt == null
            )
            .ToListAsync();
        foreach (var delivery in waiting)
            Settle(delivery, DeliveryState.Failed, "no longer wanted", write.Now);
    }

    /// <summary>Marks a delivery as finished and forgets its words.</summary>
    public static void Settle(DeliveryRow delivery, DeliveryState state, string answer, DateTimeOffset now)
    {
        delivery.State = state;
        delivery.Answer = answer.Length > 500 ? answer[..500] : answer;
        delivery.SettledAt = now;
        delivery.SealedLetter = null;
        delivery.Lease = null;
        delivery.LeasedUntil = null;
    }

    /// <summary>Opens a sealed letter.</summary>
    public Letter Unseal(byte[] sealedLetter) =>
        JsonSerializer.Deserialize<Letter>(_seal.Unprotect(sealedLetter))!;
}

/// <summary>What mails are for.</summary>
public static class Purposes
{
    public const string Invitation = "invitation";
    public const string Code = "code";
    public const string Notice = "notice";
}
