using ComeAboard.Core.Record;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Record;

/// <summary>One entry of a workspace's record.</summary>
public sealed class RecordRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required long Sequence { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string Actor { get; init; }
    public required string Via { get; init; }
    public required string Action { get; init; }
    public required string Subject { get; init; }
    public required string? Details { get; init; }
    public required string DetailsDigest { get; init; }
    public required string DetailsSalt { get; init; }
    public required string PreviousHash { get; init; }
    public required string Hash { get; init; }

    public static RecordRow Of(Guid workspace, RecordEntry entry) =>
        new()
        {
            WorkspaceId = workspace,
            Sequence = entry.Sequence,
            At = entry.At,
            Actor = entry.Actor,
            Via = entry.Via,
            Action = entry.Action,
            Subject = entry.Subject,
            Details = entry.Details,
            DetailsDigest = entry.DetailsDigest,
            DetailsSalt = entry.DetailsSalt,
            PreviousHash = entry.PreviousHash,
            Hash = entry.Hash,
        };

    public RecordEntry ToEntry() =>
        new(
            Sequence,
            At,
            Actor,
            Via,
            Action,
            Subject,
            Details,
            DetailsDigest,
            DetailsSalt,
            PreviousHash,
            Hash
        );

    private sealed class Mapping : IEntityTypeConfiguration<RecordRow>
    {
        public void Configure(EntityTypeBuilder<RecordRow> row)
        {
            row.ToTable("record").HasKey(r => new { r.WorkspaceId, r.Sequence });
            row.HasIndex(r => new
            {
                r.WorkspaceId,
                r.Subject,
                r.Sequence,
            });
            row.HasIndex(r => new
                {
                    r.WorkspaceId,
                    r.Actor,
                    r.Sequence,
                })
                .HasDatabaseName("ix_record_by_actor")
                .HasFilter("via <> 'batch'");
        }
    }
}
