using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Mail;

/// <summary>An address at which mail of a workspace came back for good, and what the mail server said.</summary>
public sealed class BouncedAddressRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required string AddressKey { get; init; }
    public required string Address { get; init; }
    public required string Answer { get; set; }
    public required DateTimeOffset At { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<BouncedAddressRow>
    {
        public void Configure(EntityTypeBuilder<BouncedAddressRow> row)
        {
            row.ToTable("bounced_addresses").HasKey(b => new { b.WorkspaceId, b.AddressKey });
            row.Property(b => b.AddressKey).HasMaxLength(400);
            row.Property(b => b.Address).HasMaxLength(400);
            row.Property(b => b.Answer).HasMaxLength(500);
        }
    }
}
