using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Connections;

/// <summary>An account in a connected system that nobody ought to have, as it was found when the system was read whole.</summary>
public sealed class LeftOverRow : ITenantRow
{
    /// <summary>Longest key of an account there.</summary>
    public const int LongestKey = 400;

    public required Guid WorkspaceId { get; init; }
    public required Guid ConnectionId { get; init; }

    /// <summary>By what the system tells it apart.</summary>
    public required string TheirKey { get; init; }
    public required string SignInName { get; set; }
    public required string Name { get; set; }
    public required DateTimeOffset FoundAt { get; init; }

    /// <summary>The last day, inclusive, on which it may be left as it is; null where nobody said so.</summary>
    public DateOnly? LeftUntil { get; set; }
    public string LeftReason { get; set; } = "";
    public string LeftByName { get; set; } = "";

    private sealed class Mapping : IEntityTypeConfiguration<LeftOverRow>
    {
        public void Configure(EntityTypeBuilder<LeftOverRow> row)
        {
            row.ToTable("left_overs")
                .HasKey(l => new
                {
                    l.WorkspaceId,
                    l.ConnectionId,
                    l.TheirKey,
                });
            row.Property(l => l.TheirKey).HasMaxLength(LongestKey);
        }
    }
}
