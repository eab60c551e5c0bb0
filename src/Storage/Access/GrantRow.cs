using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A role given to a member, a group or an organisation.</summary>
public sealed class GrantRow : IAccessRow, IVersionedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required HolderKind HolderKind { get; init; }
    public required Guid HolderId { get; init; }
    public required Guid RoleId { get; set; }
    public Guid? ResourceId { get; init; }
    public DateOnly? FirstDay { get; set; }
    public DateOnly? LastDay { get; set; }
    public required DateTimeOffset GivenAt { get; init; }
    public required string GivenByName { get; init; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject =>
        new(
            HolderKind switch
            {
                HolderKind.Member => AccessSubjectKind.Member,
                HolderKind.Group => AccessSubjectKind.Group,
                _ => AccessSubjectKind.Organisation,
            },
            HolderId
        );

    private sealed class Mapping : IEntityTypeConfiguration<GrantRow>
    {
        public void Configure(EntityTypeBuilder<GrantRow> row)
        {
            row.ToTable("grants").HasKey(g => new { g.WorkspaceId, g.Id });
            row.Ignore(g => g.Subject);
            row.HasIndex(g => new
            {
                g.WorkspaceId,
                g.HolderKind,
                g.HolderId,
            });
            row.HasIndex(g => new { g.WorkspaceId, g.ResourceId })
                .HasDatabaseName("ix_grants_resource")
                .HasFilter("resource_id IS NOT NULL");
            row.HasIndex(g => new { g.WorkspaceId, g.RoleId });
            row.Property(g => g.Version).IsConcurrencyToken();
        }
    }
}
