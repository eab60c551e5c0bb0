using ComeAboard.Core.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>Something by which the holder of an account signs in.</summary>
public sealed class CredentialRow
{
    public required Guid AccountId { get; init; }
    public required Guid Id { get; init; }
    public required CredentialKind Kind { get; init; }

    /// <summary>What its holder calls it; empty where there is only one of its kind.</summary>
    public required string Label { get; set; }

    /// <summary>What it is checked against; of a password its hash.</summary>
    public required string Secret { get; set; }
    public required DateTimeOffset MadeAt { get; set; }
    public DateTimeOffset? LastUsedAt { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<CredentialRow>
    {
        public void Configure(EntityTypeBuilder<CredentialRow> row)
        {
            row.ToTable("credentials").HasKey(c => new { c.AccountId, c.Id });
            row.HasIndex(c => c.AccountId)
                .HasDatabaseName("ix_credentials_one_password")
                .IsUnique()
                .HasFilter("kind = 'password'");
            row.Property(c => c.Label).HasMaxLength(100);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(c => c.AccountId);
        }
    }
}
