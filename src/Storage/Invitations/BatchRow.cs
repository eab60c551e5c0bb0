using ComeAboard.Core.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>How far a run of many invitations has come.</summary>
public enum BatchState
{
    /// <summary>Its entries are being read and judged.</summary>
    Reading,

    /// <summary>Nothing is going on: everything is judged, and what was asked for is sent.</summary>
    Resting,

    /// <summary>Its good entries are being sent.</summary>
    Sending,

    /// <summary>What was handed in could not be read on; what was done before stays.</summary>
    Stopped,
}

/// <summary>A run of many invitations, from a file or a pasted list.</summary>
public sealed class BatchRow : ILeasedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }

    /// <summary>csv, xlsx or list.</summary>
    public required string Format { get; init; }

    /// <summary>SHA-256 of what was handed in, by which the same file is known again; empty for a pasted list.</summary>
    public required string Digest { get; init; }

    /// <summary>How the letters of a CSV file were written; null for anything else.</summary>
    public string? Encoding { get; init; }
    public required BatchState State { get; set; }

    /// <summary>What every entry gets that does not say otherwise, as JSON.</summary>
    public required string Defaults { get; init; }

    /// <summary>Whether good entries are sent as they are read.</summary>
    public bool SendsAtOnce { get; set; }

    /// <summary>The number of the last entry read, or sent when sending.</summary>
    public int Position { get; set; }
    public int Entries { get; set; }

    /// <summary>How many entries there are to read, or to send.</summary>
    public int Total { get; set; }

    /// <summary>How many of those were done when the present process took the work up.</summary>
    public int DoneAtStart { get; set; }

    /// <summary>How many entries have each verdict, or are sent, as JSON.</summary>
    public string Counts { get; set; } = "{}";

    /// <summary>Headings that were not understood, one a line.</summary>
    public string UnknownColumns { get; set; } = "";

    /// <summary>Why it stopped.</summary>
    public string? Fault { get; set; }

    /// <summary>Who is answerable for it: whoever handed it in, or had it sent since.</summary>
    public required Guid CreatedBy { get; set; }
    public required string CreatedByName { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public DateTimeOffset? StartedAt { get; set; }
    public DateTimeOffset? FinishedAt { get; set; }
    public Guid? Lease { get; set; }
    public DateTimeOffset? LeasedUntil { get; set; }

    /// <summary>How many times working on it failed since it last went on.</summary>
    public int Tries { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<BatchRow>
    {
        public void Configure(EntityTypeBuilder<BatchRow> row)
        {
            row.ToTable("batches").HasKey(b => new { b.WorkspaceId, b.Id });
            row.HasIndex(b => new { b.WorkspaceId, b.Digest });
            row.HasIndex(b => b.State)
                .HasDatabaseName("ix_batches_working")
                .HasFilter("state IN ('reading', 'sending')");
            row.Property(b => b.Name).HasMaxLength(200);
            row.Property(b => b.Format).HasMaxLength(8);
            row.Property(b => b.Digest).HasMaxLength(64);
            row.Property(b => b.Encoding).HasMaxLength(16);
        }
    }
}

/// <summary>One entry of a batch: what was written, what is thought of it, and what it led to.</summary>
public sealed class BatchEntryRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid BatchId { get; init; }

    /// <summary>1 for the first entry, headings not counted.</summary>
    public required int Number { get; init; }
    public required string Address { get; set; }

    /// <summary>The wish as JSON; null once it is sent, since the invitation then says it.</summary>
    public string? Wish { get; set; }
    public required Verdict Verdict { get; set; }

    /// <summary>The refusal's code, sentence and remedy, and notes, as JSON; null when there is nothing to say.</summary>
    public string? Reason { get; set; }
    public Guid? InvitationId { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<BatchEntryRow>
    {
        public void Configure(EntityTypeBuilder<BatchEntryRow> row)
        {
            row.ToTable("batch_entries")
                .HasKey(e => new
                {
                    e.WorkspaceId,
                    e.BatchId,
                    e.Number,
                });
            row.HasIndex(e => new
                {
                    e.WorkspaceId,
                    e.BatchId,
                    e.Verdict,
                    e.Number,
                })
                .HasDatabaseName("ix_batch_entries_open")
                .HasFilter("invitation_id IS NULL");
        }
    }
}

/// <summary>A part of what was handed in for a batch, as CSV, until that is read to its end.</summary>
public sealed class BatchPartRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid BatchId { get; init; }

    /// <summary>Its place among the parts, from 0; rows and letters may be cut between two.</summary>
    public required int Number { get; init; }
    public required byte[] Csv { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<BatchPartRow>
    {
        public void Configure(EntityTypeBuilder<BatchPartRow> row) =>
            row.ToTable("batch_parts")
                .HasKey(p => new
                {
                    p.WorkspaceId,
                    p.BatchId,
                    p.Number,
                });
    }
}
