using System.Text;
using System.Text.Json;
using ComeAboard.Service.Workspaces;
using ComeAboard.Storage.Accounts;
using ComeAboard.Storage.Invitations;
using ComeAboard.Storage.Mail;
using Microsoft.AspNetCore.DataProtection;
using Microsoft.EntityFrameworkCore;

namespace ComeAboard.Service.Mail;

/// <summary>Writes mails beside the changes they announce, sealed, for the worker to send.</summary>
public sealed class Outbox(IDataProtectionProvider protection, ServiceSettings settings)
{
    private readonly IDataProtector _seal = protection.CreateProtector("ComeAboard.Mail.Letter.v1");

    /// <summary>Queues a letter within a change.</summary>
    public void Queue(
        WorkspaceWrite write,
        string purpose,
        string to,
        Letter letter,
        Guid? invitation = null
    ) => Queue(write, purpose, to, JsonSerializer.SerializeToUtf8Bytes(letter), invitation);

    /// <summary>Queues an invitation or a reminder: only its secret is kept, and the letter is laid out when it is sent.</summary>
    public void Queue(WorkspaceWrite write, string purpose, InvitationRow invitation, Core.Secret secret) =>
        Queue(write, purpose, invitation.Address, Encoding.ASCII.GetBytes(secret.Reveal()), invitation.Id);

    private void Queue(WorkspaceWrite write, string purpose, string to, byte[] content, Guid? invitation)
    {
        var id = Guid.CreateVersion7(write.Now);
        write.Queue(
            new DeliveryRow
            {
                WorkspaceId = write.Workspace.Id,
                Id = id,
                Purpose = purpose,
                InvitationId = invitation,
                ToAddress = to,
                MessageId = $"{id:N}.{write.Workspace.Id:N}@{settings.Mail.From.Domain}",
                Sealed = _seal.Protect(content),
                Lane = DeliveryRow.LaneOf(UrgencyOf(write, purpose), write.Workspace.Id),
                State = DeliveryState.Due,
                DueAt = write.Now,
                CreatedAt = write.Now,
            }
        );
    }

    /// <summary>Whoever waits before a page goes first; what the clock and lists bring about goes in turn.</summary>
    private static Urgency UrgencyOf(WorkspaceWrite write, string purpose) =>
        purpose is Purposes.Code or Purposes.Account ? Urgency.AtOnce
        : write.IsOneOfMany || write.Caller.Via is "batch" or "clock" ? Urgency.InTurn
        : Urgency.Soon;

    /// <summary>Queues a notice to a member, as long as they are here.</summary>
    public async Task TellAsync(WorkspaceWrite write, Guid? member, Func<MemberRow, Letter> letter)
    {
        if (member is not { } id)
            return;
        var reader = await write.Rows.Members.AsNoTracking().FirstOrDefaultAsync(m => m.Id == id);
        if (reader is not null && reader.IsHere(write.Now, write.Workspace.Zone))
            Queue(write, Purposes.News, reader.Address, letter(reader));
    }

    /// <summary>Gives up what has not been sent yet of an invitation's own mails: their link is dead.</summary>
    public static async Task WithdrawAsync(WorkspaceWrite write, InvitationRow invitation)
    {
        var waiting = await write
            .Rows.Deliveries.Where(d =>
                d.InvitationId == invitation.Id
                && (d.Purpose == Purposes.Invitation || d.Purpose == Purposes.Reminder)
                && d.SettledAt == null
            )
            .ToListAsync();
        // The one whose coming back brought this about is settled already, though not yet in the database.
        foreach (var delivery in waiting.Where(d => d.SettledAt is null))
            Settle(delivery, DeliveryState.Failed, "no longer wanted", write.Now);
    }

    /// <summary>Marks a delivery as finished and forgets its words.</summary>
    public static void Settle(DeliveryRow delivery, DeliveryState state, string answer, DateTimeOffset now)
    {
        delivery.State = state;
        delivery.Answer = answer.Length > 500 ? answer[..500] : answer;
        delivery.SettledAt = now;
        delivery.Sealed = null;
        delivery.Lease = null;
        delivery.LeasedUntil = null;
    }

    /// <summary>Opens what was sealed: a whole letter, or the secret of an invitation's link.</summary>
    /// <exception cref="System.Security.Cryptography.CryptographicException">Its protection key is gone.</exception>
    public (Letter? Letter, string Secret) Open(byte[] content)
    {
        var opened = _seal.Unprotect(content);
        return opened is [(byte)'{', ..]
            ? (JsonSerializer.Deserialize<Letter>(opened), "")
            : (null, Encoding.ASCII.GetString(opened));
    }
}

/// <summary>What mails are for.</summary>
public static class Purposes
{
    public const string Invitation = "invitation";
    public const string Reminder = "reminder";
    public const string Code = "code";

    /// <summary>What somebody is told about their account; it goes to the address it is about.</summary>
    public const string Notice = "notice";

    /// <summary>What a member is told of the work; it goes to the address they chose for that.</summary>
    public const string News = "news";

    /// <summary>A link by which somebody gets in, or proves an address.</summary>
    public const string Account = "account";
}
