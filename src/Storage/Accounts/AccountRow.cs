using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>One human's way to sign in, across workspaces.</summary>
public sealed class AccountRow
{
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string Address { get; set; }
    public string? PasswordHash { get; set; }
    public string SecurityStamp { get; set; } = "";
    public int FailedTries { get; set; }
    public DateTimeOffset? LockedUntil { get; set; }
    public required string Language { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public int Version { get; set; } = 1;

    private sealed class Mapping : IEntityTypeConfiguration<AccountRow>
    {
        public void Configure(EntityTypeBuilder<AccountRow> row)
        {
            row.ToTable("accounts").HasKey(a => a.Id);
            row.Property(a => a.Name).HasMaxLength(100);
        }
    }
}

/// <summary>An address of an account. Anyone can write one down; only one account can have proved it.</summary>
public sealed class AccountAddressRow
{
    public required Guid AccountId { get; init; }
    public required string AddressKey { get; init; }
    public required string Address { get; init; }
    public DateTimeOffset? ProvedAt { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<AccountAddressRow>
    {
        public void Configure(EntityTypeBuilder<AccountAddressRow> row)
        {
            row.ToTable("account_addresses").HasKey(a => new { a.AddressKey, a.AccountId });
            row.HasIndex(a => a.AddressKey)
                .HasDatabaseName("ix_account_addresses_one_proof")
                .IsUnique()
                .HasFilter("proved_at IS NOT NULL");
            row.HasIndex(a => a.AccountId);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(a => a.AccountId);
        }
    }
}

/// <summary>One open sign-in of an account in a browser; the cookie carries its id, and every request looks it up.</summary>
public sealed class SessionRow
{
    public required Guid Id { get; init; }
    public required Guid AccountId { get; init; }
    public required DateTimeOffset OpenedAt { get; init; }
    public required DateTimeOffset ExpiresAt { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<SessionRow>
    {
        public void Configure(EntityTypeBuilder<SessionRow> row)
        {
            row.ToTable("sessions").HasKey(s => s.Id);
            row.HasIndex(s => s.AccountId);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(s => s.AccountId);
        }
    }
}

/// <summary>A secret by which a program acts as a member of one workspace; kept as a hash.</summary>
public sealed class ApiTokenRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid MemberId { get; init; }
    public required Guid AccountId { get; init; }
    public required string SecretHash { get; init; }
    public required string Label { get; init; }
    public required DateTimeOffset CreatedAt { get; init; }
    public DateTimeOffset? RevokedAt { get; set; }

    public AccessSubject Subject => AccessSubject.Tokens;

    private sealed class Mapping : IEntityTypeConfiguration<ApiTokenRow>
    {
        public void Configure(EntityTypeBuilder<ApiTokenRow> row)
        {
            row.ToTable("api_tokens").HasKey(t => new { t.WorkspaceId, t.Id });
            row.Ignore(t => t.Subject);
            row.HasIndex(t => t.SecretHash).IsUnique();
            row.HasIndex(t => new { t.WorkspaceId, t.MemberId });
            row.Property(t => t.SecretHash).HasMaxLength(64);
            row.Property(t => t.Label).HasMaxLength(100);
        }
    }
}
