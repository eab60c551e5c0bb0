using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>How often something was done in a window of time, counted by all processes together.</summary>
public sealed class BudgetRow
{
    public required string Key { get; init; }

    /// <summary>The first instant after the window, in milliseconds of Unix time.</summary>
    public required long EndsAt { get; set; }
    public required int Count { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<BudgetRow>
    {
        public void Configure(EntityTypeBuilder<BudgetRow> row)
        {
            row.ToTable("budgets").HasKey(b => b.Key);
            row.Property(b => b.Key).HasMaxLength(200);
            row.HasIndex(b => b.EndsAt);
        }
    }
}
