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

    /// <summary>The name under which it is found, of a passkey its id; empty for what is found by its account.</summary>
    public string Handle { get; init; } = "";

    /// <summary>What it is checked against; of a password its hash, of a passkey its public key and what belongs to it.</summary>
    public required string Secret { get; set; }
    public required DateTimeOffset MadeAt { get; set; }
    public DateTimeOffset? LastUsedAt { get; set; }

    /// <summary>Of a key for time-based codes, the last moment whose code counted, in steps of 30 s since 1970; none counts twice.</summary>
    public long LastStep { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<CredentialRow>
    {
        public void Configure(EntityTypeBuilder<CredentialRow> row)
        {
            row.ToTable("credentials").HasKey(c => new { c.AccountId, c.Id });
            row.HasIndex(c => c.AccountId, "ix_credentials_one_password")
                .HasDatabaseName("ix_credentials_one_password")
                .IsUnique()
                .HasFilter("kind = 'password'");
            row.HasIndex(c => c.AccountId, "ix_credentials_one_time_code")
                .HasDatabaseName("ix_credentials_one_time_code")
                .IsUnique()
                .HasFilter("kind = 'timecode'");
            row.HasIndex(c => c.Handle)
                .HasDatabaseName("ix_credentials_handle")
                .IsUnique()
                .HasFilter("handle <> ''");
            row.Property(c => c.Handle).HasMaxLength(1400);
            row.Property(c => c.Label).HasMaxLength(100);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(c => c.AccountId);
        }
    }
}
