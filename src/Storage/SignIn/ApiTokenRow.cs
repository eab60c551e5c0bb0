using ComeAboard.Core;
using ComeAboard.Storage.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.SignIn;

/// <summary>A secret by which a program acts as a member of one workspace; kept as a hash.</summary>
public sealed class ApiTokenRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid MemberId { get; init; }
    public required Guid AccountId { get; set; }
    public required string SecretHash { get; init; }
    public required string Label { get; init; }
    public required DateTimeOffset CreatedAt { get; init; }

    /// <summary>The first instant at which it does not count any more (exclusive end).</summary>
    public required DateTimeOffset ExpiresAt { get; init; }
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
