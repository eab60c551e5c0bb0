using ComeAboard.Core.Access;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>A named set of members.</summary>
public sealed class GroupRow : IAccessRow, INamedRow
{
    public Guid WorkspaceId { get; init; }
    public Guid Id { get; init; }
    public string Name { get; set; } = "";
    public string NameKey { get; set; } = "";
    public string About { get; set; } = "";
    public int Version { get; set; } = 1;

    public AccessSubject Subject => new(AccessSubjectKind.Group, Id);

    private sealed class Mapping : IEntityTypeConfiguration<GroupRow>
    {
        public void Configure(EntityTypeBuilder<GroupRow> row)
        {
            row.ToTable("groups").HasKey(g => new { g.WorkspaceId, g.Id });
            row.Ignore(g => g.Subject);
            row.HasIndex(g => new { g.WorkspaceId, g.NameKey }).IsUnique();
            row.Property(g => g.Version).IsConcurrencyToken();
        }
    }
}

/// <summary>A member in a group.</summary>
public sealed class GroupMemberRow : IAccessRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid GroupId { get; init; }
    public required Guid MemberId { get; init; }
    public required DateTimeOffset Since { get; init; }

    public AccessSubject Subject => AccessSubject.Member(MemberId);

    private sealed class Mapping : IEntityTypeConfiguration<GroupMemberRow>
    {
        public void Configure(EntityTypeBuilder<GroupMemberRow> row)
        {
            row.ToTable("group_members")
                .HasKey(g => new
                {
                    g.WorkspaceId,
                    g.GroupId,
                    g.MemberId,
                });
            row.Ignore(g => g.Subject);
            row.HasIndex(g => new { g.WorkspaceId, g.MemberId });
        }
    }
}
