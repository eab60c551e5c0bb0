using ComeAboard.Core;
using ComeAboard.Core.Access;
using ComeAboard.Core.Invitations;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Invitations;

/// <summary>An invitation by possession of a link.</summary>
public sealed class JoinLinkRow : IVersionedRow, IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required string Label { get; set; }
    public string SecretHash { get; set; } = "";
    public required Kind Kind { get; init; }
    public required string Gives { get; init; }
    public required DateOnly? LastDay { get; init; }
    public required int? StayDays { get; init; }
    public required int Cap { get; set; }

    /// <summary>How many have come in by it, or wait for approval.</summary>
    public int Uses { get; set; }

    /// <summary>Mail domains it is for, one a line; empty for any.</summary>
    public required string Domains { get; init; }

    /// <summary>Whether whoever made it wants each to be approved; the rules of the house may want it besides.</summary>
    public required bool NeedsApproval { get; init; }
    public required DateTimeOffset ExpiresAt { get; set; }
    public DateTimeOffset? ClosedAt { get; set; }
    public required string Message { get; init; }
    public required string Language { get; init; }

    /// <summary>Who is answerable for it: whoever made it, or renewed it since.</summary>
    public required Guid CreatedBy { get; set; }
    public required string CreatedByName { get; set; }
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
