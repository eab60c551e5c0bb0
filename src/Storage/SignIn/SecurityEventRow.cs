using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>Something that touches the safety of a workspace: a failed sign-in, a lock, a limit, a refused right.</summary>
public sealed class SecurityEventRow : IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required DateTimeOffset At { get; init; }

    /// <summary>What: sign-in.failed, sign-in.locked, limit.reached, right.refused.</summary>
    public required string Kind { get; init; }

    /// <summary>Whom it is about, by name and address.</summary>
    public required string Who { get; init; }

    /// <summary>From which network; empty where that says nothing.</summary>
    public required string Network { get; init; }
    public required string Details { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<SecurityEventRow>
    {
        public void Configure(EntityTypeBuilder<SecurityEventRow> row)
        {
            row.ToTable("security_events").HasKey(e => new { e.WorkspaceId, e.Id });
            row.HasIndex(e => e.At);
            row.Property(e => e.Kind).HasMaxLength(40);
            row.Property(e => e.Who).HasMaxLength(600);
            row.Property(e => e.Network).HasMaxLength(60);
            row.Property(e => e.Details).HasMaxLength(400);
        }
    }
}
