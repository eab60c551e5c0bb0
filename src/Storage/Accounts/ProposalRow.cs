using ComeAboard.Core;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>A name or address that waits for the holder of an account to accept it; the newest of a workspace counts.</summary>
public sealed class ProposalRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid AccountId { get; init; }

    /// <summary>The name; empty for none.</summary>
    public required string Name { get; init; }

    /// <summary>The address, as it is written; empty for none.</summary>
    public required string Address { get; init; }
    public required string Reason { get; init; }
    public required string MadeByName { get; init; }
    public required DateTimeOffset MadeAt { get; init; }

    /// <summary>The first instant at which it cannot be accepted any more.</summary>
    public required DateTimeOffset LapsesAt { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<ProposalRow>
    {
        public void Configure(EntityTypeBuilder<ProposalRow> row)
        {
            row.ToTable("proposals").HasKey(p => new { p.WorkspaceId, p.Id });
            row.HasIndex(p => new { p.WorkspaceId, p.AccountId }).IsUnique();
            row.HasIndex(p => p.AccountId);
            row.Property(p => p.Name).HasMaxLength(PlainText.LongestName);
            row.Property(p => p.MadeByName).HasMaxLength(PlainText.LongestName);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(p => p.AccountId);
        }
    }
}
