using ComeAboard.Core;
using ComeAboard.Storage.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>What a link that was mailed to an account's holder is for.</summary>
public enum AccountLinkPurpose
{
    /// <summary>Choosing a new password.</summary>
    Password,

    /// <summary>Proving an address the account bears.</summary>
    Address,
}

/// <summary>A one-time link mailed to an account's holder, kept as a hash.</summary>
public sealed class AccountLinkRow
{
    public required string SecretHash { get; init; }
    public required Guid AccountId { get; init; }
    public required AccountLinkPurpose Purpose { get; init; }

    /// <summary>The address it was mailed to, which it therefore proves; empty for one that was not mailed.</summary>
    public required string AddressKey { get; init; }
    public required DateTimeOffset ExpiresAt { get; init; }
    public DateTimeOffset? UsedAt { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<AccountLinkRow>
    {
        public void Configure(EntityTypeBuilder<AccountLinkRow> row)
        {
            row.ToTable("account_links").HasKey(l => l.SecretHash);
            row.HasIndex(l => l.AccountId);
            row.Property(l => l.SecretHash).HasMaxLength(64);
            row.Property(l => l.AddressKey).HasMaxLength(400);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(l => l.AccountId);
        }
    }
}
