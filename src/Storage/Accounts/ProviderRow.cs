using ComeAboard.Core;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>A provider (OpenID Connect) by which people at a workspace's proved domains sign in.</summary>
public sealed class ProviderRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }

    /// <summary>What people know it by.</summary>
    public required string Name { get; set; }

    /// <summary>The name in lower case, of which there is one in a workspace.</summary>
    public required string NameKey { get; set; }

    /// <summary>Its issuer, exactly as it says it itself.</summary>
    public required string Issuer { get; init; }
    public required string ClientId { get; set; }

    /// <summary>The secret it gave us, sealed; empty for none.</summary>
    public required string Secret { get; set; }

    /// <summary>The join link by which whoever it vouches for joins; null where that takes an invitation.</summary>
    public Guid? JoinLinkId { get; set; }
    public required DateTimeOffset AddedAt { get; init; }
    public required string AddedByName { get; init; }
    public int Version { get; set; } = 1;

    private sealed class Mapping : IEntityTypeConfiguration<ProviderRow>
    {
        public void Configure(EntityTypeBuilder<ProviderRow> row)
        {
            row.ToTable("providers").HasKey(p => new { p.WorkspaceId, p.Id });
            row.HasIndex(p => p.Id).IsUnique();
            row.HasIndex(p => new { p.WorkspaceId, p.NameKey }).IsUnique();
            row.Property(p => p.Name).HasMaxLength(PlainText.LongestName);
            row.Property(p => p.NameKey).HasMaxLength(PlainText.LongestName);
            row.Property(p => p.Issuer).HasMaxLength(500);
            row.Property(p => p.ClientId).HasMaxLength(500);
            row.Property(p => p.Secret).HasMaxLength(4000);
            row.Property(p => p.AddedByName).HasMaxLength(PlainText.LongestName);
            row.Property(p => p.Version).IsConcurrencyToken();
        }
    }
}
