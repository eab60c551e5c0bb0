using ComeAboard.Core.Matching;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>Two members who may be one human, or of whom somebody said that they are two.</summary>
public sealed class DuplicateRow : IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }

    /// <summary>The member with the lesser id.</summary>
    public required Guid LeftId { get; init; }
    public required Guid RightId { get; init; }

    /// <summary>The probability that they are one, in thousandths.</summary>
    public required int Score { get; set; }

    /// <summary>Why, a reason on each line.</summary>
    public required string Reasons { get; set; }
    public required DateTimeOffset FoundAt { get; init; }

    /// <summary>When somebody said that they are two, or one in two capacities.</summary>
    public DateTimeOffset? DistinctAt { get; set; }

    /// <summary>Whether they are one human after all, who is here in two capacities on purpose.</summary>
    public bool IsOnPurpose { get; set; }
    public Guid? DistinctById { get; set; }
    public string DistinctByName { get; set; } = "";
    public string DistinctReason { get; set; } = "";

    public IReadOnlyList<string> ReasonList => Reasons.Split('\n', StringSplitOptions.RemoveEmptyEntries);
    public double Probability => Score / 1000.0;
    public KnownTwice Known => new(LeftId, RightId, Probability, ReasonList, DistinctAt is not null);

    private sealed class Mapping : IEntityTypeConfiguration<DuplicateRow>
    {
        public void Configure(EntityTypeBuilder<DuplicateRow> row)
        {
            row.ToTable("duplicates").HasKey(d => new { d.WorkspaceId, d.Id });
            row.Ignore(d => d.ReasonList).Ignore(d => d.Probability).Ignore(d => d.Known);
            row.HasIndex(d => new
                {
                    d.WorkspaceId,
                    d.LeftId,
                    d.RightId,
                })
                .IsUnique();
            row.HasIndex(d => new { d.WorkspaceId, d.Score })
                .HasDatabaseName("ix_duplicates_open")
                .HasFilter("distinct_at IS NULL");
        }
    }
}
