using ComeAboard.Core;
using Microsoft.EntityFrameworkCore;
using Microsoft.EntityFrameworkCore.Metadata.Builders;

namespace ComeAboard.Storage.Access;

/// <summary>That people who had a role directly were moved into a group, and what was taken from them for it.</summary>
public sealed class GroupMoveRow : IListedRow
{
    public required Guid WorkspaceId { get; init; }
    public required Guid Id { get; init; }
    public required Guid GroupId { get; init; }
    public required DateTimeOffset At { get; init; }
    public required string ByName { get; init; }
    public DateTimeOffset? UndoneAt { get; set; }

    /// <summary>Who was moved, and what they had, as JSON.</summary>
    public required string Moved { get; init; }

    private sealed class Mapping : IEntityTypeConfiguration<GroupMoveRow>
    {
        public void Configure(EntityTypeBuilder<GroupMoveRow> row)
        {
            row.ToTable("group_moves").HasKey(m => new { m.WorkspaceId, m.Id });
            row.HasIndex(m => new
            {
                m.WorkspaceId,
                m.GroupId,
                m.Id,
            });
            row.Property(m => m.ByName).HasMaxLength(PlainText.LongestName);
        }
    }
}
