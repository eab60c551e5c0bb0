using ComeAboard.Core.Connections;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Connections;

/// <summary>What has become of a record of an outside system.</summary>
public enum SourceState
{
    /// <summary>Nothing yet, or something is to be done again.</summary>
    Open,

    /// <summary>What was decided is done.</summary>
    Done,

    /// <summary>What was decided could not be done.</summary>
    Refused,
}

/// <summary>A record of an outside system: what it says, what is thought of it, what was decided, what became of it.</summary>
public sealed class SourceRecordRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid ConnectionId { get; init; }

    /// <summary>1 for the first that was ever read; never used again.</summary>
    public required int Number { get; init; }
    public required string SourceKey { get; init; }

    /// <summary>The record as JSON.</summary>
    public required string Fields { get; set; }
    public required string Name { get; set; }
    public required string Address { get; set; }
    public required string SearchText { get; set; }
    public required SourceVerdict Verdict { get; set; }

    /// <summary>The probability in thousandths.</summary>
    public required int Score { get; set; }

    /// <summary>The place in the table: by verdict, then the likeliest first.</summary>
    public int Rank
    {
        get => (int)Verdict * 1000 + 999 - Score;
        private set => _ = value;
    }

    /// <summary>Who they are or may be.</summary>
    public Guid? PersonId { get; set; }

    /// <summary>Why, one reason a line.</summary>
    public required string Reasons { get; set; }

    /// <summary>What somebody decided; null where nobody did.</summary>
    public SourceDecision? Decision { get; set; }

    /// <summary>With whom it is to be joined, where that was said.</summary>
    public Guid? DecidedPersonId { get; set; }
    public string DecidedByName { get; set; } = "";
    public DateTimeOffset? DecidedAt { get; set; }
    public SourceState State { get; set; }

    /// <summary>Why it could not be done, as JSON; null where it could.</summary>
    public string? Refusal { get; set; }

    /// <summary>Whom it was joined with; null for nobody.</summary>
    public Guid? JoinedId { get; set; }

    /// <summary>The invitation it led to.</summary>
    public Guid? InvitationId { get; set; }

    /// <summary>Since when it is not there any more.</summary>
    public DateTimeOffset? GoneSince { get; set; }

    /// <summary>When somebody said that whoever is gone there stays here.</summary>
    public DateTimeOffset? StaysAt { get; set; }
    public string StaysByName { get; set; } = "";

    private sealed class Mapping : IEntityTypeConfiguration<SourceRecordRow>
    {
        public void Configure(EntityTypeBuilder<SourceRecordRow> row)
        {
            row.ToTable("source_records")
                .HasKey(r => new
                {
                    r.WorkspaceId,
                    r.ConnectionId,
                    r.Number,
                });
            row.HasIndex(r => new
                {
                    r.WorkspaceId,
                    r.ConnectionId,
                    r.SourceKey,
                })
                .IsUnique();
            row.HasIndex(r => new
                {
                    r.WorkspaceId,
                    r.ConnectionId,
                    r.Rank,
                    r.Number,
                })
                .HasDatabaseName("ix_source_records_table");
            row.HasIndex(r => new
                {
                    r.WorkspaceId,
                    r.ConnectionId,
                    r.JoinedId,
                })
                .HasDatabaseName("ix_source_records_joined")
                .HasFilter("joined_id IS NOT NULL");
            row.HasIndex(r => new
                {
                    r.WorkspaceId,
                    r.ConnectionId,
                    r.GoneSince,
                })
                .HasDatabaseName("ix_source_records_gone")
                .HasFilter("gone_since IS NOT NULL");
            row.Property(r => r.SourceKey).HasMaxLength(SourceRecord.LongestKey);
        }
    }
}
