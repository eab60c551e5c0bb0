using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Connections;

/// <summary>What a system that is only told was told, or is to be: the event as it was written once, and how sending it went.</summary>
public sealed class EventSentRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }

    /// <summary>Its id, which the receiver knows it again by.</summary>
    public required Guid Id { get; init; }
    public required Guid ConnectionId { get; init; }

    /// <summary>Whom it is about; empty for nobody: a trial.</summary>
    public required Guid MemberId { get; init; }

    /// <summary>Which wish of their account it tells of.</summary>
    public required int Version { get; init; }
    public required string Sentence { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>The very bytes that are sent and signed, as text.</summary>
    public required string Body { get; init; }
    public int Tries { get; set; }
    public DateTimeOffset? TriedAt { get; set; }

    /// <summary>When the receiver took it; null while it did not.</summary>
    public DateTimeOffset? AcceptedAt { get; set; }

    /// <summary>What the last try came to, in words.</summary>
    public string Answer { get; set; } = "";

    private sealed class Mapping : IEntityTypeConfiguration<EventSentRow>
    {
        public void Configure(EntityTypeBuilder<EventSentRow> row)
        {
            row.ToTable("events_sent").HasKey(e => new { e.WorkspaceId, e.Id });
            row.HasIndex(e => new
                {
                    e.WorkspaceId,
                    e.ConnectionId,
                    e.MemberId,
                    e.Version,
                })
                .HasDatabaseName("ix_events_sent_wish");
            row.HasIndex(e => e.At).HasDatabaseName("ix_events_sent_at");
        }
    }
}
