using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>A code mailed to an address, to show that whoever answers an invitation reads it.</summary>
public sealed class AddressCodeRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid InvitationId { get; init; }

    /// <summary>The account whose holder asked; the empty id for somebody without one.</summary>
    public required Guid AccountId { get; init; }
    public required string AddressKey { get; init; }
    public required string CodeHash { get; set; }
    public required DateTimeOffset ExpiresAt { get; set; }
    public required DateTimeOffset AskedAt { get; set; }
    public int Tries { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<AddressCodeRow>
    {
        public void Configure(EntityTypeBuilder<AddressCodeRow> row) =>
            row.ToTable("address_codes")
                .HasKey(c => new
                {
                    c.WorkspaceId,
                    c.InvitationId,
                    c.AccountId,
                    c.AddressKey,
                });
    }
}
