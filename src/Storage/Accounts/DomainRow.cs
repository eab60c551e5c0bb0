using ComeAboard.Core.Accounts;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Accounts;

/// <summary>A mail domain that a workspace says is its own, and how it stands with the proof.</summary>
public sealed class DomainRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }

    /// <summary>The domain in lower case.</summary>
    public required string Domain { get; init; }

    /// <summary>What was drawn for the record in DNS. It is no secret: everybody can read it there.</summary>
    public required string Token { get; init; }
    public required DateTimeOffset AddedAt { get; init; }
    public DateTimeOffset? ProvedAt { get; set; }
    public DateTimeOffset? ShownAt { get; set; }
    public DateTimeOffset? MissingSince { get; set; }
    public bool Warned { get; set; }

    /// <summary>The domain while its proof counts, or nothing: of all workspaces one holds it.</summary>
    public string? Holds { get; set; }

    /// <summary>The provider by which people at it sign in; null for none.</summary>
    public Guid? ProviderId { get; set; }

    /// <summary>What the last look came to.</summary>
    public DomainLook? LastLook { get; set; }
    public DateTimeOffset? LookedAt { get; set; }

    /// <summary>When it is looked at next; whoever moves it on does so.</summary>
    public required DateTimeOffset NextLookAt { get; set; }
    public int Version { get; set; } = 1;

    /// <summary>How it stands with the proof.</summary>
    public DomainProof Proof
    {
        get => new(ProvedAt, ShownAt, MissingSince, Warned);
        set =>
            (ProvedAt, ShownAt, MissingSince, Warned) = (
                value.ProvedAt,
                value.ShownAt,
                value.MissingSince,
                value.Warned
            );
    }

    private sealed class Mapping : IEntityTypeConfiguration<DomainRow>
    {
        public void Configure(EntityTypeBuilder<DomainRow> row)
        {
            row.ToTable("domains").HasKey(d => new { d.WorkspaceId, d.Id });
            row.Ignore(d => d.Proof);
            row.HasIndex(d => new { d.WorkspaceId, d.Domain }).IsUnique();
            row.HasIndex(d => d.Holds).HasFilter("holds IS NOT NULL").IsUnique();
            row.HasIndex(d => d.NextLookAt);
            row.HasIndex(d => d.ProviderId).HasFilter("provider_id IS NOT NULL");
            row.Property(d => d.Domain).HasMaxLength(255);
            row.Property(d => d.Token).HasMaxLength(64);
            row.Property(d => d.Holds).HasMaxLength(255);
            row.Property(d => d.Version).IsConcurrencyToken();
        }
    }
}
