using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>One thing in an area that people get access to.</summary>
public sealed class ResourceRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public Guid AreaId { get; set; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public string About { get; set; } = "";
    public Guid? OwnerId { get; set; }
    public int Version { get; set; } = 1;

    public AccessSubject Subject => AccessSubject.Model;
    public Resource Resource => new(Id, AreaId, Name, OwnerId);

    private sealed class Mapping : IEntityTypeConfiguration<ResourceRow>
    {
        public void Configure(EntityTypeBuilder<ResourceRow> row)
        {
            row.ToTable("resources").HasKey(r => new { r.WorkspaceId, r.Id });
            row.Ignore(r => r.Subject).Ignore(r => r.Resource);
            row.HasIndex(r => new { r.WorkspaceId, r.NameKey }).IsUnique();
            row.HasIndex(r => new { r.WorkspaceId, r.OwnerId })
                .HasDatabaseName("ix_resources_owner")
                .HasFilter("owner_id IS NOT NULL");
            row.Property(r => r.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A member or an organisation that is switched off for a resource.</summary>
public sealed class SwitchedOffRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid HolderId { get; init; }
    public required Guid ResourceId { get; init; }
    public required bool IsOrganisation { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string ByName { get; init; }

    public AccessSubject Subject => AccessSubject.Model;

    private sealed class Mapping : IEntityTypeConfiguration<SwitchedOffRow>
    {
        public void Configure(EntityTypeBuilder<SwitchedOffRow> row)
        {
            row.ToTable("switched_off")
                .HasKey(s => new
                {
                    s.WorkspaceId,
                    s.HolderId,
                    s.ResourceId,
                });
            row.Ignore(s => s.Subject);
            row.HasIndex(s => new { s.WorkspaceId, s.ResourceId });
        }
    }
}
