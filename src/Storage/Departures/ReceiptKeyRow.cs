using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Departures;

/// <summary>A key with which a workspace signs its receipts; old ones are kept, so that what they signed can be verified.</summary>
public sealed class ReceiptKeyRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }

    /// <summary>The thumbprint of the public key (RFC 7638).</summary>
    public required string Id { get; init; }
    public required DateTimeOffset MadeAt { get; init; }

    /// <summary>The private key, sealed; empty once it signs nothing any more.</summary>
    public required string Secret { get; set; }

    /// <summary>The public key as JSON (RFC 7517).</summary>
    public required string Shown { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<ReceiptKeyRow>
    {
        public void Configure(EntityTypeBuilder<ReceiptKeyRow> row)
        {
            row.ToTable("receipt_keys").HasKey(k => new { k.WorkspaceId, k.Id });
            row.Property(k => k.Id).HasMaxLength(43);
        }
    }
}
