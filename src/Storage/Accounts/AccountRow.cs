using ComeAboard.Core.Accounts;
using ComeAboard.Core.Record;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>One human's way to sign in, across workspaces.</summary>
public sealed class AccountRow
{
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string Address { get; set; }
    public string SecurityStamp { get; set; } = "";
    public int FailedTries { get; set; }
    public DateTimeOffset? LockedUntil { get; set; }
    public required string Language { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public int Version { get; set; } = 1;

    /// <summary>The workspace in whose custody it is; null for a personal account.</summary>
    public Guid? CustodyId { get; set; }
    public DateTimeOffset? CustodySince { get; set; }

    public DateTimeOffset? PausedAt { get; set; }
    public DateTimeOffset? ClosedAt { get; set; }

    /// <summary>The account it was made one with; null for none. Its ways in rest, until it is parted again or that is over.</summary>
    public Guid? MergedIntoId { get; set; }

    /// <summary>Whether it can be signed in to.</summary>
    public AccountStanding Standing => new(PausedAt, ClosedAt) { IsMerged = MergedIntoId is not null };

    /// <summary>How many entries its history has.</summary>
    public long HistorySequence { get; set; }
    public string HistoryHash { get; set; } = RecordHead.Empty.Hash;

    /// <summary>Where its history ends.</summary>
    public RecordHead HistoryHead => new(HistorySequence, HistoryHash);

    private sealed class Mapping : IEntityTypeConfiguration<AccountRow>
    {
        public void Configure(EntityTypeBuilder<AccountRow> row)
        {
            row.ToTable("accounts").HasKey(a => a.Id);
            row.HasIndex(a => a.CustodyId).HasFilter("custody_id IS NOT NULL");
            row.Ignore(a => a.HistoryHead).Ignore(a => a.Standing);
            row.Property(a => a.Name).HasMaxLength(100);
            row.Property(a => a.HistoryHash).HasMaxLength(64);
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

    /// <summary>Whether what its holder is told of the work goes there, and not to the main address; of one address at most.</summary>
    public bool TakesNotices { get; set; }

    /// <summary>The domain of its key, by which the accounts at a domain are found.</summary>
    public string Domain
    {
        get => AddressKey[(AddressKey.LastIndexOf('@') + 1)..];
        private set => _ = value;
    }

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
            // A name of its own: it is a second index of the same column.
            row.HasIndex(a => a.AccountId, "OneForNotices")
                .HasDatabaseName("ix_account_addresses_one_for_notices")
                .IsUnique()
                .HasFilter("takes_notices");
            row.HasIndex(a => new { a.Domain, a.AccountId }).HasFilter("proved_at IS NOT NULL");
            row.Property(a => a.Domain).HasMaxLength(255);
            row.HasOne<AccountRow>().WithMany().HasForeignKey(a => a.AccountId);
        }
    }
}
