using ComeAboard.Core.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>A workspace's claim to an account, from the first time it asks; one for a workspace and an account.</summary>
public sealed class ClaimRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid AccountId { get; init; }

    /// <summary>The address at the proved domain, as it was when it was asked.</summary>
    public required string Address { get; set; }
    public required string AddressKey { get; set; }
    public ClaimState State { get; set; } = ClaimState.Found;
    public DateTimeOffset? AskedAt { get; set; }
    public DateTimeOffset? Deadline { get; set; }
    public Silence Silence { get; set; }
    public int Mails { get; set; }
    public DateTimeOffset? DecidedAt { get; set; }

    /// <summary>When something next happens by itself; nothing for never.</summary>
    public DateTimeOffset? NextAt { get; set; }
    public string Reason { get; set; } = "";
    public string AskedByName { get; set; } = "";

    /// <summary>The member who asked last, to be told the answer; null where nobody did yet.</summary>
    public Guid? AskedById { get; set; }

    /// <summary>The hash of the secret in the link that was last mailed.</summary>
    public string? SecretHash { get; set; }

    /// <summary>In how many other workspaces the account was when its holder was last asked.</summary>
    public int OtherWorkspaces { get; set; }
    public int Version { get; set; } = 1;

    /// <summary>The claim as it is judged.</summary>
    public Claim Claim
    {
        get => new(State, AskedAt, Deadline, Silence, Mails, DecidedAt);
        set =>
            (State, AskedAt, Deadline, Silence, Mails, DecidedAt) = (
                value.State,
                value.AskedAt,
                value.Deadline,
                value.Silence,
                value.Mails,
                value.DecidedAt
            );
    }

    private sealed class Mapping : IEntityTypeConfiguration<ClaimRow>
    {
        public void Configure(EntityTypeBuilder<ClaimRow> row)
        {
            row.ToTable("claims").HasKey(c => new { c.WorkspaceId, c.Id });
            row.Ignore(c => c.Claim);
            row.HasIndex(c => new { c.WorkspaceId, c.AccountId }).IsUnique();
            row.HasIndex(c => new { c.WorkspaceId, c.AddressKey });
            row.HasIndex(c => c.SecretHash).IsUnique().HasFilter("secret_hash IS NOT NULL");
            row.HasIndex(c => c.NextAt).HasFilter("next_at IS NOT NULL");
            row.HasIndex(c => c.AccountId);
            row.Property(c => c.SecretHash).HasMaxLength(64);
            row.Property(c => c.Version).IsConcurrencyToken();
            row.HasOne<AccountRow>().WithMany().HasForeignKey(c => c.AccountId);
        }
    }
}
