using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>An invitation by possession of a link.</summary>
public sealed class JoinLinkRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Label { get; set; }
    public required string SecretHash { get; set; }
    public required Kind Kind { get; init; }
    public required string Gives { get; init; }
    public required DateOnly? LastDay { get; init; }
    public required int? StayDays { get; init; }
    public required int Cap { get; set; }

    /// <summary>How many have come in by it, or wait for approval.</summary>
    public int Uses { get; set; }

    /// <summary>Mail domains it is for, one a line; empty for any.</summary>
    public required string Domains { get; init; }
    public required bool NeedsApproval { get; init; }
    public required DateTimeOffset ExpiresAt { get; set; }
    public DateTimeOffset? ClosedAt { get; set; }
    public required string Message { get; init; }
    public required string Language { get; init; }
    public required Guid CreatedBy { get; init; }
    public required string CreatedByName { get; init; }
    public required DateTimeOffset CreatedAt { get; init; }
    public int Version { get; set; } = 1;

    public Bundle Bundle => BundleText.Of(Gives);
    public IReadOnlyList<string> DomainList => Domains.Split('\n', StringSplitOptions.RemoveEmptyEntries);

    public JoinLinkState StateAt(DateTimeOffset now) =>
        JoinLinkRules.StateOf(ClosedAt is not null, Uses, Cap, ExpiresAt, now);

    private sealed class Mapping : IEntityTypeConfiguration<JoinLinkRow>
    {
        public void Configure(EntityTypeBuilder<JoinLinkRow> row)
        {
            row.ToTable("join_links").HasKey(l => new { l.WorkspaceId, l.Id });
            row.Ignore(l => l.DomainList).Ignore(l => l.Bundle);
            row.HasIndex(l => l.SecretHash).IsUnique();
            row.Property(l => l.SecretHash).HasMaxLength(64);
            row.Property(l => l.Label).HasMaxLength(PlainText.LongestName);
            row.Property(l => l.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>What invitations carry again and again, under a name.</summary>
public sealed class PresetRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Name { get; set; }
    public required string NameKey { get; set; }
    public required Kind Kind { get; set; }
    public required string Gives { get; set; }
    public required int? StayDays { get; set; }
    public required string Organisation { get; set; }
    public required string Message { get; set; }
    public required string? Language { get; set; }
    public int Version { get; set; } = 1;

    public Bundle Bundle => BundleText.Of(Gives);

    private sealed class Mapping : IEntityTypeConfiguration<PresetRow>
    {
        public void Configure(EntityTypeBuilder<PresetRow> row)
        {
            row.ToTable("presets").HasKey(p => new { p.WorkspaceId, p.Id });
            row.Ignore(p => p.Bundle);
            row.HasIndex(p => new { p.WorkspaceId, p.NameKey }).IsUnique();
            row.Property(p => p.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A workspace's own wording of a mail in a language.</summary>
public sealed class WordingRow : ITenantRow
{
    public required Guid WorkspaceId { get; init; }
    public required string Letter { get; init; }
    public required string Language { get; init; }
    public required string Subject { get; set; }
    public required string Body { get; set; }

    private sealed class Mapping : IEntityTypeConfiguration<WordingRow>
    {
        public void Configure(EntityTypeBuilder<WordingRow> row)
        {
            row.ToTable("wordings")
                .HasKey(w => new
                {
                    w.WorkspaceId,
                    w.Letter,
                    w.Language,
                });
            row.Property(w => w.Letter).HasMaxLength(20);
            row.Property(w => w.Language).HasMaxLength(20);
        }
    }
}
