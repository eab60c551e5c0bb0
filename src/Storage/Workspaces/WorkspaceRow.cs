using ComeAboard.Core;
using ComeAboard.Core.Record;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Workspaces;

/// <summary>A workspace. Its row is also the lock under which everything in it is written, and keeps the head of its record.</summary>
public sealed class WorkspaceRow
{
    public required Guid Id { get; init; }
    public required string ShortName { get; init; }
    public required string Name { get; set; }
    public required string TimeZone { get; set; }
    public required string Language { get; set; }
    public required string SenderName { get; set; }
    public string? ReplyTo { get; set; }
    public required long AnswerSeconds { get; set; }

    /// <summary>The colour of invitee pages and mails, as #rrggbb; null for the product's own.</summary>
    public string? Colour { get; set; }

    /// <summary>The rules of the house as JSON; null for none.</summary>
    public string? Rules { get; set; }
    public required DateTimeOffset CreatedAt { get; init; }
    public long RecordSequence { get; set; }

    /// <summary>Counts the changes of who may do what.</summary>
    public long AccessVersion { get; set; }
    public string RecordHash { get; set; } = RecordHead.Empty.Hash;

    /// <summary>When it is next to be looked who is here twice: at once where people came or changed, else once a day.</summary>
    public DateTimeOffset MatchDueAt { get; set; }

    public TimeZoneInfo Zone => TimeZoneInfo.FindSystemTimeZoneById(TimeZone);
    public TimeSpan AnswerTime => TimeSpan.FromSeconds(AnswerSeconds);
    public RecordHead RecordHead => new(RecordSequence, RecordHash);

    private sealed class Mapping : IEntityTypeConfiguration<WorkspaceRow>
    {
        public void Configure(EntityTypeBuilder<WorkspaceRow> row)
        {
            row.ToTable("workspaces").HasKey(w => w.Id);
            row.HasIndex(w => w.ShortName).IsUnique();
            row.HasIndex(w => w.MatchDueAt);
            row.Ignore(w => w.Zone).Ignore(w => w.AnswerTime).Ignore(w => w.RecordHead);
            row.Property(w => w.ShortName).HasMaxLength(40);
            row.Property(w => w.Name).HasMaxLength(100);
            row.Property(w => w.RecordHash).HasMaxLength(64);
            row.Property(w => w.Colour).HasMaxLength(7);
        }
    }
}

/// <summary>The one-time link by which the first administrator sets up their account.</summary>
public sealed class SetUpLinkRow
{
    public required Guid WorkspaceId { get; init; }
    public required string SecretHash { get; init; }
    public required DateTimeOffset ExpiresAt { get; init; }
    public DateTimeOffset? UsedAt { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<SetUpLinkRow>
    {
        public void Configure(EntityTypeBuilder<SetUpLinkRow> row)
        {
            row.ToTable("set_up_links").HasKey(l => l.SecretHash);
            row.Property(l => l.SecretHash).HasMaxLength(64);
            row.Property(l => l.UsedAt).IsConcurrencyToken();
        }
    }
}

/// <summary>A key of ASP.NET Data Protection, shared by all service processes on the database.</summary>
public sealed class ProtectionKeyRow
{
    public int Id { get; init; }
    public required string Name { get; init; }
    public required string Xml { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<ProtectionKeyRow>
    {
        public void Configure(EntityTypeBuilder<ProtectionKeyRow> row) =>
            row.ToTable("protection_keys").HasKey(k => k.Id);
    }
}

/// <summary>A request that was carried out, so that sending it again gives the same answer and does nothing.</summary>
public sealed class IdempotencyRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid MemberId { get; init; }
    public required string Key { get; init; }
    public required string RequestDigest { get; init; }
    public required string Answer { get; init; }
    public required DateTimeOffset CreatedAt { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<IdempotencyRow>
    {
        public void Configure(EntityTypeBuilder<IdempotencyRow> row)
        {
            row.ToTable("idempotency_keys")
                .HasKey(k => new
                {
                    k.WorkspaceId,
                    k.MemberId,
                    k.Key,
                });
            row.Property(k => k.Key).HasMaxLength(200);
            row.Property(k => k.RequestDigest).HasMaxLength(64);
            row.HasIndex(k => new { k.WorkspaceId, k.CreatedAt });
        }
    }
}
