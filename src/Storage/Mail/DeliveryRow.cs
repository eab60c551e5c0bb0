using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Mail;

/// <summary>How far an outgoing mail has come.</summary>
public enum DeliveryState
{
    /// <summary>To be sent when its time comes.</summary>
    Due,

    /// <summary>The mail server said "later"; to be tried again.</summary>
    Deferred,

    /// <summary>The mail server took it.</summary>
    Accepted,

    /// <summary>A report says that it is in the recipient's mailbox.</summary>
    Delivered,

    /// <summary>It came back for good: refused by the mail server, or returned by one further on.</summary>
    Bounced,

    /// <summary>Given up: no longer wanted, or not to be written.</summary>
    Failed,
}

/// <summary>How much somebody waits for a mail: whoever sits before a page goes before whoever will look next week.</summary>
public enum Urgency
{
    /// <summary>Somebody waits for it before a page: a code, a link to sign in.</summary>
    AtOnce,

    /// <summary>Somebody did something just now: one invitation, a notice.</summary>
    Soon,

    /// <summary>One of many: lists, steps for many, reminders by schedule.</summary>
    InTurn,
}

/// <summary>
/// An outgoing mail: written with the change it announces, sent by whichever process leases it. What it says – the whole
/// letter, or for an invitation the secret of its link, from which the letter is laid out when it is sent – is sealed
/// with Data Protection and forgotten once the mail server has taken it.
/// </summary>
public sealed class DeliveryRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Purpose { get; init; }
    public Guid? InvitationId { get; init; }
    public required string ToAddress { get; init; }
    public required string MessageId { get; init; }
    public byte[]? Sealed { get; set; }
    public required DeliveryState State { get; set; }

    /// <summary>The queue it waits in: its urgency and its workspace, so that queues are served by turns.</summary>
    public required string Lane { get; init; }

    /// <summary>The name of a queue.</summary>
    public static string LaneOf(Urgency urgency, Guid workspace) => $"{(int)urgency}-{workspace:N}";

    public required DateTimeOffset DueAt { get; set; }
    public Guid? Lease { get; set; }
    public DateTimeOffset? LeasedUntil { get; set; }
    public int Tries { get; set; }
    public string? Answer { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }

    /// <summary>When it left the states due and deferred; null while it waits to be sent.</summary>
    public DateTimeOffset? SettledAt { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<DeliveryRow>
    {
        public void Configure(EntityTypeBuilder<DeliveryRow> row)
        {
            row.ToTable("deliveries").HasKey(d => new { d.WorkspaceId, d.Id });
            row.HasIndex(d => new { d.WorkspaceId, d.InvitationId });
            row.Property(d => d.Lane).HasMaxLength(40);
            row.HasIndex(d => new { d.Lane, d.DueAt })
                .HasDatabaseName("ix_deliveries_waiting")
                .HasFilter("settled_at IS NULL");
            row.HasIndex(d => d.Lease)
                .HasDatabaseName("ix_deliveries_leased")
                .HasFilter("settled_at IS NULL AND lease IS NOT NULL");
            row.Property(d => d.Purpose).HasMaxLength(20);
            row.Property(d => d.MessageId).HasMaxLength(300);
            row.Property(d => d.Answer).HasMaxLength(500);
        }
    }
}
