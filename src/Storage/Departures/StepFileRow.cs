using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Departures;

/// <summary>A file that somebody put beside their word that a step of a departure is so: a letter, a screen, a list.</summary>
public sealed class StepFileRow : ITenantRow
{
    /// <summary>How large one is at most, in bytes.</summary>
    public const int Largest = 2 * 1024 * 1024;

    /// <summary>How long its name is at most.</summary>
    public const int LongestName = 120;

    public required Guid WorkspaceId { get; init; }
    public required Guid DepartureId { get; init; }

    /// <summary>The system whose step it is.</summary>
    public required Guid ConnectionId { get; init; }
    public required string Name { get; init; }
    public required byte[] Content { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<StepFileRow>
    {
        public void Configure(EntityTypeBuilder<StepFileRow> row)
        {
            row.ToTable("step_files")
                .HasKey(f => new
                {
                    f.WorkspaceId,
                    f.DepartureId,
                    f.ConnectionId,
                });
            row.Property(f => f.Name).HasMaxLength(LongestName);
        }
    }
}
