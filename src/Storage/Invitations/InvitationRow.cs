using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>One address, asked in.</summary>
public sealed class InvitationRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Address { get; init; }
    public required string AddressKey { get; init; }
    public required string Name { get; init; }
    public required Kind Kind { get; init; }
    public required string Role { get; init; }
    public required DateOnly? LastDay { get; init; }
    public required string Message { get; init; }
    public required string Language { get; init; }
    public required InvitationState State { get; set; }
    public required string SecretHash { get; set; }
    public required DateTimeOffset Deadline { get; set; }
    public required long AnswerSeconds { get; set; }
    public required Guid InvitedBy { get; set; }
    public required string InvitedByName { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public required DateTimeOffset LastStepAt { get; set; }
    public DateTimeOffset? SentAt { get; set; }
    public DateTimeOffset? SeenAt { get; set; }
    public DateTimeOffset? AnsweredAt { get; set; }
    public int Resends { get; set; }
    public Guid? MemberId { get; set; }
    public int Version { get; set; } = 1;

    /// <summary>Name and address in lower case, for searching in any part of either.</summary>
    public string SearchText { get; private set; } = "";

    public static string SearchTextOf(string name, string address) => $"{name} {address}".ToLowerInvariant();

    public InvitationRow WithSearchText()
    {
        SearchText = SearchTextOf(Name, Address);
        return this;
    }

    private sealed class Mapping : IEntityTypeConfiguration<InvitationRow>
    {
        public void Configure(EntityTypeBuilder<InvitationRow> row)
        {
            row.ToTable("invitations").HasKey(i => new { i.WorkspaceId, i.Id });
            row.HasIndex(i => i.SecretHash).IsUnique();
            row.HasIndex(i => new { i.WorkspaceId, i.AddressKey }, "ix_invitations_address")
                .HasDatabaseName("ix_invitations_address");
            row.HasIndex(i => new { i.WorkspaceId, i.AddressKey }, "ix_invitations_one_pending_per_address")
                .HasDatabaseName("ix_invitations_one_pending_per_address")
                .IsUnique()
                .HasFilter("state IN ('queued', 'sent')");
            row.HasIndex(i => new
            {
                i.WorkspaceId,
                i.State,
                i.Id,
            });
            row.HasIndex(i => new
            {
                i.WorkspaceId,
                i.InvitedBy,
                i.State,
            });
            row.HasIndex(i => new { i.State, i.Deadline });
            row.Property(i => i.Version).IsConcurrencyToken();
            row.Property(i => i.AddressKey).HasMaxLength(400);
            row.Property(i => i.Address).HasMaxLength(400);
            row.Property(i => i.Name).HasMaxLength(PlainText.LongestName);
            row.Property(i => i.Message).HasMaxLength(PlainText.LongestMessage);
            row.Property(i => i.SecretHash).HasMaxLength(64);
        }
    }
}

/// <summary>How many invitations of a workspace are in a state; kept in the transaction that moves them.</summary>
public sealed class InvitationCountRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required InvitationState State { get; init; }
    public long Count { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<InvitationCountRow>
    {
        public void Configure(EntityTypeBuilder<InvitationCountRow> row) =>
            row.ToTable("invitation_counts").HasKey(c => new { c.WorkspaceId, c.State });
    }
}

/// <summary>A code mailed to an invited address, to show that the holder of another account reads it.</summary>
public sealed class AddressCodeRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid InvitationId { get; init; }
    public required Guid AccountId { get; init; }
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
                });
    }
}

/// <summary>An address whose owner asked not to be invited, kept as a hash and honoured in every workspace.</summary>
public sealed class OptOutRow
{
    public required string AddressHash { get; init; }
    public required DateTimeOffset At { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<OptOutRow>
    {
        public void Configure(EntityTypeBuilder<OptOutRow> row) =>
            row.ToTable("opt_outs").HasKey(o => o.AddressHash);
    }
}
